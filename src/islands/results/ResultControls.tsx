import type { WhereFromView } from '../../app/results/where-from.ts';
import { MODEL_WORDS, MODELS } from '../../core/results/models.ts';
import { READY_PERIODS } from '../../core/results/period.ts';
import { SORTED_BY } from '../../core/results/sortings.ts';

const BASES = { came: 'By the day they came', happened: 'By the day it happened' };

/** What the table is of: which days, which names, whose credit, and what is counted. */
export function ResultControls({
  view,
  search,
  change,
}: {
  view: WhereFromView;
  search: string;
  change: (changes: Record<string, string>) => void;
}) {
  const { asked, goals } = view;
  return (
    <div className="mb-3 flex flex-wrap items-end gap-x-3 gap-y-2">
      <Choose
        label="Days"
        value={asked.period ?? 'own'}
        options={{ ...READY_PERIODS, own: 'Two dates' }}
        choose={(period) =>
          change(period === 'own' ? { period: '', from: asked.from, to: asked.to } : { period, from: '', to: '' })
        }
      />
      {!asked.period && (
        <>
          <Day label="From" value={asked.from} choose={(from) => change({ from })} />
          <Day label="To" value={asked.to} choose={(to) => change({ to })} />
        </>
      )}
      <Choose
        label="Sorted by"
        value={asked.by}
        options={Object.fromEntries(Object.entries(SORTED_BY).map(([key, { label }]) => [key, label]))}
        choose={(by) => change({ by })}
      />
      <Choose
        label="Credited to"
        value={asked.model}
        options={Object.fromEntries(MODELS.map((model) => [model, MODEL_WORDS[model].label]))}
        choose={(model) => change({ model })}
      />
      <Choose
        label="What counts"
        value={asked.goal}
        options={Object.fromEntries(goals.map(({ kind, name }) => [kind, name]))}
        choose={(goal) => change({ goal })}
      />
      <Choose label="Counted" value={asked.basis} options={BASES} choose={(basis) => change({ basis })} />
      <div className="ml-auto flex gap-2">
        <a className="btn btn-plain btn-sm" href={`/api/results/file?${search}&format=csv`} download>
          CSV
        </a>
        <a className="btn btn-plain btn-sm" href={`/api/results/file?${search}&format=xlsx`} download>
          XLSX
        </a>
      </div>
    </div>
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
