import { useContext, useState } from 'react';
import { likeFields, type Wanted } from '../core/fields/like-fields.ts';
import { writeReference } from '../core/template/field-reference.ts';
import { writeOutput } from '../core/template/filter-call.ts';
import { FieldPickerContext } from './field-picker.ts';
import { TakeAway } from './row-buttons.tsx';

/** Which fields most likely belong into places that are still empty: shown as guesses, put in all in one go. */
export function LikelyFields({
  wanted,
  onTake,
}: {
  wanted: readonly Wanted[];
  /** What stands in each place from now on, by its key. */
  onTake: (texts: Record<string, string>) => void;
}) {
  const { fields, surroundings } = useContext(FieldPickerContext);
  const [refused, setRefused] = useState<ReadonlySet<string>>(new Set());
  const likely = likeFields(
    wanted.filter(({ key }) => !refused.has(key)),
    fields,
    surroundings.country,
  );
  if (likely.length === 0) return null;
  return (
    <section
      className="mb-3 rounded-lg border border-dashed border-brass-line bg-brass-soft/40 p-2"
      aria-label="Guessed by their names"
    >
      <p className="mb-1 text-note text-ink-2">Guessed by their names; nothing is put in yet:</p>
      <ul className="mb-1.5">
        {likely.map(({ wanted: { key, label }, field }) => (
          <li key={key} className="flex items-center gap-1.5 text-note">
            <span className="min-w-0 shrink truncate">{label}</span>
            <span className="text-ink-2" aria-hidden="true">
              ←
            </span>
            <span className="chip min-w-0 shrink truncate">{field.label}</span>
            <span className="min-w-0 grow truncate text-xs text-ink-2">{field.value}</span>
            <TakeAway label={`Not for ${label}`} onClick={() => setRefused(new Set([...refused, key]))} />
          </li>
        ))}
      </ul>
      <button
        type="button"
        className="btn btn-plain btn-xs"
        onClick={() =>
          onTake(
            Object.fromEntries(
              likely.map(({ wanted: { key }, field }) => [key, writeOutput(writeReference(field), [])]),
            ),
          )
        }
      >
        {likely.length === 1 ? 'Put it in' : `Put all ${likely.length} in`}
      </button>
    </section>
  );
}
