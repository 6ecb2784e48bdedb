import { useState } from 'react';

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
  const [problem, setProblem] = useState('');
  return (
    <form
      className="flex items-start gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        make(name).catch((error: Error) => setProblem(error.message));
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
        {problem && (
          <p className="text-[13px] text-error" role="alert">
            {problem}
          </p>
        )}
      </div>
      <button className="btn btn-primary btn-sm" type="submit" disabled={name.trim() === ''}>
        {button}
      </button>
    </form>
  );
}
