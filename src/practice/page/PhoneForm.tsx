import X from 'lucide-react/icons/x';
import { useState } from 'react';
import type { NetworkForm } from '../world-state.ts';
import { post } from './desk-api.ts';

type Field = NetworkForm['screens'][number]['fields'][number];

/** What the phone itself finds wrong with an answer; null when nothing. */
function wrongWith(field: Field, value: string): string | null {
  if (value.trim() === '') return field.required ? 'Please fill this in.' : null;
  if (field.kind === 'email') return /^[^\s@]+@[^\s@.]+\.[^\s@]+$/.test(value) ? null : 'This is no email address.';
  if (field.kind === 'phone') return /^[+()\d\s.-]{6,20}$/.test(value) ? null : 'This is no phone number.';
  return null;
}

/** A form as it stands on the phone: screen by screen, each checked before the next. */
export function PhoneForm({
  form,
  token,
  number,
  onClose,
}: {
  form: NetworkForm;
  token: string;
  number: string;
  onClose: () => void;
}) {
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const [at, setAt] = useState(0);
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [sent, setSent] = useState(false);
  const screen = form.screens[at]!;
  const last = at === form.screens.length - 1;
  const set = (key: string, value: string) => setAnswers({ ...answers, [key]: value });
  const next = () => {
    const found: Record<string, string> = {};
    for (const field of screen.fields) {
      const wrong = wrongWith(field, answers[field.key] ?? '');
      if (wrong) found[field.key] = wrong;
    }
    if (last && form.consent?.required && answers.consent !== 'true') found.consent = 'Please tick this to go on.';
    setProblems(found);
    if (Object.keys(found).length > 0) return;
    if (!last) return setAt(at + 1);
    setSent(true);
    void post('/chats/form', { number, form: form.id, token, answers });
  };
  return (
    <section
      className="absolute inset-2 z-10 flex flex-col rounded-2xl border border-base-300 bg-base-100 p-3"
      aria-label={form.heading}
      data-testid="phone-form"
    >
      <div className="mb-2 flex items-center justify-between gap-2">
        <h3 className="text-part">{form.heading}</h3>
        <button type="button" className="btn btn-ghost btn-sm btn-square" aria-label="Close the form" onClick={onClose}>
          <X className="size-4" aria-hidden="true" />
        </button>
      </div>
      {sent ? (
        <>
          <p className="grow whitespace-pre-line">{form.thanks}</p>
          <button type="button" className="btn btn-plain btn-sm" onClick={onClose}>
            Back to the chat
          </button>
        </>
      ) : (
        <form
          className="flex min-h-0 grow flex-col"
          noValidate
          onSubmit={(event) => {
            event.preventDefault();
            next();
          }}
        >
          <div className="-mx-1 grow overflow-y-auto px-1">
            {screen.title && <p className="mb-2 font-semibold">{screen.title}</p>}
            {screen.fields.map((field) => (
              <FieldInput
                key={field.key}
                field={field}
                value={answers[field.key] ?? ''}
                problem={problems[field.key]}
                onChange={(value) => set(field.key, value)}
              />
            ))}
            {last && form.consent && (
              <label className="mb-2 flex items-start gap-2 text-note">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm mt-0.5"
                  name="consent"
                  checked={answers.consent === 'true'}
                  onChange={(event) => set('consent', String(event.target.checked))}
                />
                <span>
                  {form.consent.text}
                  {problems.consent && <span className="block text-error">{problems.consent}</span>}
                </span>
              </label>
            )}
          </div>
          <p className="mb-1 text-center text-xs text-ink-2">
            {form.screens.length > 1 && `${at + 1} of ${form.screens.length}`}
          </p>
          <div className="flex gap-2">
            {at > 0 && (
              <button type="button" className="btn btn-plain btn-sm" onClick={() => setAt(at - 1)}>
                Back
              </button>
            )}
            <button type="submit" className="btn btn-primary btn-sm grow">
              {last ? 'Send' : 'Go on'}
            </button>
          </div>
        </form>
      )}
    </section>
  );
}

const TYPES = { short: 'text', email: 'email', phone: 'tel', date: 'date' } as const;

function FieldInput({
  field,
  value,
  problem,
  onChange,
}: {
  field: Field;
  value: string;
  problem: string | undefined;
  onChange: (value: string) => void;
}) {
  const wrong = problem && <span className="block text-xs text-error">{problem}</span>;
  if (field.kind === 'tick')
    return (
      <label className="mb-2 flex items-start gap-2 text-note">
        <input
          type="checkbox"
          className="checkbox checkbox-sm mt-0.5"
          name={field.key}
          checked={value === 'true'}
          onChange={(event) => onChange(event.target.checked ? 'true' : '')}
        />
        <span>
          {field.label}
          {wrong}
        </span>
      </label>
    );
  return (
    <div className="mb-2">
      <label className="field-label" htmlFor={`form-${field.key}`}>
        {field.label}
        {!field.required && <span className="text-ink-2"> (if you like)</span>}
      </label>
      {field.kind === 'choice' ? (
        <select
          id={`form-${field.key}`}
          className="select select-sm"
          name={field.key}
          value={value}
          onChange={(event) => onChange(event.target.value)}
        >
          <option value="">Choose</option>
          {field.choices.map((choice) => (
            <option key={choice}>{choice}</option>
          ))}
        </select>
      ) : (
        <input
          id={`form-${field.key}`}
          className="input input-sm"
          name={field.key}
          type={TYPES[field.kind]}
          value={value}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
      {field.help && <span className="block text-xs text-ink-2">{field.help}</span>}
      {wrong}
    </div>
  );
}
