import type { WhereFromView } from '../../app/results/where-from.ts';
import { within } from '../../client/within.ts';
import { MODEL_WORDS, MODELS } from '../../core/results/models.ts';
import { SORTED_BY } from '../../core/results/sortings.ts';
import { Choose, DaysChoice } from './DaysChoice.tsx';

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
      <DaysChoice period={asked.period} days={{ from: asked.from, to: asked.to }} change={change} />
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
        <a className="btn btn-plain btn-sm" href={within(`/api/results/file?${search}&format=csv`)} download>
          CSV
        </a>
        <a className="btn btn-plain btn-sm" href={within(`/api/results/file?${search}&format=xlsx`)} download>
          XLSX
        </a>
      </div>
    </div>
  );
}
