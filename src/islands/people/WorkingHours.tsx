import { useState } from 'react';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Bare, Tick } from '../../components/fields.tsx';
import { AddOne, TakeAway } from '../../components/row-buttons.tsx';
import type { WorkingTime } from '../../core/people/working-time.ts';
import { dayWords, type Place } from '../../core/words/instant.ts';

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const USUAL = { from: '09:00', to: '17:00' };
const USUAL_WEEK: WorkingTime['week'] = DAYS.map((_, n) => (n < 5 ? USUAL : null));

/** When somebody works: days of the week with their hours, and holidays. */
export function WorkingHours({
  first,
  place,
  zoneName,
  onSave,
}: {
  first: WorkingTime | null;
  place: Place;
  /** The business's clock, as it is called. */
  zoneName: string;
  onSave: (working: WorkingTime | null) => Promise<unknown>;
}) {
  const [always, setAlways] = useState(first === null);
  const [week, setWeek] = useState(first?.week ?? USUAL_WEEK);
  const [off, setOff] = useState(first?.off ?? []);
  const { act, busy, told } = useAction();
  const setDay = (n: number, hours: WorkingTime['week'][number]) =>
    setWeek(week.map((day, at) => (at === n ? hours : day)));
  const setSpan = (n: number, span: Partial<WorkingTime['off'][number]>) =>
    setOff(off.map((one, at) => (at === n ? { ...one, ...span } : one)));
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void act(() => onSave(always ? null : { week, off }), 'Saved.');
      }}
    >
      <Tick label="Always: told at any hour, on any day" value={always} onChange={setAlways} />
      {!always && (
        <>
          <table className="mb-3">
            <tbody>
              {DAYS.map((name, n) => (
                <tr key={name}>
                  <td className="pr-4">
                    <Tick
                      block="flex items-center gap-2"
                      label={name}
                      value={week[n] !== null}
                      onChange={(on) => setDay(n, on ? USUAL : null)}
                    />
                  </td>
                  <td className="py-0.5">
                    {week[n] ? (
                      <span className="flex items-center gap-2">
                        <Bare
                          type="time"
                          className="!w-32"
                          label={`${name}, from`}
                          value={week[n].from}
                          onChange={(from) => setDay(n, { ...week[n]!, from })}
                        />
                        to
                        <Bare
                          type="time"
                          className="!w-32"
                          label={`${name}, to`}
                          value={week[n].to}
                          onChange={(to) => setDay(n, { ...week[n]!, to })}
                        />
                      </span>
                    ) : (
                      <span className="text-ink-2">off</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mb-3 text-note text-ink-2">By the clock of {zoneName}.</p>
          <fieldset className="mb-3">
            <legend className="field-label">Holidays, first and last day</legend>
            {off.map((span, n) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: they have nothing else to be known by, and keep their order.
              <div key={n} className="mb-1 flex items-center gap-2">
                <Bare
                  type="date"
                  label={`First day off, ${n + 1}`}
                  value={span.from}
                  onChange={(from) => setSpan(n, { from, ...(span.to < from ? { to: from } : {}) })}
                />
                to
                <Bare
                  type="date"
                  label={`Last day off, ${n + 1}`}
                  value={span.to}
                  onChange={(to) => setSpan(n, { to })}
                />
                <TakeAway
                  label={span.from ? `Take away the days from ${dayWords(span.from, place)}` : 'Take away these days'}
                  onClick={() => setOff(off.filter((_, at) => at !== n))}
                />
              </div>
            ))}
            <AddOne onClick={() => setOff([...off, { from: '', to: '' }])}>Add days off</AddOne>
          </fieldset>
        </>
      )}
      <ToldLine told={told} className="mb-2" />
      <button type="submit" className="btn btn-primary btn-sm" disabled={busy}>
        Save when I work
      </button>
    </form>
  );
}
