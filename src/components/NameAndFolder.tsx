import Pencil from 'lucide-react/icons/pencil';
import { useId, useState } from 'react';
import type { FolderKind } from '../app/account/folders.ts';
import { call } from '../client/call.ts';
import { comeAnew } from '../client/go-to.ts';
import { Notice } from '../client/Notice.tsx';
import { useAction } from '../client/use-action.ts';
import { Line } from './fields.tsx';
import { Popover } from './Popover.tsx';

interface Props {
  id: string;
  kind: FolderKind;
  name: string;
  folder: string;
  /** Those there are already, to choose from. */
  folders: readonly string[];
}

/** Renames something, or puts it into a folder. */
export default function NameAndFolder(props: Props) {
  return (
    <Popover
      button={<Pencil className="size-3.5" aria-hidden="true" />}
      label={`Rename or move ${props.name}`}
      buttonClass="btn btn-ghost btn-xs"
      panelClass="w-72 p-3 text-left"
    >
      {() => <Fields {...props} />}
    </Popover>
  );
}

function Fields({ id, kind, name: first, folder: was, folders }: Props) {
  const [name, setName] = useState(first);
  const [folder, setFolder] = useState(was);
  const { act, busy, told } = useAction();
  const there = useId();
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void act(async () => {
          await call('PUT', `/api/named/${id}`, { kind, name, folder, was: { name: first, folder: was } });
          await comeAnew();
        });
      }}
    >
      <Line label="Name" small value={name} maxLength={100} required onChange={setName} />
      <Line label="Folder, if you like" small value={folder} maxLength={60} list={there} onChange={setFolder} />
      <datalist id={there}>
        {folders.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
      <Notice told={told} className="mb-2 text-note" />
      <button className="btn btn-primary btn-sm w-full" type="submit" disabled={busy}>
        Save
      </button>
    </form>
  );
}
