import { useMemo } from 'react';
import type { WhereFromView } from '../../app/results/where-from.ts';
import { UNITS, type Unit } from '../../core/results/period.ts';
import { dayMonth, type Place } from '../../core/words/instant.ts';
import { Chart } from './Chart.tsx';
import { countWords } from './figures.ts';

const BY = { day: 'by day', week: 'by week', month: 'by month' };
const FIRST = { day: 'Day', week: 'Week from', month: 'Month from' };

/** What was counted, over the days, weeks or months, by where it came from. */
export function TimeChart({
  chart,
  what,
  place,
  choose,
}: {
  chart: WhereFromView['chart'];
  what: string;
  place: Place;
  choose: (unit: Unit) => void;
}) {
  const bars = useMemo(
    () => ({
      names: chart.buckets.map((day) => dayMonth(day, place.locale)),
      series: chart.series,
      words: (value: number) => countWords(value, place.locale),
    }),
    [chart, place.locale],
  );
  const title = `${what} ${BY[chart.unit]}`;
  return (
    <section className="sheet-card p-4">
      <div className="mb-2 flex items-center justify-between gap-2">
        <h2 className="text-part">{what}</h2>
        <span className="block w-28 shrink-0">
          <select
            className="select select-xs"
            aria-label="The chart goes by"
            value={chart.unit}
            onChange={(event) => choose(event.target.value as Unit)}
          >
            {UNITS.map((unit) => (
              <option key={unit} value={unit}>
                {BY[unit]}
              </option>
            ))}
          </select>
        </span>
      </div>
      {chart.series.length === 0 ? (
        <p className="text-ink-2">None of them in these days.</p>
      ) : (
        <Chart
          bars={bars}
          first={FIRST[chart.unit]}
          says={`${title}: ${chart.series
            .map(
              ({ name, values }) =>
                `${name || 'no mark'} ${countWords(
                  values.reduce((a, b) => a + b, 0),
                  place.locale,
                )}`,
            )
            .join(', ')}`}
        />
      )}
    </section>
  );
}
