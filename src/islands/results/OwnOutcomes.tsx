import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { countWords } from './figures.ts';

/** What the business counts by names of its own. */
export function OwnOutcomes({ changes, place, now }: { changes: boolean; place: Place; now: number }) {
  const { value: kinds, again } = useQuery(['own-outcomes'], () => call('GET', '/api/results/outcomes'), {
    ...{ first: null, at: now },
  });
  const { act, busy, told } = useAction();
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">What you count by your own names</h2>
      <p className="mb-2 text-ink-2">
        The step <b>Count it in results</b> makes them, or you note one on a person’s page: “Trial lesson had”.
      </p>
      <ToldLine told={told} />
      {kinds && kinds.length > 0 && (
        <ul>
          {kinds.map(({ id, name, n, lastAt }) => (
            <li
              key={id}
              className="flex items-baseline justify-between gap-2 border-b border-base-300 py-1 last:border-0"
            >
              <span>
                <b>{name}</b>{' '}
                <span className="text-note text-ink-2">
                  {countWords(n, place.locale)} times{lastAt && `, last ${whenWords(lastAt, now, place)}`}
                </span>
              </span>
              {changes && (
                <button
                  type="button"
                  className="btn btn-ghost btn-xs"
                  disabled={busy}
                  aria-label={`Count ${name} no more`}
                  onClick={() =>
                    void act(async () => {
                      await call('DELETE', `/api/results/outcomes/${id}`);
                      await again();
                    }, `${name} is offered no more; the next step that counts it brings it back.`)
                  }
                >
                  No more
                </button>
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
