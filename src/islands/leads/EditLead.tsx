import Pencil from 'lucide-react/icons/pencil';
import { useState } from 'react';
import { call } from '../../client/call.ts';
import { comeAnew } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Line } from '../../components/fields.tsx';

interface Person {
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
}
const FIELDS: { key: keyof Person; label: string }[] = [
  { key: 'first_name', label: 'First name' },
  { key: 'last_name', label: 'Last name' },
  { key: 'email', label: 'Email' },
  { key: 'phone', label: 'Phone' },
];

/** Puts a lead's own fields right. */
export default function EditLead({ id, first }: { id: string; first: Person }) {
  const [open, setOpen] = useState(false);
  const [person, setPerson] = useState(first);
  const { act, busy, told } = useAction();
  if (!open)
    return (
      <button type="button" className="btn btn-plain btn-sm" onClick={() => setOpen(true)}>
        <Pencil className="size-4" aria-hidden="true" />
        Put right
      </button>
    );
  return (
    <form
      className="rounded-box bg-base-200 p-3"
      onSubmit={(event) => {
        event.preventDefault();
        void act(async () => {
          await call('PUT', `/api/leads/${id}`, person);
          await comeAnew();
        });
      }}
    >
      {FIELDS.map(({ key, label }) => (
        <Line
          key={key}
          label={label}
          block="mb-2 block"
          small
          value={person[key]}
          maxLength={2000}
          onChange={(text) => setPerson({ ...person, [key]: text })}
        />
      ))}
      <Notice told={told} className="mb-2 text-note" />
      <div className="flex gap-2">
        <button className="btn btn-primary btn-sm" type="submit" disabled={busy}>
          Save these
        </button>
        <button
          className="btn btn-ghost btn-sm"
          type="button"
          onClick={() => {
            setOpen(false);
            setPerson(first);
          }}
        >
          Leave as it was
        </button>
      </div>
    </form>
  );
}
