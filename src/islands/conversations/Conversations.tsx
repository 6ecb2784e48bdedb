import ChevronLeft from 'lucide-react/icons/chevron-left';
import Search from 'lucide-react/icons/search';
import { useState } from 'react';
import type { ConversationView } from '../../app/conversations/get-conversation.ts';
import type { ConversationFilter, ConversationRow } from '../../app/conversations/list-conversations.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useDebounced } from '../../client/use-debounced.ts';
import { useQuery } from '../../client/use-query.ts';
import { nextOf, useSingleKeys } from '../../client/use-single-keys.ts';
import { within } from '../../client/within.ts';
import { ChannelIcon } from '../../components/ChannelIcon.tsx';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { AboutThem } from './AboutThem.tsx';
import { Answer } from './Answer.tsx';
import { Thread } from './Thread.tsx';

interface Props {
  first: ConversationRow[];
  open: ConversationView | null;
  /** It was asked for, and is not just the first. */
  asked: boolean;
  me: string;
  colleagues: { id: string; name: string }[];
  changes: boolean;
  opensRuns: boolean;
  place: Place;
  /** Milliseconds. */
  now: number;
}

const FILTERS: [ConversationFilter, string][] = [
  ['open', 'To answer'],
  ['unread', 'Unread'],
  ['mine', 'Mine'],
  ['done', 'Done'],
];

/** Everybody who has written, on whatever channel: what was said both ways, and the answer. */
export default function Conversations({
  first,
  open: firstOpen,
  asked,
  me,
  colleagues,
  changes,
  opensRuns,
  place,
  now: at,
}: Props) {
  const [filter, setFilter] = useState<ConversationFilter>('open');
  const [search, setSearch] = useState('');
  const [openId, setOpenId] = useState(firstOpen?.id ?? null);
  /** Where there is room for one of them only. */
  const [pane, setPane] = useState<'list' | 'thread' | 'about'>(asked ? 'thread' : 'list');
  const typed = useDebounced(search);
  const list = useQuery(
    ['conversations', filter, typed],
    async () => (await call('GET', `/api/conversations?${new URLSearchParams({ filter, search: typed })}`)).rows,
    { first, at },
  );
  const opened = useQuery(
    ['conversation', openId],
    async () => (openId ? call('GET', `/api/conversations/${openId}`) : null),
    { first: firstOpen, at },
  );
  const rows = list.value;
  const now = list.at;
  // Nobody is to be answered in another's place: until theirs has come nothing is shown.
  const open = opened.value?.id === openId ? opened.value : null;
  const { act, told } = useAction({ inTurn: true });
  const look = async () => {
    await Promise.all([list.again(), opened.again()]);
  };
  const choose = (id: string) => {
    history.replaceState(null, '', within(`/conversations?open=${id}`));
    setOpenId(id);
    setPane('thread');
  };
  const change = async (patch: object) => {
    const id = openId;
    await act(async () => {
      await call('PUT', `/api/conversations/${id}`, patch);
      // Left open it would be read again at once.
      if ('unread' in patch) {
        setOpenId(null);
        await list.again();
      }
    });
    if (!('unread' in patch)) await look();
  };
  const problem = list.problem || opened.problem;
  const step = (by: 1 | -1) => {
    const next = nextOf(
      rows,
      rows.findIndex((row) => row.id === openId),
      by,
    );
    if (next) choose(next.id);
  };
  useSingleKeys({
    j: () => step(1),
    k: () => step(-1),
    e: () => {
      if (open && changes) void change({ done: !open.done });
    },
    a: () => document.querySelector<HTMLElement>('form[aria-label="Your answer"] textarea')?.focus(),
  });
  return (
    <div className="grid min-h-0 grow grid-cols-1 lg:grid-cols-[300px_minmax(0,1fr)_280px]">
      <aside
        className={`flex min-h-0 flex-col border-r border-base-300 bg-base-100 ${pane === 'list' ? '' : 'max-lg:hidden'}`}
        aria-label="Conversations"
      >
        <div className="grid gap-2 p-3">
          <fieldset className="flex gap-1" aria-label="Which conversations">
            {FILTERS.map(([one, words]) => (
              <button
                key={one}
                type="button"
                aria-pressed={filter === one}
                className={`rounded-lg px-2 py-1 text-note font-medium ${filter === one ? 'bg-pine-soft' : 'hover:bg-base-200'}`}
                onClick={() => setFilter(one)}
              >
                {words}
              </button>
            ))}
          </fieldset>
          <label className="input input-sm">
            <Search className="size-4 text-ink-3" aria-hidden="true" />
            <input
              placeholder="Name, phone or email"
              aria-label="Search conversations"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
            />
          </label>
        </div>
        <ul className="min-h-0 grow overflow-y-auto">
          {rows.map((row) => (
            <li key={row.id}>
              <button
                type="button"
                className={`block w-full border-t border-base-300 px-3 py-2 text-left ${row.id === openId ? 'bg-pine-soft' : 'hover:bg-base-200'}`}
                aria-current={row.id === openId}
                onClick={() => choose(row.id)}
              >
                <span className="flex items-center gap-1.5">
                  <ChannelIcon channel={row.channel} />
                  <span className={`min-w-0 grow truncate ${row.unread > 0 ? 'font-bold' : 'font-semibold'}`}>
                    {row.name}
                  </span>
                  {row.unread > 0 && <span className="pill slate">{row.unread} new</span>}
                  <time className="shrink-0 text-xs text-ink-2" dateTime={row.lastAt}>
                    {whenWords(row.lastAt, now, place)}
                  </time>
                </span>
                <span className="block truncate text-note text-ink-2">
                  {row.lastIn ? '' : 'You: '}
                  {row.lastText}
                </span>
                {(row.takenBy ?? row.assignee) && (
                  <span className="block text-xs text-ink-2">
                    {row.takenBy ? `${row.takenBy.name} has taken over` : `for ${row.assignee!.name}`}
                  </span>
                )}
              </button>
            </li>
          ))}
          {rows.length === 0 && (
            <li className="p-4 text-note text-ink-2">
              {filter === 'open' && search === ''
                ? 'Nobody waits for an answer. Whoever writes back stands here.'
                : 'Nobody fits this.'}
            </li>
          )}
        </ul>
      </aside>
      <section
        className={`flex min-h-0 flex-col ${pane === 'thread' ? '' : 'max-lg:hidden'}`}
        aria-label="What was written"
      >
        <div className="flex items-center gap-2 border-b border-base-300 bg-base-100 p-2 lg:hidden">
          <button type="button" className="btn btn-plain btn-sm" onClick={() => setPane('list')}>
            <ChevronLeft className="size-4" aria-hidden="true" />
            All
          </button>
          <span className="min-w-0 grow truncate font-semibold">{open?.name}</span>
          <button type="button" className="btn btn-plain btn-sm" disabled={!open} onClick={() => setPane('about')}>
            About them
          </button>
        </div>
        <Notice told={told ?? (problem ? { text: problem, good: false } : null)} className="m-3" />
        {open ? (
          <>
            <Thread key={`${open.id}-thread`} view={open} place={place} opensRuns={opensRuns} />
            {changes && <Answer key={open.id} view={open} sent={look} change={change} />}
          </>
        ) : (
          <p className="m-auto p-6 text-ink-2">{openId ? 'Opening …' : 'Choose a conversation on the left.'}</p>
        )}
      </section>
      {open && (
        <AboutThem
          view={open}
          back={pane === 'about' ? () => setPane('thread') : null}
          me={me}
          colleagues={colleagues}
          changes={changes}
          change={change}
          place={place}
          now={now}
        />
      )}
    </div>
  );
}
