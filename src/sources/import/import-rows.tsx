import type { SourcePanelProps } from '../source-form.ts';
import type { ImportRow, ImportView } from './import-view.ts';

const VERDICTS = {
  unknown: { label: 'Not looked at', tone: '' },
  good: { label: 'New', tone: 'good' },
  known: { label: 'Known already', tone: '' },
  duplicate: { label: 'Twice in the file', tone: 'warn' },
  refused: { label: 'Cannot be taken', tone: 'bad' },
} as const;

/** Rows of the file, as many as can be looked over, and what each is. */
export function ImportRows({
  view,
  rows,
  shown,
  onShown,
  ask,
  live,
}: {
  view: ImportView;
  rows: readonly ImportRow[];
  /** The verdict looked at; empty for all. */
  shown: string;
  onShown: (verdict: string) => void;
  ask: SourcePanelProps['ask'];
  live: boolean;
}) {
  const { counts } = view;
  if (rows.length === 0 && shown === '') return null;
  return (
    <>
      <div className="mb-1 flex flex-wrap items-center gap-3">
        <h3 className="text-note text-ink-2">In the file</h3>
        {counts && (
          <select
            className="select select-xs"
            style={{ width: 170 }}
            aria-label="Which rows"
            value={shown}
            onChange={(event) => onShown(event.target.value)}
          >
            <option value="">All rows</option>
            {(['good', 'known', 'duplicate', 'refused'] as const).map((verdict) => (
              <option key={verdict} value={verdict}>
                {VERDICTS[verdict].label}
              </option>
            ))}
          </select>
        )}
        {!live && (
          <label className="ml-auto flex items-center gap-2 text-note">
            Column names stand in row
            <input
              className="input input-xs"
              style={{ width: 60 }}
              type="number"
              min={0}
              key={view.headerRow ?? 0}
              defaultValue={view.headerRow ?? 0}
              onBlur={(event) => {
                const row = Number(event.target.value) || null;
                if (row !== view.headerRow) void ask('POST', 'import/header', { row });
              }}
            />
          </label>
        )}
      </div>
      {rows.length === 0 && <p className="text-ink-2">None of that kind.</p>}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls sideways has to be reached by keyboard (WCAG 2.1.1). */}
      <section className="overflow-x-auto" aria-label="Rows of the file" tabIndex={0}>
        <table className="table table-xs">
          <thead>
            <tr>
              <th>Row</th>
              {view.columns.slice(0, 8).map((column) => (
                <th key={column.id}>{column.name}</th>
              ))}
              {counts && <th>What it is</th>}
            </tr>
          </thead>
          <tbody>
            {rows.slice(0, 50).map((row) => (
              <tr key={row.n}>
                <td className="text-ink-2">{row.n}</td>
                {view.columns.slice(0, 8).map((column) => (
                  <td key={column.id} className="max-w-48 truncate">
                    {row.cells[column.index] ?? ''}
                  </td>
                ))}
                {counts && (
                  <td>
                    <span className={`pill ${VERDICTS[row.verdict].tone}`}>{VERDICTS[row.verdict].label}</span>
                    {row.problem && <span className="block text-xs text-ink-2">{row.problem}</span>}
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </>
  );
}
