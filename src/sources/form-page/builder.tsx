import ArrowDown from 'lucide-react/icons/arrow-down';
import ArrowUp from 'lucide-react/icons/arrow-up';
import Trash2 from 'lucide-react/icons/trash-2';
import { useState } from 'react';
import { FIELD_KIND_LABELS, FIELD_KINDS } from '../../core/form/field-kinds.ts';
import type { FormField, FormPage } from '../../core/form/form-page.ts';
import type { SourcePanelProps } from '../source-form.ts';

const keyFrom = (label: string, taken: string[]): string => {
  const base =
    label
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^[^a-z]+|_+$/g, '')
      .slice(0, 40) || 'answer';
  for (let n = 1; ; n++) {
    const key = n === 1 ? base : `${base}_${n}`;
    if (!taken.includes(key)) return key;
  }
};

/** The page to build, with its look on a phone beside it. */
export default function FormPageBuilder({ source, change }: SourcePanelProps) {
  const saved = source.settings.page as FormPage;
  const [page, setPage] = useState(saved);
  const [problem, setProblem] = useState('');
  const [shownAt, setShownAt] = useState(0);
  const changed = JSON.stringify(page) !== JSON.stringify(saved);
  const set = (patch: Partial<FormPage>) => setPage({ ...page, ...patch });
  const setScreen = (index: number, fields: FormField[], title = page.screens[index]!.title) =>
    set({ screens: page.screens.map((screen, i) => (i === index ? { title, fields } : screen)) });
  const keys = page.screens.flatMap((screen) => screen.fields.map((field) => field.key));
  const save = () =>
    change({ page }).then(
      () => {
        setProblem('');
        setShownAt(Date.now());
      },
      (error: unknown) => setProblem(error instanceof Error ? error.message : String(error)),
    );
  return (
    <div className="grid gap-4 xl:grid-cols-[minmax(0,1fr)_380px]">
      <section className="sheet-card p-4" data-testid="form-editor" aria-label="Build the page">
        <div>
          <Line label="Title" value={page.title} onChange={(title) => set({ title })} />
          <Area label="Introduction" value={page.intro} onChange={(intro) => set({ intro })} />
          {page.screens.map((screen, index) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a screen has no identity but its place.
            <fieldset key={index} className="mb-3 rounded-lg border border-base-300 p-3">
              <legend className="px-1 text-[13px] font-semibold">
                {page.screens.length > 1 ? `Screen ${index + 1} of ${page.screens.length}` : 'Questions'}
              </legend>
              {page.screens.length > 1 && (
                <Line
                  label="Heading of this screen"
                  value={screen.title}
                  onChange={(title) => setScreen(index, screen.fields, title)}
                />
              )}
              <ul>
                {screen.fields.map((field, at) => (
                  <FieldEditor
                    key={field.key}
                    field={field}
                    onChange={(next) =>
                      setScreen(
                        index,
                        screen.fields.map((one) => (one === field ? next : one)),
                      )
                    }
                    onMove={(by) => {
                      const fields = [...screen.fields];
                      const to = at + by;
                      if (to < 0 || to >= fields.length) return;
                      fields.splice(at, 1);
                      fields.splice(to, 0, field);
                      setScreen(index, fields);
                    }}
                    onRemove={() =>
                      setScreen(
                        index,
                        screen.fields.filter((one) => one !== field),
                      )
                    }
                  />
                ))}
              </ul>
              <div className="flex gap-2">
                <button
                  type="button"
                  className="btn btn-plain btn-xs"
                  onClick={() =>
                    setScreen(index, [
                      ...screen.fields,
                      {
                        key: keyFrom('question', keys),
                        label: 'New question',
                        kind: 'short',
                        required: false,
                        help: '',
                        choices: [],
                      },
                    ])
                  }
                >
                  Add a question
                </button>
                {page.screens.length > 1 && (
                  <button
                    type="button"
                    className="btn btn-ghost btn-xs"
                    onClick={() => set({ screens: page.screens.filter((_, i) => i !== index) })}
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
            onClick={() => set({ screens: [...page.screens, { title: '', fields: [] }] })}
          >
            Add a screen
          </button>
          <label className="mb-2 flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={page.consent.asked}
              onChange={(event) => set({ consent: { ...page.consent, asked: event.target.checked } })}
            />
            Ask for consent to texts and email
          </label>
          {page.consent.asked && (
            <>
              <Area
                label={`What people agree to${saved.consent.wordings.length > 0 ? ` (version ${saved.consent.wordings.at(-1)!.version} is on the page; a change makes a new version)` : ''}`}
                value={page.consent.text}
                onChange={(text) => set({ consent: { ...page.consent, text } })}
              />
              <label className="mb-3 flex items-center gap-2 text-[13px]">
                <input
                  type="checkbox"
                  className="checkbox checkbox-sm"
                  checked={page.consent.required}
                  onChange={(event) => set({ consent: { ...page.consent, required: event.target.checked } })}
                />
                Nobody can send the form without agreeing
              </label>
            </>
          )}
          <Line label="Words on the button" value={page.button} onChange={(button) => set({ button })} />
          <Line
            label="Thank-you screen, title"
            value={page.thanks.title}
            onChange={(title) => set({ thanks: { ...page.thanks, title } })}
          />
          <Area
            label="Thank-you screen, text"
            value={page.thanks.text}
            onChange={(text) => set({ thanks: { ...page.thanks, text } })}
          />
          {problem && (
            <p className="notice bad mb-2" role="alert">
              {problem}
            </p>
          )}
          <button type="button" className="btn btn-primary btn-sm" disabled={!changed} onClick={() => void save()}>
            Put this on the page
          </button>
          {changed && <span className="ml-3 text-[13px] text-ink-2">Visitors still see the page as it was.</span>}
        </div>
      </section>
      <section className="sheet-card self-start p-4" aria-label="As on a phone">
        <h2 className="text-[15px]">As on a phone</h2>
        <iframe
          key={shownAt}
          title="The page as on a phone"
          src={source.address}
          className="mx-auto mt-3 h-[560px] w-[340px] max-w-full rounded-2xl border border-base-300"
        />
      </section>
    </div>
  );
}

function FieldEditor({
  field,
  onChange,
  onMove,
  onRemove,
}: {
  field: FormField;
  onChange: (field: FormField) => void;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
}) {
  return (
    <li className="mb-2 border-b border-base-300 pb-2">
      <div className="flex gap-1">
        <input
          className="input input-sm"
          aria-label="Question"
          value={field.label}
          onChange={(event) => onChange({ ...field, label: event.target.value })}
        />
        <button
          type="button"
          className="btn btn-ghost btn-sm btn-square"
          aria-label={`Move ${field.label} up`}
          onClick={() => onMove(-1)}
        >
          <ArrowUp className="size-4" aria-hidden="true" />
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-sm btn-square"
          aria-label={`Move ${field.label} down`}
          onClick={() => onMove(1)}
        >
          <ArrowDown className="size-4" aria-hidden="true" />
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-sm btn-square"
          aria-label={`Remove ${field.label}`}
          onClick={onRemove}
        >
          <Trash2 className="size-4" aria-hidden="true" />
        </button>
      </div>
      <div className="mt-1 flex items-center gap-3">
        <select
          className="select select-xs"
          style={{ width: 150 }}
          aria-label={`Kind of answer to ${field.label}`}
          value={field.kind}
          onChange={(event) => onChange({ ...field, kind: event.target.value as FormField['kind'] })}
        >
          {FIELD_KINDS.map((kind) => (
            <option key={kind} value={kind}>
              {FIELD_KIND_LABELS[kind]}
            </option>
          ))}
        </select>
        <label className="flex items-center gap-1.5 text-[13px] whitespace-nowrap">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={field.required}
            onChange={(event) => onChange({ ...field, required: event.target.checked })}
          />
          Must be answered
        </label>
      </div>
      {field.kind === 'choice' && (
        <input
          className="input input-sm mt-1"
          aria-label={`Answers to ${field.label}`}
          placeholder="Piano, Violin, Cello"
          defaultValue={field.choices.join(', ')}
          onChange={(event) =>
            onChange({
              ...field,
              choices: event.target.value
                .split(',')
                .map((one) => one.trim())
                .filter(Boolean),
            })
          }
        />
      )}
    </li>
  );
}

function Line({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) {
  return (
    <label className="mb-3 block">
      <span className="field-label">{label}</span>
      <input className="input input-sm" value={value} onChange={(event) => onChange(event.target.value)} />
    </label>
  );
}

function Area({ label, value, onChange }: { label: string; value: string; onChange: (value: string) => void }) {
  return (
    <label className="mb-3 block">
      <span className="field-label">{label}</span>
      <textarea className="textarea" rows={2} value={value} onChange={(event) => onChange(event.target.value)} />
    </label>
  );
}
