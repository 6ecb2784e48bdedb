import { useEffect, useState } from 'react';
import { within } from '../../client/within.ts';
import { FILTER_WORDS } from '../../core/sheets/filter-tests.ts';
import type { SourcePanelProps } from '../source-form.ts';
import type { Choice } from '../source-module.ts';
import type { FilterValue } from './form.tsx';

/** ", only where "Consent" is yes": the column by the name it has now. */
function filterWords({ column, test, value }: FilterValue, columns: Choice[]): string {
  const name = columns.find((choice) => choice.id === column)?.label ?? 'a column that is gone';
  return `, only where “${name}” ${FILTER_WORDS[test]}${['is_filled', 'is_empty'].includes(test) ? '' : ` “${value}”`}`;
}

export default function SheetPanel({ source, choices }: SourcePanelProps) {
  const { sheetId, tabId, when, fromRow, filter } = source.settings as {
    sheetId: string;
    tabId: string;
    when: 'new' | 'changed';
    fromRow: number;
    filter: FilterValue | null;
  };
  const [columns, setColumns] = useState<Choice[] | null>(null);
  const filtered = filter !== null;
  useEffect(() => {
    if (!filtered) return;
    let gone = false;
    choices({ connection: '', q: tabId, of: 'columns' }).then(
      (page) => {
        if (!gone) setColumns(page.choices);
      },
      () => {},
    );
    return () => {
      gone = true;
    };
  }, [choices, filtered, tabId]);
  return (
    <section className="sheet-card mb-4 p-4">
      <h2 className="mb-1 text-part">The sheet</h2>
      <p>
        {when === 'new' ? 'Each new row once' : 'New and changed rows'}, from row {fromRow} on
        {filter && columns ? filterWords(filter, columns) : ''}.{' '}
        <a className="link" href={within(`/sheets/${sheetId}?tab=${tabId}`)}>
          Open the sheet
        </a>
      </p>
      {source.arrivals === 0 && (
        <p className="mt-1 text-ink-2">
          Type a row in the sheet and it appears here by itself. A row comes in once nobody has typed in it for three
          seconds.
        </p>
      )}
    </section>
  );
}
