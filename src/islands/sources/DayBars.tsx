import type { Place } from '../../core/words/instant.ts';
import type { Learnt } from './caught.ts';

/** Arrivals per day over 30 days: small bars, and the same as a table. */
export function DayBars({ days, place }: { days: Learnt['days']; place: Place }) {
  const most = Math.max(1, ...days.map((day) => day.read + day.other));
  const words = (day: string) =>
    new Intl.DateTimeFormat(place.locale, { day: 'numeric', month: 'short', timeZone: 'UTC' }).format(new Date(day));
  const told = (one: Learnt['days'][number]) =>
    `${words(one.day)}: ${one.read}${one.other > 0 ? ` and ${one.other} that are no leads` : ''}`;
  return (
    <section className="sheet-card p-3.5" aria-label="Arrivals per day">
      <h2 className="mb-1 text-note text-ink-2">Arrivals per day, 30 days</h2>
      <div className="flex h-12 items-end gap-[3px]" aria-hidden="true">
        {days.map((day, i) => (
          <span key={day.day} className="flex h-full grow flex-col justify-end" title={told(day)}>
            <span className="bg-bad-line" style={{ height: `${(day.other / most) * 100}%` }} />
            <span
              className={`rounded-t-[2px] ${i === days.length - 1 ? 'bg-brass-line' : 'bg-pine-line'}`}
              style={{ height: `${Math.max(day.read > 0 ? 4 : 0, (day.read / most) * 100)}%` }}
            />
          </span>
        ))}
      </div>
      <div className="mt-0.5 flex justify-between text-xs text-ink-2" aria-hidden="true">
        <span>{days[0] && words(days[0].day)}</span>
        <span>today</span>
      </div>
      <details>
        <summary className="cursor-pointer text-xs text-ink-2">As a table</summary>
        <div className="max-h-48 overflow-y-auto">
          <table className="table table-xs">
            <thead>
              <tr>
                <th>Day</th>
                <th className="text-right">Leads</th>
                <th className="text-right">Other</th>
              </tr>
            </thead>
            <tbody>
              {[...days].reverse().map((day) => (
                <tr key={day.day}>
                  <td>{words(day.day)}</td>
                  <td className="text-right">{day.read}</td>
                  <td className="text-right">{day.other}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </details>
    </section>
  );
}
