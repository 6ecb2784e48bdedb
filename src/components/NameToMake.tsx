import { useState } from 'react';
import { callAny } from '../client/call.ts';
import { goTo } from '../client/go-to.ts';
import { ToldLine } from '../client/Notice.tsx';
import { useAction } from '../client/use-action.ts';
import { Bare } from './fields.tsx';

/** Makes something by its name, and opens it. */
export default function NameToMake({
  label,
  placeholder,
  button,
  path,
  opens,
  more,
}: {
  label: string;
  placeholder: string;
  button: string;
  /** Where it is made. */
  path: string;
  /** The page it has, before its id. */
  opens: string;
  /** What it is made with beside its name. */
  more?: () => object;
}) {
  const [name, setName] = useState('');
  const { act, busy, told } = useAction();
  return (
    <form
      className="flex flex-wrap items-start gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        void act(async () => {
          const made = (await callAny('POST', path, { name, ...more?.() })) as { id: string };
          await goTo(`${opens}${made.id}`);
        });
      }}
    >
      <div>
        <Bare
          label={label}
          style={{ width: 220 }}
          placeholder={placeholder}
          maxLength={100}
          value={name}
          onChange={setName}
        />
        <ToldLine told={told} />
      </div>
      <button className="btn btn-primary btn-sm" type="submit" disabled={busy || name.trim() === ''}>
        {button}
      </button>
    </form>
  );
}
