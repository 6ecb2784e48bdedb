import type { RepliesView } from '../../app/results/replies.ts';
import { weekdayNames } from '../../core/words/instant.ts';
import { shareWords } from './figures.ts';
import { Wide } from './Wide.tsx';

const TINT = ['tint-0', 'tint-1', 'tint-2', 'tint-3', 'tint-4'] as const;
/** Hours next to one another in one field of the table. */
const TOGETHER = 3;

/** By weekday and time of day: which share was answered within five minutes. */
export function HoursOfWeek({ hours, locale }: { hours: RepliesView['hours']; locale: string }) {
  const parts = Array.from({ length: 24 / TOGETHER }, (_, i) => i * TOGETHER);
  const of = (day: number, from: number) =>
    hours
      .filter((one) => one.day === day && one.hour >= from && one.hour < from + TOGETHER)
      .reduce((sum, { came, fast }) => ({ came: sum.came + came, fast: sum.fast + fast }), { came: 0, fast: 0 });
  const names = weekdayNames(locale);
  const two = (hour: number) => String(hour).padStart(2, '0');
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">Answered within 5 minutes, by when they came in</h2>
      <p className="mb-2 text-ink-2">Your business’s clock. The small figure is how many came in.</p>
      <Wide what="Answered within 5 minutes, by when they came in">
        <table className="table table-xs results-table w-full">
          <thead>
            <tr>
              <th scope="col" className="text-left">
                <span className="sr-only">Day</span>
              </th>
              {parts.map((from) => (
                <th key={from} scope="col" className="text-center!">
                  {two(from)}–{two(from + TOGETHER)}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {names.map((name, day) => (
              <tr key={name}>
                <th scope="row" className="text-left font-medium">
                  {name}
                </th>
                {parts.map((from) => {
                  const { came, fast } = of(day, from);
                  return (
                    <td
                      key={from}
                      className={`text-center! tabular-nums ${came === 0 ? '' : TINT[Math.round((fast / came) * 4)]}`}
                      title={`${fast} of ${came}`}
                    >
                      {came === 0 ? (
                        <span className="text-ink-3">–</span>
                      ) : (
                        <>
                          {shareWords(fast / came, locale, 0)} <span className="text-xs">{came}</span>
                        </>
                      )}
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
