import type { RowChange } from '../../app/sheets/sheet-rows.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useQuery } from '../../client/use-query.ts';
import { within } from '../../client/within.ts';
import { exactWords, whenWords } from '../../core/words/instant.ts';
import type { SheetPlace } from './use-order.ts';

const HOW: Record<RowChange['how'], string> = {
  typed: 'typed',
  file: 'from a file',
  step: 'by a workflow',
  removed: 'removed the row',
};

/** Who or what wrote the chosen row, with the way to its run and its lead. */
export function RowPanel({
  tabId,
  row,
  saved,
  place,
}: {
  tabId: string;
  row: { id: string; number: number } | null;
  /** Counts what has been saved: there may be more to show. */
  saved: number;
  place: SheetPlace;
}) {
  const id = row?.id ?? null;
  const asked = useQuery(
    ['row', tabId, id, saved],
    async () => (id === null ? null : { id, changes: await call('GET', `/api/tabs/${tabId}/rows/${id}`) }),
    { first: null, at: 0, live: false },
  );
  // Another row's story is not this one's.
  const changes = asked.value?.id === id ? asked.value.changes : null;
  const lead = changes?.find((change) => change.lead)?.lead;
  return (
    <aside className="sheet-card w-72 shrink-0 overflow-y-auto p-3" aria-label="Who wrote this row">
      <h2 className="mb-2 text-part">{row ? `Row ${row.number}` : 'Who wrote it'}</h2>
      {!row && <p className="text-note text-ink-2">Click a cell to see who or what wrote its row.</p>}
      <Notice told={asked.problem ? { text: asked.problem, good: false } : null} className="text-note" />
      {lead && (
        <p className="mb-2 text-note">
          About{' '}
          <a className="link" href={within(`/leads/${lead.id}`)}>
            {lead.name}
          </a>
        </p>
      )}
      {row && changes?.length === 0 && (
        <p className="text-note text-ink-2">It was written before this was noted down.</p>
      )}
      {changes?.map((change, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a list that is only read
        <div key={i} className="mb-3 border-l-2 border-brass-line pl-2 text-note">
          <p>
            <span className="font-semibold">{change.by}</span>,{' '}
            <time className="text-ink-2" dateTime={change.at} title={exactWords(change.at, place)}>
              {whenWords(change.at, Date.now(), place)}
            </time>
            <span className="text-ink-2">
              , {HOW[change.how]}
              {change.file && ` (${change.file})`}
            </span>
          </p>
          {change.cells.map((cell) => (
            <p key={cell.column} className="break-words">
              <span className="text-ink-2">{cell.column}:</span> {cell.before && <s>{cell.before}</s>}{' '}
              {cell.after || (change.how === 'removed' ? '' : 'emptied')}
            </p>
          ))}
          {change.run && (
            <a className="link" href={within(`/workflows/${change.run.workflowId}/log?run=${change.run.id}`)}>
              The run that wrote it
            </a>
          )}
        </div>
      ))}
    </aside>
  );
}
