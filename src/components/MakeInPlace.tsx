import { useState } from 'react';
import { Notice } from '../client/Notice.tsx';
import { useAction } from '../client/use-action.ts';
import { Line } from './fields.tsx';

/** Makes something to choose, by a name, where it is chosen. */
export function MakeInPlace({
  make,
  label = 'Or a new one',
}: {
  make: (name: string) => Promise<void>;
  label?: string;
}) {
  const [name, setName] = useState('');
  const { act, busy, told } = useAction();
  const create = () =>
    act(async () => {
      await make(name);
      setName('');
    });
  return (
    <>
      <div className="mb-3 flex items-end gap-2">
        <Line label={label} block="grow" small value={name} maxLength={60} onChange={setName} />
        <button
          type="button"
          className="btn btn-plain btn-sm"
          disabled={busy || name.trim() === ''}
          onClick={() => void create()}
        >
          Make it
        </button>
      </div>
      <Notice told={told} className="mb-2 text-note" />
    </>
  );
}
