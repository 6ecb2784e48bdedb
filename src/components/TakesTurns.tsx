import type { SendingDesk } from '../core/workflow/step-kind.ts';
import { Tick } from './fields.tsx';

/** Chooses the colleagues who take turns; their order is that in which they were chosen. */
export function TakesTurns({
  value,
  desk,
  onChange,
  label = 'Who takes turns',
}: {
  value: readonly string[];
  desk: SendingDesk;
  onChange: (among: string[]) => void;
  label?: string;
}) {
  return (
    <fieldset className="mb-3" data-field="among">
      <legend className="field-label">{label}</legend>
      {desk.colleagues.map((one) => (
        <Tick
          key={one.id}
          label={one.name}
          block="mb-1.5 flex items-center gap-2"
          value={value.includes(one.id)}
          onChange={(on) => onChange(on ? [...value, one.id] : value.filter((id) => id !== one.id))}
        />
      ))}
      <p className="text-note text-ink-2">Each lead goes to the next; who is away is passed over.</p>
    </fieldset>
  );
}
