import { useState } from 'react';
import type { ListView } from '../../app/lists/lists.ts';
import { call } from '../../client/call.ts';
import { ToldLine as Told } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { bound } from '../../components/bound.ts';
import { Area, Bare, Choice, Line } from '../../components/fields.tsx';
import { AddOne, TakeAway } from '../../components/row-buttons.tsx';
import { addRow, fieldsOf, removeRow, renameRow, rowsOf } from './field-rows.ts';

/** How people come onto a list, and the fields its members have. */
export default function ListSettings({
  list,
  usual,
}: {
  list: Pick<ListView, 'id' | 'seen' | 'name' | 'optIn' | 'confirmSubject' | 'confirmMessage' | 'fields'>;
  /** Our own words for the email that asks. */
  usual: { subject: string; message: string };
}) {
  const [value, setValue] = useState(list);
  const [rows, setRows] = useState(() => rowsOf(list.fields));
  const { act, busy, told } = useAction();
  const set = (patch: Partial<typeof list>) => setValue({ ...value, ...patch });
  const of = bound(value, set);
  const save = () =>
    act(async () => {
      const fields = fieldsOf(rows);
      const { seen } = await call('PUT', `/api/lists/${list.id}`, { ...value, fields }, value.seen);
      setValue((before) => ({ ...before, seen }));
      setRows(rowsOf(fields));
    }, 'Saved.');
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <Line label="Name" {...of('name')} maxLength={60} />
      <Choice
        label="How people come onto it"
        {...of('optIn')}
        options={[
          ['single', 'At once (single opt-in)'],
          ['double', 'After they have confirmed by email (double opt-in)'],
        ]}
      />
      {value.optIn === 'double' && (
        <>
          <Line
            label="Subject of the email that asks; empty for our own words"
            {...of('confirmSubject')}
            maxLength={300}
            placeholder={usual.subject}
          />
          <Area
            label={<>Its text; {'{{ item.link }}'} is where they confirm</>}
            {...of('confirmMessage')}
            rows={6}
            placeholder={usual.message}
          />
        </>
      )}
      <fieldset className="mb-3">
        <legend className="field-label">Fields of its own</legend>
        {rows.map((row, i) => (
          <div key={row.id} className="mb-1.5 flex items-center gap-1">
            <Bare
              label={`Name of field ${i + 1}`}
              maxLength={60}
              placeholder=""
              value={row.label}
              onChange={(typed) => setRows(renameRow(rows, row.id, typed))}
            />
            <TakeAway label={`Remove field ${i + 1}`} onClick={() => setRows(removeRow(rows, row.id))} />
          </div>
        ))}
        <AddOne onClick={() => setRows(addRow(rows, crypto.randomUUID()))}>Add a field</AddOne>
      </fieldset>
      <button className="btn btn-primary btn-sm" type="submit" disabled={busy}>
        Save the list
      </button>
      <Told told={told} className="mt-2" />
    </form>
  );
}
