import { type Period, READY_PERIODS } from '../../core/results/period.ts';

/** Which days: a ready span, or any two dates. */
export function DaysChoice({
  period,
  days,
  change,
}: {
  period: string | undefined;
  days: Period;
  change: (changes: Record<string, string>) => void;
}) {
  return (
    <>
      <Choose
        label="Days"
        value={period ?? 'own'}
        options={{ ...READY_PERIODS, own: 'Two dates' }}
        choose={(chosen) =>
          change(chosen === 'own' ? { period: '', from: days.from, to: days.to } : { period: chosen, from: '', to: '' })
        }
      />
      {!period && (
        <>
          <Day label="From" value={days.from} choose={(from) => change({ from })} />
          <Day label="To" value={days.to} choose={(to) => change({ to })} />
        </>
      )}
    </>
  );
}

export function Choose({
  label,
  value,
  options,
  choose,
}: {
  label: string;
  value: string;
  options: Readonly<Record<string, string>>;
  choose: (value: string) => void;
}) {
  return (
    <label className="flex flex-col gap-0.5">
      <span className="text-xs text-ink-2">{label}</span>
      <select className="select select-sm w-auto" value={value} onChange={(event) => choose(event.target.value)}>
        {Object.entries(options).map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

function Day({ label, value, choose }: { label: string; value: string; choose: (day: string) => void }) {
  return (
    <label className="flex flex-col gap-0.5">
      <span className="text-xs text-ink-2">{label}</span>
      <input
        type="date"
        className="input input-sm w-auto"
        defaultValue={value}
        onChange={(event) => event.target.value && choose(event.target.value)}
      />
    </label>
  );
}
