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
          <label key={option.value} className="flex items-center gap-2 py-1">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={value.includes(option.value)}
              onChange={(event) =>
                onChange(event.target.checked ? [...value, option.value] : value.filter((one) => one !== option.value))
              }
            />
            {option.label}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
