import Pencil from 'lucide-react/icons/pencil';
import RefreshCw from 'lucide-react/icons/refresh-cw';
import { useState } from 'react';
import type { Sample, SampleChoice } from '../../app/workflows/sample.ts';
import type { PickableField } from '../../components/field-picker.ts';
import { Bare } from '../../components/fields.tsx';
import { foundFields, namedAlike } from '../../components/found-fields.ts';
import { Hint } from '../../components/Hint.tsx';
import { Tool } from '../../components/Tool.tsx';
import { isTouchGroup } from '../../core/source/touches.ts';
import { type FieldReference, GROUP_LABELS, writeReference } from '../../core/template/field-reference.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';

interface Props {
  sample: Sample | null;
  choices: SampleChoice[];
  fields: PickableField[];
  place: Place;
  now: number;
  onChoose: (arrivalId: string | null) => void;
  onRefresh: () => void;
  onPick: (text: string) => void;
  /** Values of the sample that were changed to try something, by reference. */
  values: Record<string, string>;
  onValues: (values: Record<string, string>) => void;
}

const SETTABLE: readonly FieldReference['group'][] = [
  'lead',
  'answers',
  'own',
  'member',
  'where',
  'first_touch',
  'last_touch',
  'booking_touch',
  'found',
  'happened',
];
/** What is put together from others, and whether it happens at all, is not set by itself. */
const mayBeSet = ({ group, key }: FieldReference) =>
  SETTABLE.includes(group) && key !== 'full_name' && key !== 'leave_link' && !(group === 'happened' && key === 'it');

/** From so many fields on they are searched. */
const MANY = 12;

/** The sample lead with every field and value, always in sight: click or drag one into a message. */
export function SampleLead({
  sample,
  choices,
  fields,
  place,
  now,
  onChoose,
  onRefresh,
  onPick,
  values,
  onValues,
}: Props) {
  const [editing, setEditing] = useState(false);
  const changed = Object.keys(values).length;
  const [sought, setSought] = useState('');
  // A touch there was none of is named by its field, and takes no room here.
  const shown = foundFields(fields, sought).filter(
    (field) => editing || field.value !== '' || !isTouchGroup(field.group),
  );
  const alike = namedAlike(fields);
  const groups = [...new Set(shown.map((field) => field.group))];
  return (
    <aside className="overflow-y-auto border-r border-base-300 bg-base-100 p-3" aria-label="Sample lead">
      <div className="mb-2 flex items-center gap-1">
        <h2 className="font-sans text-note font-semibold text-ink-2">Sample lead</h2>
        <Hint term="sample" />
        <span className="grow" />
        {sample && (
          <Tool label="Change its values, to try something" pressed={editing} onClick={() => setEditing(!editing)}>
            <Pencil className="size-4" />
          </Tool>
        )}
        <Tool label="Look for newer samples" onClick={onRefresh}>
          <RefreshCw className="size-4" />
        </Tool>
      </div>
      {sample ? (
        <div className="mb-3 rounded-box bg-base-200 p-2.5">
          <p className="font-semibold break-words">
            {`${sample.context.person.first_name} ${sample.context.person.last_name}`.trim() || 'Without a name'}
          </p>
          <p className="text-xs text-ink-2">
            {sample.sourceName}, {whenWords(sample.receivedAt, now, place)}
          </p>
          <label className="mt-1.5 block">
            <span className="sr-only">Use another sample</span>
            <select
              className="select select-xs"
              value={sample.arrivalId}
              onChange={(event) => onChoose(event.target.value)}
            >
              {!choices.some((choice) => choice.arrivalId === sample.arrivalId) && (
                <option value={sample.arrivalId}>This one</option>
              )}
              {choices.map((choice) => (
                <option key={choice.arrivalId} value={choice.arrivalId}>
                  {choice.name}, {whenWords(choice.receivedAt, now, place)}
                </option>
              ))}
            </select>
          </label>
        </div>
      ) : (
        <p className="mb-3 rounded-box bg-base-200 p-2.5 text-note">
          No sample yet. Choose a source, fill in its form once, and the entry stands here with all its fields.
        </p>
      )}
      {changed > 0 && (
        <p className="mb-2 rounded-md bg-brass-soft px-2 py-1 text-note">
          {changed === 1 ? 'One value is changed' : `${changed} values are changed`}, here only.{' '}
          <button type="button" className="underline" onClick={() => onValues({})}>
            As it came
          </button>
        </p>
      )}
      {fields.length > MANY && (
        <Bare tiny label="Find a field" className="mb-2" maxLength={100} value={sought} onChange={setSought} />
      )}
      {shown.length === 0 && sought !== '' && (
        <p className="px-1.5 text-note text-ink-2">None of that name or value.</p>
      )}
      {groups.map((group) => (
        <section key={group} className="mb-2">
          <h3 className="mb-0.5 font-sans text-note font-semibold text-ink-2">{GROUP_LABELS[group]}</h3>
          {shown
            .filter((field) => field.group === group)
            .map((field) => {
              const reference = writeReference(field);
              const text = `{{ ${reference} }}`;
              if (editing && mayBeSet(field))
                return (
                  <label key={text} className="block px-1.5 py-1">
                    <span className="block text-xs font-semibold text-primary">{field.label}</span>
                    <input
                      className="input input-xs"
                      value={field.value}
                      onChange={(event) => onValues({ ...values, [reference]: event.target.value })}
                    />
                  </label>
                );
              return (
                <button
                  key={text}
                  type="button"
                  draggable
                  className="block w-full cursor-grab rounded-md border border-dashed border-transparent px-1.5 py-1 text-left hover:border-brass-line hover:bg-brass-soft"
                  title={`Put ${field.label} into the message`}
                  onDragStart={(event) => event.dataTransfer.setData('text/plain', text)}
                  onClick={() => onPick(text)}
                >
                  <span className="block text-xs font-semibold text-primary">{field.label}</span>
                  {alike.has(field.label) && <span className="block truncate text-xs text-ink-2">{field.key}</span>}
                  <span className="block truncate text-note">
                    {field.value || <span className="text-ink-3">empty</span>}
                  </span>
                </button>
              );
            })}
        </section>
      ))}
    </aside>
  );
}
