import { useEffect, useRef, useState } from 'react';
import { within } from '../../client/within.ts';
import { durationWords } from '../../core/words/duration.ts';
import type { SourcePanelProps } from '../source-form.ts';
import { TabChoice } from '../tab-choice.tsx';
import { ImportRows } from './import-rows.tsx';
import { ImportStart } from './import-start.tsx';
import { count, type ImportRow, type ImportView, isBusy, peopleToBring, remainingMs } from './import-view.ts';

/** What the import is like now, looked at as often as it moves. */
function useImport({ source, ask }: SourcePanelProps, shown: string) {
  const [view, setView] = useState<ImportView | null>(null);
  const [rows, setRows] = useState<ImportRow[]>([]);
  const [now, setNow] = useState(0);
  const latest = useRef(ask);
  useEffect(() => {
    latest.current = ask;
  });
  useEffect(() => {
    let gone = false;
    let timer: ReturnType<typeof setTimeout>;
    const look = async () => {
      const [fresh, some] = await Promise.all([
        latest.current<ImportView | null>('GET', 'import'),
        latest.current<ImportRow[]>('GET', `import/rows?verdict=${shown}`),
      ]).catch(() => [null, null] as const);
      if (gone) return;
      if (fresh) setView(fresh);
      if (some) setRows(some);
      setNow(Date.now());
      timer = setTimeout(() => void look(), fresh && isBusy(fresh, source.state === 'live') ? 700 : 4000);
    };
    void look();
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [shown, source.state]);
  return { view, setView, rows, now };
}

/** What is in the file, what is to be done with it, and how far that has come. */
export default function ImportTab(props: SourcePanelProps) {
  const { source, ask } = props;
  const [shown, setShown] = useState('');
  const { view, setView, rows, now } = useImport(props, shown);
  const [problem, setProblem] = useState('');
  const [listId, setListId] = useState('');
  // The list this import was begun for, where it was.
  useEffect(() => setListId(new URLSearchParams(location.search).get('list') ?? ''), []);
  if (!view) return <p className="sheet-card p-4 text-ink-2">No file yet.</p>;
  const live = source.state === 'live';
  const act = (path: string, body?: unknown) =>
    ask<ImportView>('POST', path, body ?? {}).then(
      (fresh) => {
        setView(fresh);
        setProblem('');
      },
      (error: unknown) => setProblem(error instanceof Error ? error.message : String(error)),
    );
  return (
    <section className="sheet-card p-4" aria-label="The import" data-testid="import">
      <h2 className="mb-2 text-part">{view.fileName}</h2>
      {view.state === 'reading' && <p className="text-ink-2">The file is being read …</p>}
      {view.problem && <p className={`notice mb-3 ${view.state === 'refused' ? 'bad' : ''}`}>{view.problem}</p>}
      {!live && ['read', 'ready', 'refused'].includes(view.state) && (
        <TabChoice ask={ask} chosen={view.tab ?? ''} onChoose={(tab) => void act('import/header', { tab })} />
      )}
      <Totals view={view} />
      {!live && view.state !== 'reading' && view.state !== 'refused' && (
        <p className="text-ink-2">Say below which column is which; then every row is looked at.</p>
      )}
      {live && ['read', 'ready'].includes(view.state) && !view.checked && (
        <p className="text-ink-2">Every row is being looked at …</p>
      )}
      <Progress view={view} now={now} />
      {((view.state === 'ready' && view.checked) || view.state === 'stopped') && (
        <ImportStart
          key={`${view.state} ${listId}`}
          view={view}
          listId={listId}
          onStart={({ workflowId, listId: list, ...rest }) =>
            void act('import', {
              ...rest,
              workflowId: workflowId || null,
              listId: list || null,
              count: peopleToBring(view, rest.withDuplicates),
            })
          }
        />
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
        {view.counts && view.counts.refused + view.counts.duplicate > 0 && (
          <a className="btn btn-plain btn-sm" href={within(`/api/sources/${source.id}/import/file`)}>
            Rows that were not taken, with the reasons (CSV)
          </a>
        )}
        {(view.state === 'done' || view.state === 'stopped') && view.done > 0 && (
          <Undo view={view} onUndo={() => void act('import/undo')} />
        )}
      </div>
      <ImportRows view={view} rows={rows} shown={shown} onShown={setShown} ask={ask} live={live} />
    </section>
  );
}

function Totals({ view: { counts, rows } }: { view: ImportView }) {
  if (!counts) return null;
  const totals = [
    [rows, 'rows'],
    [counts.good - counts.known, 'new people'],
    [counts.known, 'known already'],
    [counts.duplicate, 'twice in the file'],
    [counts.refused, 'cannot be taken'],
  ] as const;
  return (
    <dl className="mb-3 flex flex-wrap gap-x-8 gap-y-1">
      {totals.map(([n, label]) => (
        <div key={label}>
          <dd className="font-head text-xl font-semibold">{count(n)}</dd>
          <dt className="text-note text-ink-2">{label}</dt>
        </div>
      ))}
    </dl>
  );
}

function Progress({ view, now }: { view: ImportView; now: number }) {
  if (view.state === 'undone')
    return (
      <p className="notice mb-3">
        Undone. The leads it made are gone; people who were leads before are still there
        {view.messages > 0 && `, and so are those ${count(view.messages)} messages have gone to`}.
      </p>
    );
  if (view.state !== 'running' && view.state !== 'stopped' && view.state !== 'done') return null;
  const remaining = remainingMs(view, now);
  return (
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
  );
}

/** Takes out again what the import made; asked once more. */
function Undo({ view, onUndo }: { view: ImportView; onUndo: () => void }) {
  const [asking, setAsking] = useState(false);
  if (!asking)
    return (
      <button type="button" className="btn btn-plain btn-sm" onClick={() => setAsking(true)}>
        Undo the import
      </button>
    );
  return (
    <div className="notice w-full">
      <p className="mb-2">
        The leads this import made are removed, {count(view.done)} at most.
        {view.messages > 0 && ` ${count(view.messages)} messages have gone out already; the people they went to stay.`}
      </p>
      <button type="button" className="btn btn-primary btn-sm mr-2" onClick={onUndo}>
        Undo it
      </button>
      <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsking(false)}>
        Keep it
      </button>
    </div>
  );
}
