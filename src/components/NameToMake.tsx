import { useState } from 'react';
import { ToldLine } from '../client/Notice.tsx';
import { useAction } from '../client/use-action.ts';

/** Makes something by its name; what comes then is the caller's. */
export function NameToMake({
  label,
  placeholder,
  button,
  make,
}: {
  label: string;
  placeholder: string;
  button: string;
  make: (name: string) => Promise<void>;
}) {
  const [name, setName] = useState('');
  const { act, busy, told } = useAction();
  return (
    <form
      className="flex items-start gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void act(() => make(name));
      }}
    >
      <div>
        <input
          className="input input-sm"
          style={{ width: 220 }}
          aria-label={label}
          placeholder={placeholder}
          value={name}
          maxLength={100}
          onChange={(event) => setName(event.target.value)}
        />
        <ToldLine told={told} />
      </div>
      <button className="btn btn-primary btn-sm" type="submit" disabled={busy || name.trim() === ''}>
        {button}
      </button>
    </form>
  );
}
