import { useEffect, useRef, useState } from 'react';
import { durationWords } from '../../core/words/duration.ts';
import type { SourcePanelProps } from '../source-form.ts';
import { TabChoice } from '../tab-choice.tsx';

interface View {
  state: 'reading' | 'read' | 'ready' | 'running' | 'stopped' | 'done' | 'undone' | 'refused';
  fileName: string;
  problem: string | null;
  rows: number;
  columns: { id: string; name: string; index: number }[];
  headerRow: number | null;
  tab: string | null;
  counts: { good: number; refused: number; duplicate: number; known: number } | null;
  checked: boolean;
  workflowName: string | null;
  perMinute: number;
  done: number;
  total: number;
  startedAt: string | null;
  workflows: { id: string; name: string }[];
  lists: { id: string; name: string; asks: boolean }[];
  listName: string | null;
  messages: number;
}
interface Row {
  n: number;
  cells: string[];
  verdict: 'unknown' | 'good' | 'known' | 'duplicate' | 'refused';
  problem: string | null;
}

const VERDICTS = {
  unknown: { label: 'Not looked at', tone: '' },
  good: { label: 'New', tone: 'good' },
  known: { label: 'Known already', tone: '' },
  duplicate: { label: 'Twice in the file', tone: 'warn' },
  refused: { label: 'Cannot be taken', tone: 'bad' },
} as const;
const count = (n: number) => n.toLocaleString('en');

/** What is in the file, what is to be done with it, and how far that has come. */
export default function ImportDesk({ source, ask }: SourcePanelProps) {
  const [view, setView] = useState<View | null>(null);
  const [rows, setRows] = useState<Row[]>([]);
  const [shown, setShown] = useState('');
  const [workflowId, setWorkflowId] = useState('');
  const [perMinute, setPerMinute] = useState(60);
  const [withDuplicates, setWithDuplicates] = useState(false);
  const [listId, setListId] = useState('');
  const [proven, setProven] = useState(false);
  const [asking, setAsking] = useState<'start' | 'undo' | null>(null);
  const [problem, setProblem] = useState('');
  const [now, setNow] = useState(0);
  // The list this import was begun for, where it was.
  useEffect(() => setListId(new URLSearchParams(location.search).get('list') ?? ''), []);
  const latest = useRef(ask);
  useEffect(() => {
    latest.current = ask;
  });
  useEffect(() => {
    let gone = false;
    let timer: ReturnType<typeof setTimeout>;
    const look = async () => {
      const [fresh, some] = await Promise.all([
        latest.current<View | null>('GET', 'import'),
        latest.current<Row[]>('GET', `import/rows?verdict=${shown}`),
      ]).catch(() => [null, null] as const);
      if (gone) return;
      if (fresh) setView(fresh);
      if (some) setRows(some);
      setNow(Date.now());
      const busy =
        fresh &&
        (['reading', 'running'].includes(fresh.state) ||
          (source.state === 'live' && !fresh.checked && fresh.state !== 'undone'));
      timer = setTimeout(() => void look(), busy ? 700 : 4000);
    };
    void look();
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [shown, source.state]);
  if (!view) return <p className="sheet-card p-4 text-ink-2">No file yet.</p>;
  const act = (path: string, body?: unknown) =>
    ask<View>('POST', path, body ?? {}).then(
      (fresh) => {
        setView(fresh);
        setAsking(null);
        setProblem('');
      },
      (error: unknown) => setProblem(error instanceof Error ? error.message : String(error)),
    );
  const { counts } = view;
  const fresh = (counts?.good ?? 0) + (withDuplicates ? (counts?.duplicate ?? 0) : 0);
  const left = view.state === 'stopped' ? view.total - view.done : fresh;
  const list = view.lists.find((one) => one.id === listId);
  const workflow = view.workflows.find((one) => one.id === workflowId);
  const took = view.startedAt && view.done > 0 ? now - Date.parse(view.startedAt) : 0;
  const remaining =
    view.workflowName !== null
      ? ((view.total - view.done) / view.perMinute) * 60_000
      : took > 0
        ? (took / view.done) * (view.total - view.done)
        : 0;
  return (
    <section className="sheet-card p-4" aria-label="The import" data-testid="import">
      <h2 className="mb-2 text-part">{view.fileName}</h2>
      {view.state === 'reading' && <p className="text-ink-2">The file is being read …</p>}
      {view.problem && <p className={`notice mb-3 ${view.state === 'refused' ? 'bad' : ''}`}>{view.problem}</p>}
      {source.state !== 'live' && ['read', 'ready', 'refused'].includes(view.state) && (
        <TabChoice ask={ask} chosen={view.tab ?? ''} onChoose={(tab) => void act('import/header', { tab })} />
      )}
      {counts && (
        <dl className="mb-3 flex flex-wrap gap-x-8 gap-y-1">
          {(
            [
              [view.rows, 'rows'],
              [counts.good - counts.known, 'new people'],
              [counts.known, 'known already'],
              [counts.duplicate, 'twice in the file'],
              [counts.refused, 'cannot be taken'],
            ] as const
          ).map(([n, label]) => (
            <div key={label}>
              <dd className="font-head text-xl font-semibold">{count(n)}</dd>
              <dt className="text-note text-ink-2">{label}</dt>
            </div>
          ))}
        </dl>
      )}
      {source.state !== 'live' && view.state !== 'reading' && view.state !== 'refused' && (
        <p className="text-ink-2">Say below which column is which; then every row is looked at.</p>
      )}
      {source.state === 'live' && ['read', 'ready'].includes(view.state) && !view.checked && (
        <p className="text-ink-2">Every row is being looked at …</p>
      )}
      {(view.state === 'running' || view.state === 'stopped' || view.state === 'done') && (
        <div className="mb-3">
          <progress
            className="progress progress-primary"
            max={view.total || 1}
            value={view.done}
            aria-label="How far the import has come"
          />
          <p className="text-note text-ink-2" data-testid="import-progress">
            {count(view.done)} of {count(view.total)} brought in
            {view.workflowName && `, "${view.workflowName}" runs for each`}
            {view.listName && `, then onto ${view.listName}`}
            {view.state === 'running' && remaining > 1000 && `, about ${durationWords(remaining)} to go`}
            {view.state === 'done' && '. Done.'}
            {view.state === 'stopped' && '. Stopped.'}
          </p>
        </div>
      )}
      {view.state === 'undone' && (
        <p className="notice mb-3">
          Undone. The leads it made are gone; people who were leads before are still there
          {view.messages > 0 && `, and so are those ${count(view.messages)} messages have gone to`}.
        </p>
      )}
      {((view.state === 'ready' && view.checked) || view.state === 'stopped') && (
        <div className="mb-3 rounded-lg bg-base-200 p-3">
          <label className="mb-2 flex items-start gap-2">
            <input
              type="radio"
              className="radio radio-sm mt-0.5"
              name="what"
              checked={workflowId === ''}
              onChange={() => setWorkflowId('')}
            />
            <span>
              Only record them
              <span className="block text-note text-ink-2">They become leads; nobody is written to.</span>
            </span>
          </label>
          <label className="mb-2 flex items-start gap-2">
            <input
              type="radio"
              className="radio radio-sm mt-0.5"
              name="what"
              checked={workflowId !== ''}
              disabled={view.workflows.length === 0}
              onChange={() => setWorkflowId(view.workflows[0]?.id ?? '')}
            />
            <span className="flex flex-wrap items-center gap-2">
              Run a workflow for each
              {workflowId !== '' && (
                <>
                  <select
                    className="select select-sm"
                    style={{ width: 240 }}
                    aria-label="Which workflow"
                    value={workflowId}
                    onChange={(event) => setWorkflowId(event.target.value)}
                  >
                    {view.workflows.map((one) => (
                      <option key={one.id} value={one.id}>
                        {one.name}
                      </option>
                    ))}
                  </select>
                  at most
                  <input
                    className="input input-sm"
                    style={{ width: 80 }}
                    type="number"
                    min={1}
                    max={600}
                    aria-label="People a minute"
                    value={perMinute}
                    onChange={(event) => setPerMinute(Number(event.target.value))}
                  />
                  a minute, between 08:00 and 21:00
                </>
              )}
            </span>
          </label>
          {view.lists.length > 0 && (
            <div className="mb-2 flex flex-wrap items-center gap-2">
              Once all are in, put them on
              <select
                className="select select-sm"
                style={{ width: 220 }}
                aria-label="Which list"
                value={list?.id ?? ''}
                onChange={(event) => setListId(event.target.value)}
              >
                <option value="">no list</option>
                {view.lists.map((one) => (
                  <option key={one.id} value={one.id}>
                    {one.name}
                  </option>
                ))}
              </select>
              {list?.asks && (
                <label className="flex items-center gap-2 text-note">
                  <input
                    type="checkbox"
                    className="checkbox checkbox-sm"
                    checked={proven}
                    onChange={(event) => setProven(event.target.checked)}
                  />
                  They have agreed already: do not ask them to confirm
                </label>
              )}
              {list && (
                <span className="text-note text-ink-2">
                  Who has left it stays off; its sequences begin for the others.
                </span>
              )}
            </div>
          )}
          {view.state === 'ready' && (counts?.duplicate ?? 0) > 0 && (
            <label className="mb-2 flex items-center gap-2 text-note">
              <input
                type="checkbox"
                className="checkbox checkbox-sm"
                checked={withDuplicates}
                onChange={(event) => setWithDuplicates(event.target.checked)}
              />
              Take rows of somebody who stands further up as well
            </label>
          )}
          {asking === 'start' ? (
            <div className="notice">
              <p className="mb-2">
                {workflow
                  ? `"${workflow.name}" will run for ${count(left)} people, and they will be written to as it says. This cannot be called back.`
                  : `${count(left)} people will be recorded as leads. ${list ? '' : 'Nobody is written to, and you can undo it.'}`}
                {list &&
                  ` Then they are put on ${list.name}${list.asks && !proven ? ', and asked by email to confirm' : ''}.`}
              </p>
              <button
                type="button"
                className="btn btn-primary btn-sm mr-2"
                onClick={() =>
                  void act('import', {
                    workflowId: workflowId || null,
                    listId: list?.id ?? null,
                    proven,
                    perMinute,
                    withDuplicates,
                    count: left,
                  })
                }
              >
                {workflow ? `Run it for ${count(left)} people` : `Record ${count(left)} people`}
              </button>
              <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsking(null)}>
                Not now
              </button>
            </div>
          ) : (
            <button
              type="button"
              className="btn btn-primary btn-sm"
              disabled={left === 0}
              onClick={() => setAsking('start')}
            >
              {view.state === 'stopped' ? `Go on with ${count(left)} people` : `Bring in ${count(left)} people`}
            </button>
          )}
        </div>
      )}
      {problem && (
        <p className="notice bad mb-3" role="alert">
          {problem}
        </p>
      )}
      <div className="mb-3 flex flex-wrap gap-2">
        {view.state === 'running' && (
          <button type="button" className="btn btn-plain btn-sm" onClick={() => void act('import/stop')}>
            Stop
          </button>
        )}
        {(view.state === 'done' || view.state === 'stopped') && view.done > 0 && asking !== 'undo' && (
          <button type="button" className="btn btn-plain btn-sm" onClick={() => setAsking('undo')}>
            Undo the import
          </button>
        )}
        {counts && counts.refused + counts.duplicate > 0 && (
          <a className="btn btn-plain btn-sm" href={`/api/sources/${source.id}/import/file`}>
            Rows that were not taken, with the reasons (CSV)
          </a>
        )}
      </div>
      {asking === 'undo' && (
        <div className="notice mb-3">
          <p className="mb-2">
            The leads this import made are removed, {count(view.done)} at most.
            {view.messages > 0 &&
              ` ${count(view.messages)} messages have gone out already; the people they went to stay.`}
          </p>
          <button type="button" className="btn btn-primary btn-sm mr-2" onClick={() => void act('import/undo')}>
            Undo it
          </button>
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsking(null)}>
            Keep it
          </button>
        </div>
      )}
      {rows.length > 0 && (
        <>
          <div className="mb-1 flex flex-wrap items-center gap-3">
            <h3 className="text-note text-ink-2">In the file</h3>
            {counts && (
              <select
                className="select select-xs"
                style={{ width: 170 }}
                aria-label="Which rows"
                value={shown}
                onChange={(event) => setShown(event.target.value)}
              >
                <option value="">All rows</option>
                {(['good', 'known', 'duplicate', 'refused'] as const).map((verdict) => (
                  <option key={verdict} value={verdict}>
                    {VERDICTS[verdict].label}
                  </option>
                ))}
              </select>
            )}
            {source.state !== 'live' && (
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
          <div className="overflow-x-auto">
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
          </div>
        </>
      )}
    </section>
  );
}
