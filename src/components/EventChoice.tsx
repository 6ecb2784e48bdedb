/** Which of several happenings count. */
export function EventChoice<Value extends string>({
  label,
  options,
  value,
  onChange,
}: {
  label: string;
  options: readonly { value: Value; label: string }[];
  value: readonly Value[];
  onChange: (value: Value[]) => void;
}) {
  return (
    <fieldset className="mb-3">
      <legend className="field-label">{label}</legend>
      <div className="flex flex-wrap gap-x-5">
        {options.map((option) => (
          <Tick
            key={option.value}
            label={option.label}
            block="flex items-center gap-2 py-1"
            value={value.includes(option.value)}
            onChange={(on) => onChange(on ? [...value, option.value] : value.filter((value) => value !== option.value))}
          />
        ))}
      </div>
    </fieldset>
  );
}

import { Tick } from './fields.tsx';
