import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import Trash2 from 'lucide-react/icons/trash-2';
import {
  answering,
  choicesOf,
  type LEAD_KEYS,
  leadKeyOf,
  leadKeysFor,
  moved,
  otherKeys,
  reworded,
  type Screen,
  withQuestion,
  withScreen,
} from '../core/form/edit-screens.ts';
import { FIELD_KIND_LABELS } from '../core/form/field-kinds.ts';
import type { FormField } from '../core/form/form-page.ts';
import { Bare, Line } from './fields.tsx';
import { Tool } from './Tool.tsx';

const LEAD_LABELS: Record<(typeof LEAD_KEYS)[number], string> = {
  first_name: 'their first name',
  last_name: 'their last name',
  email: 'their email',
};

/** The screens of a form with their questions: added, moved, removed. */
export function ScreensEditor({
  screens,
  kinds,
  kept,
  whose = false,
  onChange,
}: {
  screens: readonly Screen[];
  /** Kinds of answers this form can ask for. */
  kinds: readonly FormField['kind'][];
  /** Keys of questions that have been saved: answers are known by them, so another wording changes none of them. */
  kept: readonly string[];
  /** A question says whether its answer is a field of the lead itself. */
  whose?: boolean;
  onChange: (screens: Screen[]) => void;
}) {
  const setFields = (index: number, fields: FormField[]) => onChange(withScreen(screens, index, { fields }));
  return (
    <>
      {screens.map((screen, index) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a screen has no identity but its place.
        <fieldset key={index} className="mb-3 rounded-lg border border-base-300 p-3">
          <legend className="px-1 text-note font-semibold">
            {screens.length > 1 ? `Screen ${index + 1} of ${screens.length}` : 'Questions'}
          </legend>
          {screens.length > 1 && (
            <Line
              label="Heading of this screen"
              small
              value={screen.title}
              maxLength={2000}
              onChange={(title) => onChange(withScreen(screens, index, { title }))}
            />
          )}
          <ul>
            {screen.fields.map((field, at) => (
              <FieldEditor
                // biome-ignore lint/suspicious/noArrayIndexKey: a new question's key goes with its words
                key={at}
                field={field}
                kinds={kinds}
                whose={whose}
                kept={kept}
                taken={otherKeys(screens, field)}
                onChange={(next) => setFields(index, screen.fields.with(at, next))}
                onMove={(by) => setFields(index, moved(screen.fields, at, by))}
                onRemove={() => setFields(index, screen.fields.toSpliced(at, 1))}
              />
            ))}
          </ul>
          <div className="flex gap-2">
            <button
              type="button"
              className="btn btn-plain btn-xs"
              onClick={() => onChange(withQuestion(screens, index))}
            >
              Add a question
            </button>
            {screens.length > 1 && (
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                onClick={() => onChange(screens.toSpliced(index, 1))}
              >
                Remove this screen
              </button>
            )}
          </div>
        </fieldset>
      ))}
      <button
        type="button"
        className="btn btn-plain btn-xs mb-3"
        onClick={() => onChange([...screens, { title: '', fields: [] }])}
      >
        Add a screen
      </button>
    </>
  );
}

function FieldEditor({
  field,
  kinds,
  whose,
  kept,
  taken,
  onChange,
  onMove,
  onRemove,
}: {
  field: FormField;
  kinds: readonly FormField['kind'][];
  whose: boolean;
  /** Keys that have been saved. */
  kept: readonly string[];
  /** Keys of the other questions. */
  taken: readonly string[];
  onChange: (field: FormField) => void;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
}) {
  return (
    <li className="mb-2 border-b border-base-300 pb-2">
      <div className="flex gap-1">
        <Bare
          label="Question"
          placeholder="What do you ask?"
          value={field.label}
          onChange={(typed) => onChange(reworded(field, typed, taken, kept))}
        />
        <Tool label={`Move ${field.label} up`} large onClick={() => onMove(-1)}>
          <ArrowUp className="size-4" />
        </Tool>
        <Tool label={`Move ${field.label} down`} large onClick={() => onMove(1)}>
          <ArrowDown className="size-4" />
        </Tool>
        <Tool label={`Remove ${field.label}`} large onClick={onRemove}>
          <Trash2 className="size-4" />
        </Tool>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-3">
        <select
          className="select select-xs"
          style={{ width: 150 }}
          aria-label={`Kind of answer to ${field.label}`}
          value={field.kind}
          onChange={(event) => onChange({ ...field, kind: event.target.value as FormField['kind'] })}
        >
          {kinds.map((kind) => (
            <option key={kind} value={kind}>
              {FIELD_KIND_LABELS[kind]}
            </option>
          ))}
        </select>
        <label className="flex items-center gap-1.5 text-note whitespace-nowrap">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={field.required}
            onChange={(event) => onChange({ ...field, required: event.target.checked })}
          />
          Must be answered
        </label>
        {whose && (
          <label className="flex items-center gap-1.5 text-note whitespace-nowrap">
            It is
            <select
              className="select select-xs"
              style={{ width: 190 }}
              aria-label={`Where the answer to ${field.label} goes`}
              value={leadKeyOf(field)}
              onChange={(event) => onChange(answering(field, event.target.value, taken))}
            >
              <option value="">a field of its own: {field.key}</option>
              {leadKeysFor(field, taken).map((leadKey) => (
                <option key={leadKey} value={leadKey}>
                  {LEAD_LABELS[leadKey]}
                </option>
              ))}
            </select>
          </label>
        )}
      </div>
      {field.kind === 'choice' && (
        <textarea
          className="textarea textarea-sm mt-1"
          rows={3}
          aria-label={`Answers to ${field.label}, one per line`}
          placeholder={'Piano\nViolin\nCello'}
          defaultValue={field.choices.join('\n')}
          onChange={(event) => onChange({ ...field, choices: choicesOf(event.target.value) })}
        />
      )}
    </li>
  );
}
