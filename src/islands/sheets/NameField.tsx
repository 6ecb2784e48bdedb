import { useState } from 'react';

/** A name that can be typed over where it stands. */
export function NameField({
  label,
  value,
  fixed,
  onChange,
}: {
  label: string;
  fixed: boolean;
  value: string;
  /** False when it is not to be called so: then it is called as before. */
  onChange: (value: string) => Promise<boolean>;
}) {
  const [typed, setTyped] = useState(value);
  return (
    <input
      className="h-7 rounded-md bg-transparent px-1 hover:bg-base-200 focus:bg-base-100"
      style={{ width: `${Math.max(6, typed.length + 2)}ch` }}
      aria-label={label}
      value={typed}
      readOnly={fixed}
      maxLength={100}
      onChange={(event) => setTyped(event.target.value)}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
      }}
      onBlur={async () => {
        const name = typed.trim();
        if (name === '' || name === value || !(await onChange(name))) setTyped(value);
      }}
    />
  );
}
