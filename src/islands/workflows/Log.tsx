import ChevronLeft from 'lucide-react/icons/chevron-left';
import Search from 'lucide-react/icons/search';
import { useEffect, useState } from 'react';
import type { RunView } from '../../app/workflows/get-run.ts';
import type { LogFilter, RunRow } from '../../app/workflows/list-runs.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { withOlder } from '../../client/pages.ts';
import { useAction } from '../../client/use-action.ts';
import { useDebounced } from '../../client/use-debounced.ts';
import { useQuery } from '../../client/use-query.ts';
import { nextOf, useSingleKeys } from '../../client/use-single-keys.ts';
import { ReplyTime, StatePill } from '../../components/run-state.tsx';
import { exactWords, type Place, whenWords } from '../../core/words/instant.ts';
import { RunDetail } from './RunDetail.tsx';

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
  const [search, setSearch] = useState(firstSearch);
  const [show, setShow] = useState(firstShow);
  const [runId, setRunId] = useState(firstRun?.id ?? null);
  const typed = useDebounced(search);
  const page = useQuery(
    ['runs', workflowId, typed, show],
    () => call('GET', `/api/workflows/${workflowId}/runs?${new URLSearchParams({ search: typed, show })}`),
    { first: firstList, at: loadedAt },
  );
  const opened = useQuery(
    ['run', workflowId, runId],
    async () => (runId ? call('GET', `/api/workflows/${workflowId}/runs/${runId}`) : null),
    { first: firstRun, at: loadedAt },
  );
  const now = page.at;
  // Nobody is to take one person's run for another's: until it has come nothing is shown.
  const run = opened.value?.id === runId ? opened.value : null;
  /** What was asked for beyond the newest page, of this very search. */
  const [older, setOlder] = useState<{ of: string; page: Page } | null>(null);
  const of = `${typed}\n${show}`;
  const beyond = older?.of === of ? older.page : null;
  const list = {
    rows: beyond ? withOlder(page.value.rows, beyond.rows, (runRow) => runRow.id) : page.value.rows,
    more: beyond?.more ?? page.value.more,
  };
  const { act, busy, told } = useAction();

  useEffect(() => {
    // The address bar remembers the choice.
    const query = new URLSearchParams();
    if (typed) query.set('search', typed);
    if (show !== 'all') query.set('show', show);
    if (runId) query.set('run', runId);
    history.replaceState(null, '', `${location.pathname}${query.size ? `?${query}` : ''}`);
  }, [typed, show, runId]);

  const step = (by: 1 | -1) => {
    const next = nextOf(
      list.rows,
      list.rows.findIndex((row) => row.id === runId),
      by,
    );
    if (next) setRunId(next.id);
  };
  useSingleKeys({ j: () => step(1), k: () => step(-1) });

  const more = () =>
    act(async () => {
      const query = new URLSearchParams({ search: typed, show, before: list.rows.at(-1)!.id });
      const next = await call('GET', `/api/workflows/${workflowId}/runs?${query}`);
      setOlder({ of, page: { rows: [...list.rows, ...next.rows], more: next.more } });
    });
  return (
    <div className="grid h-full min-h-0 grid-cols-1 lg:grid-cols-[400px_minmax(0,1fr)]">
      <section
        className={`flex min-h-0 flex-col border-r border-base-300 bg-base-100 ${runId ? 'max-lg:hidden' : ''}`}
        aria-label="Runs"
      >
        <div className="flex gap-2 border-b border-base-300 p-2.5">
          <label className="input input-sm grow">
            <Search className="size-4 text-ink-3" aria-hidden="true" />
            <input
              value={search}
              placeholder="Name, phone or email"
              aria-label="Search"
              onChange={(event) => setSearch(event.target.value)}
            />
          </label>
          <select
            className="select select-sm !w-36"
            aria-label="Outcome"
            value={show}
            onChange={(event) => setShow(event.target.value as LogFilter)}
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
                aria-pressed={row.id === runId}
                className={`block w-full px-3.5 py-2 text-left ${row.id === runId ? 'bg-pine-soft' : 'hover:bg-base-200'}`}
                onClick={() => setRunId(row.id)}
              >
                <span className="flex items-center justify-between gap-2">
                  <span className="truncate font-semibold">{row.name}</span>
                  <StatePill state={row.state} outcome={row.outcome} />
                </span>
                <span className="flex justify-between gap-2 text-note text-ink-2">
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
          <Notice told={told ?? (page.problem ? { text: page.problem, good: false } : null)} className="m-3" />
          {list.more && (
            <li className="p-3 text-center">
              <button type="button" className="btn btn-plain btn-sm" disabled={busy} onClick={() => void more()}>
                Show older ones
              </button>
            </li>
          )}
        </ul>
      </section>
      <main className={`min-h-0 overflow-y-auto p-4 ${runId ? '' : 'max-lg:hidden'}`}>
        <button type="button" className="btn btn-plain btn-sm mb-3 lg:hidden" onClick={() => setRunId(null)}>
          <ChevronLeft className="size-4" aria-hidden="true" />
          All runs
        </button>
        {run ? (
          <RunDetail
            run={run}
            place={place}
            onDone={(next) => {
              void page.again();
              if (next) setRunId(next);
              else void opened.again();
            }}
          />
        ) : (
          <p className="p-6 text-ink-2">
            {opened.problem || (runId ? 'Opening …' : 'Choose a run on the left to see what happened.')}
          </p>
        )}
      </main>
    </div>
  );
}
