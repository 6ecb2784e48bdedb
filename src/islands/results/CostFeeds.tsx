import type { CostsView } from '../../app/results/costs.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { CopyLine } from '../../components/CopyLine.tsx';
import { type Place, whenWords } from '../../core/words/instant.ts';

/** Costs that come by themselves: fetched from an ad platform twice a day, or pushed to an address. */
export function CostFeeds({
  view,
  place,
  now,
  changes,
  again,
}: {
  view: CostsView;
  place: Place;
  now: number;
  changes: boolean;
  again: () => Promise<void>;
}) {
  const { act, busy, told } = useAction();
  const doing = (work: () => Promise<unknown>, words: string) =>
    void act(async () => {
      await work();
      await again();
    }, words);
  const { feeds, platforms } = view;
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">By themselves</h2>
      <p className="mb-3 text-ink-2">
        A connected ad platform is asked twice a day, for the last week each time. Whatever else knows the costs can
        send them to an address.
      </p>
      <ToldLine told={told} />
      <ul className="mb-3 grid gap-3">
        {feeds.map(({ id, name, fetched, address, lastAt, lastLines, trouble }) => (
          <li key={id} className="rounded-lg border border-base-300 p-3">
            <div className="flex flex-wrap items-center justify-between gap-2">
              <b>{name}</b>
              {changes && (
                <span className="flex gap-1">
                  {fetched && (
                    <button
                      type="button"
                      className="btn btn-plain btn-xs"
                      disabled={busy}
                      onClick={() =>
                        doing(() => call('POST', `/api/results/costs/feeds/${id}`), `${name} is asked now.`)
                      }
                    >
                      Ask now
                    </button>
                  )}
                  <button
                    type="button"
                    className="btn btn-ghost btn-xs"
                    disabled={busy}
                    aria-label={`No longer from ${name}`}
                    onClick={() =>
                      doing(
                        () => call('DELETE', `/api/results/costs/feeds/${id}`),
                        `Nothing comes from ${name} any more; what it has told stays.`,
                      )
                    }
                  >
                    No longer
                  </button>
                </span>
              )}
            </div>
            <p className="text-note text-ink-2">
              {lastAt
                ? `${lastLines} lines, ${whenWords(lastAt, now, place)}`
                : fetched
                  ? 'Not asked yet'
                  : 'Nothing has come yet'}
            </p>
            {trouble && <p className="notice bad mt-2">{trouble}</p>}
            {address && <CopyLine text={address} what="Address" />}
          </li>
        ))}
      </ul>
      {changes && (
        <div className="flex flex-wrap gap-2">
          {platforms.map(({ id, name }) => (
            <button
              key={id}
              type="button"
              className="btn btn-plain btn-sm"
              disabled={busy}
              onClick={() =>
                doing(
                  () => call('POST', '/api/results/costs/feeds', { connectionId: id }),
                  `Costs are fetched from ${name}.`,
                )
              }
            >
              Fetch from {name}
            </button>
          ))}
          {!feeds.some(({ fetched }) => !fetched) && (
            <button
              type="button"
              className="btn btn-plain btn-sm"
              disabled={busy}
              onClick={() =>
                doing(
                  () => call('POST', '/api/results/costs/feeds', { connectionId: null }),
                  'Send costs to this address, as docs/gateways.md has it.',
                )
              }
            >
              Make an address to send them to
            </button>
          )}
        </div>
      )}
    </section>
  );
}
