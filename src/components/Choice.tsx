/** A labelled list to choose one from. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  field,
}: {
  label: string;
  value: T;
  options: readonly (readonly [value: T, words: string])[];
  onChange: (value: T) => void;
  /** The name the "To check" list knows it by. */
  field?: string;
}) {
  return (
    <label className="mb-3 block">
      <span className="field-label">{label}</span>
      <select
        className="select"
        value={value}
        data-field={field}
        onChange={(event) => onChange(event.target.value as T)}
      >
        {options.map(([one, words]) => (
          <option key={one} value={one}>
            {words}
          </option>
        ))}
      </select>
    </label>
  );
}

/** A labelled line of text. */
export function Line({
  label,
  value,
  onChange,
  field,
  placeholder,
  type = 'text',
  most = 200,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
  field?: string;
  placeholder?: string;
  type?: 'text' | 'time';
  most?: number;
}) {
  return (
    <label className="mb-3 block">
      <span className="field-label">{label}</span>
      <input
        className="input"
        type={type}
        value={value}
        maxLength={most}
        placeholder={placeholder}
        data-field={field}
        autoComplete="off"
        onChange={(event) => onChange(event.target.value)}
      />
    </label>
  );
}

/** Something that is so or not. */
export function Tick({
  label,
  on,
  onChange,
  field,
}: {
  label: string;
  on: boolean;
  onChange: (on: boolean) => void;
  field?: string;
}) {
  return (
    <label className="mb-2 flex items-center gap-2 text-note">
      <input
        type="checkbox"
        className="checkbox checkbox-sm"
        checked={on}
        data-field={field}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}
