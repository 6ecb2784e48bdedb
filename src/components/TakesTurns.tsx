import type { Catalogue } from '../core/workflow/step-kind.ts';
import { Tick } from './fields.tsx';

/** Chooses the colleagues who take turns; their order is that in which they were chosen. */
export function TakesTurns({
  value,
  catalogue,
  onChange,
  label = 'Who takes turns',
}: {
  value: readonly string[];
  catalogue: Catalogue;
  onChange: (among: string[]) => void;
  label?: string;
}) {
  return (
    <fieldset className="mb-3" data-field="among">
      <legend className="field-label">{label}</legend>
      {catalogue.colleagues.map((colleague) => (
        <Tick
          key={colleague.id}
          label={colleague.name}
          block="mb-1.5 flex items-center gap-2"
          value={value.includes(colleague.id)}
          onChange={(on) => onChange(on ? [...value, colleague.id] : value.filter((id) => id !== colleague.id))}
        />
      ))}
      <p className="text-note text-ink-2">Each lead goes to the next; who is away is passed over.</p>
    </fieldset>
  );
}
