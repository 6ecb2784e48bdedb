import { useMemo } from 'react';
import type { RepliesView } from '../../app/results/replies.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useQuery } from '../../client/use-query.ts';
import { WAIT_WORDS } from '../../core/results/reply-times.ts';
import { durationWords } from '../../core/words/duration.ts';
import type { Place } from '../../core/words/instant.ts';
import { Chart } from './Chart.tsx';
import { DaysChoice } from './DaysChoice.tsx';
import { countWords, shareWords } from './figures.ts';
import { HoursOfWeek } from './HoursOfWeek.tsx';
import { useAddress } from './use-address.ts';
import { Wide } from './Wide.tsx';

/** How long those who come in wait for their first answer, why, and what it is worth. */
export default function Replies({
  first,
  search,
  place,
  now,
}: {
  first: RepliesView;
  search: string;
  place: Place;
  now: number;
}) {
  const [asked, change] = useAddress(search);
  const { value: view, problem } = useQuery(
    ['results-replies', asked],
    () => call('GET', `/api/results/replies?${asked}`),
    { first, at: now },
  );
  const { locale } = place;
  return (
    <>
      <div className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-2">
        <DaysChoice period={view.period} days={view.days} change={change} />
      </div>
      <Notice told={problem ? { text: problem, good: false } : null} className="mb-3" />
      {view.came === 0 ? (
        <p className="sheet-card p-4 text-ink-2">Nobody came in in these days. Choose others above.</p>
      ) : (
        <>
          <p className="mb-3 text-lg">
            {countWords(view.fast, locale)} of {countWords(view.came, locale)} were answered within 5 minutes:{' '}
            <b>{shareWords(view.fast / view.came, locale, 0)}</b>
            {view.range && (
              <span className="text-ink-2">
                {' '}
                (95 % range {Math.round(view.range.low * 100)} to {Math.round(view.range.high * 100)} %)
              </span>
            )}
            {view.median !== null &&
              `. Half within ${durationWords(view.median)}, 90 % of the answered within ${durationWords(view.ninety!)}`}
            .
          </p>
          <div className="results-columns">
            <Spread view={view} locale={locale} />
            <Waited view={view} locale={locale} />
            <HoursOfWeek hours={view.hours} locale={locale} />
            <Pays view={view} locale={locale} />
          </div>
        </>
      )}
    </>
  );
}

function Spread({ view: { bands }, locale }: { view: RepliesView; locale: string }) {
  const bars = useMemo(
    () => ({
      names: bands.map(({ short }) => short),
      series: [{ name: 'People', values: bands.map(({ n }) => n) }],
      words: (value: number) => countWords(value, locale),
    }),
    [bands, locale],
  );
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-2 text-part">How long they waited</h2>
      <Chart
        bars={bars}
        first="Waited"
        says={`How long they waited: ${bands.map(({ label, n }) => `${label} ${n}`).join(', ')}`}
      />
    </section>
  );
}

function Waited({ view: { waited }, locale }: { view: RepliesView; locale: string }) {
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">What the others waited for</h2>
      {waited.length === 0 ? (
        <p className="text-ink-2">Nobody waited longer than 5 minutes.</p>
      ) : (
        <Wide what="What the others waited for">
          <table className="table table-sm results-table w-full">
            <thead>
              <tr>
                <th scope="col" className="text-left">
                  Why
                </th>
                <th scope="col">Later than 5 min</th>
                <th scope="col">Never</th>
              </tr>
            </thead>
            <tbody>
              {waited.map(({ reason, slow, never }) => (
                <tr key={reason}>
                  <th scope="row" className="text-left font-normal whitespace-normal">
                    {WAIT_WORDS[reason]}
                  </th>
                  <td className="tabular-nums">{slow ? countWords(slow, locale) : '–'}</td>
                  <td className="tabular-nums">{never ? countWords(never, locale) : '–'}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Wide>
      )}
    </section>
  );
}

function Pays({ view: { bands, pays }, locale }: { view: RepliesView; locale: string }) {
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">Does answering fast bring appointments here?</h2>
      <p className="mb-2">{pays.says}</p>
      <Wide what="Booked, by how long they waited">
        <table className="table table-xs results-table w-full">
          <thead>
            <tr>
              <th scope="col" className="text-left">
                First answer
              </th>
              <th scope="col">People</th>
              <th scope="col">Booked after it</th>
              <th scope="col">Rate, 95 % range</th>
            </tr>
          </thead>
          <tbody>
            {bands.map(({ key, label, n, booked, rate }) => (
              <tr key={key}>
                <th scope="row" className="text-left font-normal">
                  {label}
                </th>
                <td className="tabular-nums">{countWords(n, locale)}</td>
                <td className="tabular-nums">{countWords(booked, locale)}</td>
                <td className="whitespace-nowrap tabular-nums">
                  {rate ? (
                    <>
                      {shareWords(rate.share, locale)}{' '}
                      <span className="text-xs text-ink-3">
                        {Math.round(rate.low * 100)} to {Math.round(rate.high * 100)}
                      </span>
                    </>
                  ) : (
                    '–'
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </Wide>
      <p className="mt-2 text-xs text-ink-2">
        Who booked before anybody could answer is left out: being answered did not bring them.
      </p>
    </section>
  );
}
