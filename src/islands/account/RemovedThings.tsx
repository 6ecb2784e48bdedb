import type { RemovedKind, RemovedThing } from '../../app/account/removed.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';

const WORDS: Record<RemovedKind, string> = {
  workflow: 'Workflow',
  source: 'Source',
  list: 'List',
  connection: 'Connection',
  sheet: 'Sheet',
  email_template: 'Email template',
  chat_template: 'Chat template',
  chat_form: 'Chat form',
  segment: 'Segment',
  pipeline: 'Pipeline',
  tag: 'Tag',
  canned_answer: 'Kept answer',
};

/** What was removed of late, and a way back for each. */
export default function RemovedThings({
  first,
  place,
  now: at,
  changes,
  keys,
}: {
  first: RemovedThing[];
  place: Place;
  now: number;
  /** Whether whoever looks may put things back, and connections too. */
  changes: boolean;
  keys: boolean;
}) {
  const { value: things, at: now, again } = useQuery(['removed'], () => call('GET', '/api/removed'), { first, at });
  const { act, busy, told } = useAction();
  return (
    <>
      <Notice told={told} className="mb-3" />
      {things.length === 0 && <p className="sheet-card p-6 text-center text-ink-2">Nothing was removed of late.</p>}
      <ul>
        {things.map((thing) => (
          <li key={thing.id} className="sheet-card mb-2 flex flex-wrap items-center gap-x-3 gap-y-1 py-2.5 pr-3 pl-4">
            <span className="font-semibold">{thing.name}</span>
            <span className="pill">{WORDS[thing.kind]}</span>
            <span className="grow text-note text-ink-2">
              removed {whenWords(thing.removedAt, now, place)}
              {thing.by && ` by ${thing.by}`}
            </span>
            {(thing.kind === 'connection' ? keys : changes) && (
              <button
                type="button"
                className="btn btn-plain btn-xs"
                disabled={busy}
                aria-label={`Put back ${thing.name}`}
                onClick={() =>
                  void act(
                    async () => {
                      await call('POST', `/api/removed/${thing.id}`, { kind: thing.kind });
                      await again();
                    },
                    thing.kind === 'workflow' || thing.kind === 'source'
                      ? `“${thing.name}” is back, and paused: let it go on where it stands.`
                      : `“${thing.name}” is back.`,
                  )
                }
              >
                Put back
              </button>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}
