import { type ReactNode, useState } from 'react';
import type { SourceView } from '../../app/sources/sources.ts';
import { Tabs } from '../../client/Tabs.tsx';
import { sourceScreens } from '../../sources/forms.ts';
import type { SourcePanelProps } from '../../sources/source-form.ts';
import { Beside } from './Beside.tsx';
import type { Learnt } from './caught.ts';
import { FieldTable } from './FieldTable.tsx';
import { SourceSettings } from './SourceSettings.tsx';

interface Props {
  source: SourceView;
  learnt: Learnt;
  /** What the kind's own part is given. */
  shared: SourcePanelProps;
  /** The kind's own panel, beside what is made here as long as nothing has come in. */
  panel: ReactNode;
  /** What came in, the one chosen of it, and the lead card; null while nothing has come in. */
  left: ReactNode;
  arrival: ReactNode;
  card: ReactNode;
  onSettings: Parameters<typeof SourceSettings>[0]['onSave'];
}

/** The parts of a source that is set up, one at a time. */
export function SourceParts({ source, learnt, shared, panel, left, arrival, card, onSettings }: Props) {
  const wide = sourceScreens[source.kind]?.tab;
  // What is made here is made first; once something has come in, that is what one comes for.
  const [tab, setTab] = useState(wide && (wide.first || source.arrivals === 0) ? wide.name : 'Arrivals');
  const tabs = [
    ...(wide?.first ? [wide.name] : []),
    'Arrivals',
    ...(wide && !wide.first ? [wide.name] : []),
    ...(source.brings === 'people' ? ['Lead card'] : []),
    'Fields',
    'Settings',
  ];
  return (
    <Tabs
      label="Parts of this source"
      tabs={tabs.map((name) => [name, name] as const)}
      chosen={tab}
      onChoose={setTab}
      className="mb-3 flex gap-1 border-b border-base-300"
      tabClass={(on) =>
        `-mb-px border-b-2 px-3 py-1.5 font-medium ${on ? 'border-primary' : 'border-transparent text-ink-2 hover:text-base-content'}`
      }
    >
      {tab === 'Arrivals' && <Beside left={left}>{arrival}</Beside>}
      {wide && tab === wide.name && (
        <>
          {source.arrivals === 0 && !wide.first && panel}
          <wide.content {...shared} />
        </>
      )}
      {tab === 'Lead card' && (card ?? <p className="text-ink-2">Nothing has come in yet.</p>)}
      {tab === 'Fields' && <FieldTable fields={learnt.fields} card={source.card} />}
      {tab === 'Settings' && <SourceSettings source={source} onSave={onSettings} />}
    </Tabs>
  );
}
