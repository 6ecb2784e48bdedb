import { useState } from 'react';

/** Makes something to choose, by a name, where it is chosen. */
export function MakeInPlace({
  make,
  label = 'Or a new one',
}: {
  make: (name: string) => Promise<void>;
  label?: string;
}) {
  const [name, setName] = useState('');
  const [told, setTold] = useState('');
  const create = async () => {
    try {
      await make(name);
      setName('');
      setTold('');
    } catch (error) {
      setTold((error as Error).message);
    }
  };
  return (
    <>
      <div className="mb-3 flex items-end gap-2">
        <label className="grow">
          <span className="field-label">{label}</span>
          <input
            className="input input-sm"
            value={name}
            maxLength={60}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <button
          type="button"
          className="btn btn-plain btn-sm"
          disabled={name.trim() === ''}
          onClick={() => void create()}
        >
          Make it
        </button>
      </div>
      {told && (
        <p className="notice bad mb-2 text-[13px]" role="alert">
          {told}
        </p>
      )}
    </>
  );
}
