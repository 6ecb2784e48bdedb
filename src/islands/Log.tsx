import Search from 'lucide-react/icons/search';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { LogFilter, RunRow, RunView } from '../app/workflows/log.ts';
import { ReplyTime, StatePill } from '../components/run-state.tsx';
import { exactWords, type Place, whenWords } from '../core/words/instant.ts';
import { call } from './call.ts';
import { RunDetail } from './RunDetail.tsx';
import { useLive } from './use-live.ts';

interface Page {
  rows: RunRow[];
  more: boolean;
}

interface Props {
  workflowId: string;
  list: Page;
  run: RunView | null;
  search: string;
  show: LogFilter;
  place: Place;
  now: number;
}

const FILTERS: Record<LogFilter, string> = {
  all: 'All outcomes',
  needs_you: 'Needs you',
  done: 'Done',
  active: 'Under way',
  stopped: 'Stopped',
  known: 'Known, not repeated',
};

/** The log: the list of runs, and inside a run what every step got, did and answered. */
export default function Log({
  workflowId,
  list: firstList,
  run: firstRun,
  search: firstSearch,
  show: firstShow,
  place,
  now: loadedAt,
}: Props) {
  const [list, setList] = useState(firstList);
  const [run, setRun] = useState(firstRun);
  const [search, setSearch] = useState(firstSearch);
  const [show, setShow] = useState(firstShow);
  const [now, setNow] = useState(loadedAt);
  const asked = useRef(0);
  const typed = useRef(false);

  const load = useCallback(async () => {
    const turn = ++asked.current;
    const query = new URLSearchParams({ search, show });
    const page = await call('GET', `/api/workflows/${workflowId}/runs?${query}`).catch(() => null);
    if (page && turn === asked.current) {
      setList(page);
      setNow(Date.now());
    }
  }, [workflowId, search, show]);

  const open = useCallback(
    async (runId: string) => {
      const fresh = await call('GET', `/api/workflows/${workflowId}/runs/${runId}`).catch(() => null);
      if (fresh) setRun(fresh);
    },
    [workflowId],
  );

  useEffect(() => {
    if (!typed.current) return;
    const timer = setTimeout(() => void load(), 250);
    return () => clearTimeout(timer);
  }, [load]);
  useEffect(() => {
    // The address bar remembers the choice.
    const query = new URLSearchParams();
    if (search) query.set('search', search);
    if (show !== 'all') query.set('show', show);
    if (run) query.set('run', run.id);
    history.replaceState(null, '', `${location.pathname}${query.size ? `?${query}` : ''}`);
  }, [search, show, run]);
  useLive(() => {
    void load();
    if (run) void open(run.id);
  });

  const more = async () => {
    const query = new URLSearchParams({ search, show, before: list.rows.at(-1)!.id });
    const page = await call('GET', `/api/workflows/${workflowId}/runs?${query}`);
    setList({ rows: [...list.rows, ...page.rows], more: page.more });
  };
  return (
    <div className="grid h-full min-h-0 grid-cols-[400px_minmax(0,1fr)] max-md:grid-cols-1">
      <section className="flex min-h-0 flex-col border-r border-base-300 bg-base-100" aria-label="Runs">
        <div className="flex gap-2 border-b border-base-300 p-2.5">
          <label className="input input-sm grow">
            <Search className="size-4 text-ink-3" aria-hidden="true" />
            <input
              value={search}
              placeholder="Name, phone or email"
              aria-label="Search"
              onChange={(event) => {
                typed.current = true;
                setSearch(event.target.value);
              }}
            />
          </label>
          <select
            className="select select-sm !w-36"
            aria-label="Outcome"
            value={show}
            onChange={(event) => {
              typed.current = true;
              setShow(event.target.value as LogFilter);
            }}
          >
            {Object.entries(FILTERS).map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </select>
        </div>
        <ul className="min-h-0 grow overflow-y-auto" data-testid="runs">
          {list.rows.length === 0 && (
            <li className="p-6 text-ink-2">
              {search || show !== 'all'
                ? 'Nothing fits this search.'
                : 'No lead has come through yet. Put the workflow live, fill in the form, and watch it go through here.'}
            </li>
          )}
          {list.rows.map((row) => (
            <li key={row.id} className="border-b border-base-300">
              <button
                type="button"
                aria-pressed={row.id === run?.id}
                className={`block w-full px-3.5 py-2 text-left ${row.id === run?.id ? 'bg-pine-soft' : 'hover:bg-base-200'}`}
                onClick={() => void open(row.id)}
              >
                <span className="flex items-center justify-between gap-2">
                  <span className="truncate font-semibold">{row.name}</span>
                  <StatePill state={row.state} outcome={row.outcome} />
                </span>
                <span className="flex justify-between gap-2 text-[13px] text-ink-2">
                  <span className="truncate">
                    {row.sourceName}
                    {row.again ? ', again by hand' : ''},{' '}
                    <time dateTime={row.createdAt} title={exactWords(row.createdAt, place)}>
                      {whenWords(row.createdAt, now, place)}
                    </time>
                  </span>
                  <ReplyTime ms={row.replyMs} />
                </span>
              </button>
            </li>
          ))}
          {list.more && (
            <li className="p-3 text-center">
              <button type="button" className="btn btn-plain btn-sm" onClick={() => void more()}>
                Show older ones
              </button>
            </li>
          )}
        </ul>
      </section>
      <main className="min-h-0 overflow-y-auto p-4">
        {run ? (
          <RunDetail
            run={run}
            place={place}
            onDone={(next) => {
              void load();
              void open(next ?? run.id);
            }}
          />
        ) : (
          <p className="p-6 text-ink-2">Choose a run on the left to see what happened.</p>
        )}
      </main>
    </div>
  );
}
