import type { CostsView } from '../../app/results/costs.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { CostFeeds } from './CostFeeds.tsx';
import { CostFile } from './CostFile.tsx';
import { CurrencyRates } from './CurrencyRates.tsx';
import { countWords, sumsWords } from './figures.ts';
import { Wide } from './Wide.tsx';

/** What advertising cost: told by files, fetched, pushed; and what other currencies are worth. */
export default function CostsPage({
  first,
  place,
  now,
  changes,
}: {
  first: CostsView;
  place: Place;
  now: number;
  changes: boolean;
}) {
  const { value: view, again } = useQuery(['results-costs'], () => call('GET', '/api/results/costs'), {
    ...{ first, at: now },
  });
  const { act, busy, told } = useAction();
  return (
    <>
      <p className="mb-4 max-w-4xl text-ink-2">
        What is told of a campaign on a day takes the place of what was told of it before, so a file can be brought in
        again when its figures have changed.
      </p>
      {view.unrated.length > 0 && (
        <p className="notice warn mb-4">
          There are amounts in {view.unrated.join(' and ')} and no rate for {view.unrated.length === 1 ? 'it' : 'them'}:
          they are shown by themselves and never added to {view.currency}. Give a rate below.
        </p>
      )}
      <div className="results-columns">
        {changes && <CostFile currency={view.currency} locale={place.locale} done={again} />}
        <CostFeeds view={view} place={place} now={now} changes={changes} again={again} />
        <section className="sheet-card p-4">
          <h2 className="mb-2 text-part">What has told them</h2>
          <ToldLine told={told} />
          {view.told.length === 0 ? (
            <p className="text-ink-2">Nothing yet: results show no cost until you tell some.</p>
          ) : (
            <Wide what="What has told the costs">
              <table className="table table-sm w-full">
                <thead>
                  <tr>
                    <th scope="col">From</th>
                    <th scope="col">Days</th>
                    <th scope="col" className="text-right">
                      Lines
                    </th>
                    <th scope="col" className="text-right">
                      Cost
                    </th>
                    {changes && (
                      <th scope="col">
                        <span className="sr-only">Take back</span>
                      </th>
                    )}
                  </tr>
                </thead>
                <tbody>
                  {view.told.map(({ via, lines, from, to, at, sums }) => (
                    <tr key={via}>
                      <th
                        scope="row"
                        className="max-w-48 truncate font-medium"
                        title={`${via}, ${whenWords(at, now, place)}`}
                      >
                        {via}
                      </th>
                      <td className="whitespace-nowrap">
                        {from} to {to}
                      </td>
                      <td className="text-right tabular-nums">{countWords(lines, place.locale)}</td>
                      <td className="text-right tabular-nums">{sumsWords(sums, view.currency, place.locale)}</td>
                      {changes && (
                        <td>
                          <button
                            type="button"
                            className="btn btn-ghost btn-xs"
                            disabled={busy}
                            aria-label={`Take back what ${via} has told`}
                            onClick={() =>
                              void act(
                                async () => {
                                  const took = await call('POST', '/api/results/costs/forget', { via });
                                  await again();
                                  return took;
                                },
                                (took) => `${took.lines} lines of ${via} are taken back.`,
                              )
                            }
                          >
                            Take back
                          </button>
                        </td>
                      )}
                    </tr>
                  ))}
                </tbody>
              </table>
            </Wide>
          )}
        </section>
        <CurrencyRates view={view} changes={changes} again={again} />
      </div>
    </>
  );
}
