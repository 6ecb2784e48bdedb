import { useEffect, useRef, useState } from 'react';
import { Choice } from '../components/fields.tsx';
import type { SourcePanelProps } from './source-form.ts';

interface Tab {
  id: string;
  name: string;
  hidden: boolean;
}

/** Which tab of the newest file is read. Shown only when there is a choice. */
export function TabChoice({
  ask,
  chosen,
  onChoose,
}: Pick<SourcePanelProps, 'ask'> & { chosen: string; onChoose: (name: string) => void }) {
  const [tabs, setTabs] = useState<Tab[]>([]);
  const latest = useRef(ask);
  useEffect(() => {
    latest.current = ask;
  });
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked anew once another file or tab has been read.
  useEffect(() => {
    let gone = false;
    latest.current<Tab[]>('GET', 'tabs').then(
      (found) => {
        if (!gone) setTabs(found);
      },
      () => {},
    );
    return () => {
      gone = true;
    };
  }, [chosen]);
  if (tabs.length < 2) return null;
  return (
    <Choice label="Tab that is read" block="mb-2 block" small value={chosen} onChange={onChoose}>
      {tabs.map((tab) => (
        <option key={tab.id} value={tab.name}>
          {tab.name}
          {tab.hidden ? ' (hidden in the workbook)' : ''}
        </option>
      ))}
    </Choice>
  );
}
