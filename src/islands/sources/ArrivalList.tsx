import { useState } from 'react';
import type { SourceView } from '../../app/sources/sources.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { exactWords, type Place, whenWords } from '../../core/words/instant.ts';
import { type Caught, pillOf } from './caught.ts';

const STATES = [
  { value: '', label: 'All' },
  { value: 'read', label: 'Leads' },
  { value: 'held', label: 'Kept' },
  { value: 'refused', label: 'Not understood' },
  { value: 'aside', label: 'Kept out' },
] as const;

interface Props {
  source: SourceView;
  arrivals: Caught[];
  chosen: string | null;
  filter: string;
  place: Place;
  now: number;
  onChoose: (id: string) => void;
  onFilter: (state: string) => void;
  /** Gives how many more there were. */
  onMore: () => Promise<number>;
  onAgain: (ids: string[]) => Promise<void>;
  /** Null for a source that cannot be fetched from. */
  onFetch: (() => Promise<void>) | null;
}

/** What came in, newest first; ticked ones can be handled again. */
export function ArrivalList(props: Props) {
  const { source, arrivals, chosen, filter, place, now } = props;
  const [ticked, setTicked] = useState<string[]>([]);
  const { act: work, busy, told } = useAction();
  const [end, setEnd] = useState(arrivals.length < 20);
  return (
    <section className="sheet-card" aria-label="Arrivals">
      <div className="flex flex-wrap items-center gap-2 border-b border-base-300 px-3 py-2">
        <h2 className="text-part">
          {source.cardConfirmed ? 'Arrivals' : arrivals.length === 0 ? 'Waiting for a first one' : 'Caught'}
        </h2>
        {source.cardConfirmed ? (
          <select
            className="select select-xs ml-auto"
            style={{ width: 150 }}
            aria-label="Which arrivals"
            value={filter}
            onChange={(event) => props.onFilter(event.target.value)}
          >
            {STATES.map(({ value, label }) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </select>
        ) : (
          <span className="pill good ml-auto">Listening</span>
        )}
        {props.onFetch && !source.cardConfirmed && (
          <button
            type="button"
            className="btn btn-plain btn-xs"
            disabled={busy}
            onClick={() => void work(props.onFetch!)}
          >
            Fetch the newest
          </button>
        )}
      </div>
      {ticked.length > 0 && (
        <div className="flex items-center gap-2 border-b border-base-300 bg-brass-soft px-3 py-2">
          <button
            type="button"
            className="btn btn-primary btn-xs"
            disabled={busy}
            onClick={() =>
              void work(async () => {
                await props.onAgain(ticked);
                setTicked([]);
              })
            }
          >
            Handle {ticked.length} again
          </button>
          <span className="text-xs text-ink-2">Nobody a workflow has run for already is written to again.</span>
        </div>
      )}
      {arrivals.length === 0 && (
        <p className="p-4 text-ink-2" data-testid="waiting">
          {filter !== '' ? 'None.' : 'What comes in appears here by itself.'}
        </p>
      )}
      <ul className="max-h-[62vh] overflow-y-auto" data-testid="samples">
        {arrivals.map((arrival) => (
          <li key={arrival.arrivalId} className="flex items-center border-b border-base-300 last:border-0">
            {source.cardConfirmed && (
              <label className="grid h-11 w-9 shrink-0 cursor-pointer place-items-center">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  aria-label={`Choose ${summary(arrival)}`}
                  checked={ticked.includes(arrival.arrivalId)}
                  onChange={(event) =>
                    setTicked((before) =>
                      event.target.checked
                        ? [...before, arrival.arrivalId]
                        : before.filter((id) => id !== arrival.arrivalId),
                    )
                  }
                />
              </label>
            )}
            <button
              type="button"
              aria-pressed={arrival.arrivalId === chosen}
              className={`block min-w-0 grow px-3 py-2 text-left ${arrival.arrivalId === chosen ? 'bg-pine-soft' : 'hover:bg-base-200'}`}
              onClick={() => props.onChoose(arrival.arrivalId)}
            >
              <span className="flex justify-between gap-2">
                <span className="truncate font-semibold">{summary(arrival)}</span>
                {(arrival.state !== 'read' || !source.cardConfirmed) && (
                  <span className={`pill shrink-0 ${pillOf(arrival).tone}`}>{pillOf(arrival).label}</span>
                )}
              </span>
              <span className="flex justify-between text-xs text-ink-2">
                <time dateTime={arrival.receivedAt} title={exactWords(arrival.receivedAt, place)}>
                  {whenWords(arrival.receivedAt, now, place)}
                </time>
                {arrival.repeats > 0 && <span>sent {arrival.repeats + 1} times, taken once</span>}
              </span>
            </button>
          </li>
        ))}
      </ul>
      {!end && arrivals.length >= 20 && (
        <button
          type="button"
          className="btn btn-ghost btn-sm m-1"
          disabled={busy}
          onClick={() =>
            void work(async () => {
              if ((await props.onMore()) < 20) setEnd(true);
            })
          }
        >
          Older ones
        </button>
      )}
      <Notice told={told} className="m-3 text-note" />
    </section>
  );
}

const summary = (caught: Caught) =>
  caught.fields
    .map((field) => field.value)
    .filter((value) => value !== '')
    .slice(0, 3)
    .join(', ') ||
  (caught.problem ?? 'Nothing in it');
