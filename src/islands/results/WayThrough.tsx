import type { WayView } from '../../app/results/way-through.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useQuery } from '../../client/use-query.ts';
import { STAGE_WORDS, STAGES } from '../../core/results/way.ts';
import { durationWords } from '../../core/words/duration.ts';
import { dayMonth, type Place } from '../../core/words/instant.ts';
import { DaysChoice } from './DaysChoice.tsx';
import { countWords, shareWords } from './figures.ts';
import { GroupChoice } from './GroupChoice.tsx';
import { GroupsTable } from './GroupsTable.tsx';
import { useAddress } from './use-address.ts';
import { Wide } from './Wide.tsx';

/** From coming in to buying: how many get how far, how long it takes, and where they stop. */
export default function WayThrough({
  first,
  search,
  place,
  now,
}: {
  first: WayView;
  search: string;
  place: Place;
  now: number;
}) {
  const [asked, change] = useAddress(search);
  const { value: view, problem } = useQuery(['results-way', asked], () => call('GET', `/api/results/way?${asked}`), {
    ...{ first, at: now },
  });
  const only = new URLSearchParams(asked).get('only') ?? '';
  return (
    <>
      <div className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-2">
        <DaysChoice period={view.period} days={view.days} change={change} />
        <GroupChoice only={only} groups={[...view.campaigns, ...view.workflows]} change={change} />
      </div>
      <Notice told={problem ? { text: problem, good: false } : null} className="mb-3" />
      <p className="mb-3 max-w-4xl text-ink-2">
        Everybody who came in by themselves in these days, and how far they have got until now. Who was put in by hand
        or from an old file is not counted here.
      </p>
      {view.way.length === 0 ? (
        <p className="sheet-card p-4 text-ink-2">Nobody came in in these days. Choose others above.</p>
      ) : (
        <>
          <Stages view={view} locale={place.locale} />
          <div className="mt-4 grid grid-cols-1 items-start gap-4 xl:grid-cols-2">
            <div className="grid min-w-0 grid-cols-1 gap-4">
              <GroupsTable
                title="By campaign"
                none="No campaign marked"
                groups={view.campaigns}
                locale={place.locale}
                choose={(chosen) => change({ only: chosen })}
              />
              <GroupsTable
                title="By workflow"
                none=""
                groups={view.workflows}
                locale={place.locale}
                choose={(chosen) => change({ only: chosen })}
              />
            </div>
            <Weeks weeks={view.weeks} locale={place.locale} />
          </div>
        </>
      )}
    </>
  );
}

function Stages({ view: { way, stops }, locale }: { view: WayView; locale: string }) {
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-2 text-part">How far they get</h2>
      {stops && (
        <p className="mb-3">
          Most stop here: {countWords(stops.furthest, locale)} of {countWords(way[0]!.reached, locale)}{' '}
          {STAGE_WORDS[stops.stage].stops}.
        </p>
      )}
      <div>
        <Wide what="How far they get">
          <table className="table table-sm results-table w-full">
            <thead>
              <tr>
                <th scope="col" className="text-left">
                  Stage
                </th>
                <th scope="col">How many</th>
                <th scope="col" className="w-[34%] text-left!">
                  Of those who came in, with the 95 % range
                </th>
                <th scope="col">Half within</th>
                <th scope="col">90 % within</th>
                <th scope="col">Stopped here</th>
              </tr>
            </thead>
            <tbody>
              {way.map(({ stage, reached, share, low, high, median, ninety, furthest }) => (
                <tr key={stage}>
                  <th scope="row" className="text-left font-medium">
                    {STAGE_WORDS[stage].label}
                  </th>
                  <td className="tabular-nums">{countWords(reached, locale)}</td>
                  <td className="text-left!">
                    <div className="flex items-center gap-2">
                      <div className="relative h-4 flex-1 rounded-sm bg-base-200" aria-hidden="true">
                        <div className="h-4 rounded-sm bg-pine-line" style={{ width: `${share * 100}%` }} />
                        {stage !== 'came' && (
                          <div
                            className="absolute top-[7px] h-0.5 bg-base-content"
                            style={{ left: `${low * 100}%`, width: `${(high - low) * 100}%` }}
                          />
                        )}
                      </div>
                      <span className="w-28 text-right tabular-nums">
                        {shareWords(share, locale, 0)}{' '}
                        {stage !== 'came' && (
                          <span className="text-xs text-ink-3">
                            {Math.round(low * 100)} to {Math.round(high * 100)}
                          </span>
                        )}
                      </span>
                    </div>
                  </td>
                  <td className="whitespace-nowrap">
                    {stage === 'came' || median === null ? '–' : durationWords(median)}
                  </td>
                  <td className="whitespace-nowrap">
                    {stage === 'came' || ninety === null ? '–' : durationWords(ninety)}
                  </td>
                  <td className="tabular-nums">{stage === 'sold' ? '–' : countWords(furthest, locale)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      </div>
      <p className="mt-2 text-xs text-ink-2">Times are from coming in, of those who got there.</p>
    </section>
  );
}

const TINT = ['', 'tint-1', 'tint-2', 'tint-3', 'tint-4'] as const;

function Weeks({ weeks, locale }: { weeks: WayView['weeks']; locale: string }) {
  const later = STAGES.slice(1);
  const most = Object.fromEntries(
    later.map((stage) => [
      stage,
      Math.max(0.0001, ...weeks.map(({ came, reached }) => (came ? reached[stage] / came : 0))),
    ]),
  );
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">By the week in which they came in</h2>
      <p className="mb-2 text-ink-2">
        How far each week’s people have got until today; the latest weeks have had less time.
      </p>
      <Wide what="By the week in which they came in">
        <table className="table table-xs results-table w-full">
          <thead>
            <tr>
              <th scope="col" className="text-left">
                Week from
              </th>
              <th scope="col">Came in</th>
              {later.map((stage) => (
                <th key={stage} scope="col">
                  {STAGE_WORDS[stage].label}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {weeks.map(({ week, came, reached }) => (
              <tr key={week}>
                <th scope="row" className="text-left font-normal whitespace-nowrap">
                  {dayMonth(week, locale)}
                </th>
                <td className="tabular-nums">{countWords(came, locale)}</td>
                {later.map((stage) => {
                  const share = came === 0 ? 0 : reached[stage] / came;
                  return (
                    <td
                      key={stage}
                      className={`tabular-nums ${TINT[share === 0 ? 0 : Math.max(1, Math.ceil((share / most[stage]!) * 4))]}`}
                      title={`${reached[stage]} of ${came}`}
                    >
                      {came === 0 ? '–' : shareWords(share, locale, 0)}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
    </section>
  );
}
