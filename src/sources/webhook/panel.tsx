import { useState } from 'react';
import { AddressPanel } from '../../components/AddressPanel.tsx';
import { CopyLine } from '../../components/CopyLine.tsx';
import { OneOf } from '../../components/SetupForm.tsx';
import type { SourcePanelProps } from '../source-form.ts';

const EXAMPLE = [
  { name: 'Nadia Okafor', email: 'nadia@example.com', contact_number: '07700 900142' },
  { name: 'Piers Aldane', email: 'piers@example.com', contact_number: '07700 900143' },
];

/** Both ways of reading a list, as they would come out of the same body. */
function ListPreview({ lists }: { lists: 'each' | 'whole' }) {
  const cards =
    lists === 'each'
      ? EXAMPLE.map((item) => Object.entries(item))
      : [EXAMPLE.flatMap((item, i) => Object.entries(item).map(([key, value]) => [`${i + 1}.${key}`, value]))];
  return (
    <div className="mb-3 grid grid-cols-2 gap-2" data-testid="list-preview">
      {cards.map((card) => (
        <dl key={card[0]![1]} className="rounded-lg bg-base-200 p-2 text-xs">
          {card.map(([key, value]) => (
            <div key={key} className="flex gap-2">
              <dt className="shrink-0 text-ink-2">{key}</dt>
              <dd className="truncate">{value}</dd>
            </div>
          ))}
        </dl>
      ))}
    </div>
  );
}

export default function WebhookPanel({ source, change, ask }: SourcePanelProps) {
  const lists = source.settings.lists === 'whole' ? 'whole' : 'each';
  const [shown, setShown] = useState<'each' | 'whole'>(lists);
  const example = `curl -X POST ${source.address} \\\n  -H 'content-type: application/json' \\\n  -d '${JSON.stringify(EXAMPLE[0])}'`;
  return (
    <AddressPanel source={source} ask={ask} about="The application sends each lead here: JSON, form fields or XML.">
      <details className="mb-2">
        <summary className="cursor-pointer text-note text-ink-2">An example to try in a terminal</summary>
        <div className="mt-1">
          <CopyLine text={example} what="Example" />
        </div>
      </details>
      <details className="mb-2">
        <summary className="cursor-pointer text-note text-ink-2">
          When it sends a list: {lists === 'each' ? 'one lead for each item' : 'one lead in all'}
        </summary>
        <div className="mt-2">
          <OneOf
            label="A list of two people sent at once becomes"
            value={shown}
            options={[
              ['each', 'Two arrivals, one for each item'],
              ['whole', 'One arrival, its fields numbered'],
            ]}
            onChange={setShown}
          />
          <ListPreview lists={shown} />
          {shown !== lists && (
            <button type="button" className="btn btn-plain btn-sm" onClick={() => void change({ lists: shown })}>
              Take lists like this from now on
            </button>
          )}
        </div>
      </details>
    </AddressPanel>
  );
}
