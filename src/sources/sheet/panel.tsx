import { FILTER_WORDS } from '../../core/sheets/filter-tests.ts';
import type { SourcePanelProps } from '../source-form.ts';
import type { FilterValue } from './form.tsx';

export default function SheetPanel({ source }: SourcePanelProps) {
  const { sheetId, tabId, when, fromRow, filter } = source.settings as {
    sheetId: string;
    tabId: string;
    when: 'new' | 'changed';
    fromRow: number;
    filter: FilterValue | null;
  };
  return (
    <section className="sheet-card mb-4 p-4">
      <h2 className="mb-1 text-[15px]">The sheet</h2>
      <p>
        {when === 'new' ? 'Each new row once' : 'New and changed rows'}, from row {fromRow} on
        {filter ? `, only where a column ${FILTER_WORDS[filter.test]} ${filter.value}` : ''}.{' '}
        <a className="link" href={`/sheets/${sheetId}?tab=${tabId}`}>
          Open the sheet
        </a>
      </p>
      {source.arrivals === 0 && (
        <p className="mt-1 text-ink-2">
          Type a row, or fetch the newest there is. A row comes in once nobody has typed in it for three seconds.
        </p>
      )}
    </section>
  );
}
