import Plus from 'lucide-react/icons/plus';
import X from 'lucide-react/icons/x';
import { useId, useState } from 'react';
import type { ListView } from '../../app/lists/lists.ts';
import { Choice, Line } from '../../components/Choice.tsx';
import { keyFromLabel } from '../../core/fields/field.ts';
import { call, messageOf } from '../call.ts';

/** How people come onto a list, and the fields its members have. */
export default function ListSettings({
  list,
  usual,
}: {
  list: Pick<ListView, 'id' | 'seen' | 'name' | 'optIn' | 'confirmSubject' | 'confirmMessage' | 'fields'>;
  /** Our own words for the email that asks. */
  usual: { subject: string; message: string };
}) {
  const id = useId();
  const [value, setValue] = useState(list);
  const [told, setTold] = useState<{ text: string; good: boolean } | null>(null);
  const set = (patch: Partial<typeof list>) => setValue({ ...value, ...patch });
  const save = () =>
    call('PUT', `/api/lists/${list.id}`, value, value.seen).then(
      ({ seen }) => {
        setValue((before) => ({ ...before, seen }));
        setTold({ text: 'Saved.', good: true });
      },
      (error) => setTold({ text: messageOf(error), good: false }),
    );
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void save();
      }}
    >
      <Line label="Name" value={value.name} most={60} onChange={(name) => set({ name })} />
      <Choice
        label="How people come onto it"
        value={value.optIn}
        options={[
          ['single', 'At once (single opt-in)'],
          ['double', 'After they have confirmed by email (double opt-in)'],
        ]}
        onChange={(optIn) => set({ optIn })}
      />
      {value.optIn === 'double' && (
        <>
          <Line
            label="Subject of the email that asks; empty for our own words"
            value={value.confirmSubject}
            most={300}
            placeholder={usual.subject}
            onChange={(confirmSubject) => set({ confirmSubject })}
          />
          <label className="mb-3 block">
            <span className="field-label">Its text; {'{{ item.link }}'} is where they confirm</span>
            <textarea
              className="textarea"
              rows={6}
              placeholder={usual.message}
              value={value.confirmMessage}
              onChange={(event) => set({ confirmMessage: event.target.value })}
            />
          </label>
        </>
      )}
      <fieldset className="mb-3">
        <legend className="field-label">Fields of its own</legend>
        {value.fields.map((field, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a field keeps its key while its name is typed
          <div key={`${id}-${i}`} className="mb-1.5 flex items-center gap-1">
            <input
              className="input input-sm"
              aria-label={`Name of field ${i + 1}`}
              value={field.label}
              maxLength={60}
              onChange={(event) =>
                set({
                  fields: value.fields.map((one, at) =>
                    at === i
                      ? { key: list.fields[i]?.key ?? keyFromLabel(event.target.value), label: event.target.value }
                      : one,
                  ),
                })
              }
            />
            <button
              type="button"
              className="btn btn-ghost btn-xs btn-square"
              aria-label={`Remove field ${i + 1}`}
              onClick={() => set({ fields: value.fields.filter((_, at) => at !== i) })}
            >
              <X className="size-3.5" aria-hidden="true" />
            </button>
          </div>
        ))}
        <button
          type="button"
          className="btn btn-ghost btn-xs"
          onClick={() => set({ fields: [...value.fields, { key: `field_${value.fields.length + 1}`, label: '' }] })}
        >
          <Plus className="size-3.5" aria-hidden="true" />
          Add a field
        </button>
      </fieldset>
      <button className="btn btn-primary btn-sm" type="submit">
        Save the list
      </button>
      {told && (
        <p className={`mt-2 text-[13px] ${told.good ? 'text-success' : 'text-error'}`} role="status">
          {told.text}
        </p>
      )}
    </form>
  );
}
