import parsePhone from 'libphonenumber-js';
import { useState } from 'react';
import { someoneNew } from '../someone-new.ts';
import type { AdForm, FormQuestion, Push } from '../world-state.ts';
import { type DeskState, post } from './desk-api.ts';
import { Pushes } from './Pushes.tsx';

interface Props {
  desk: DeskState;
  /** The phone and mailbox the entry belongs to, so that they can be shown. */
  onSent: (phone: string | null, email: string | null) => void;
}

/** A form as a customer sees it, and what became of each entry. */
export function AdForms({ desk, onSent }: Props) {
  const [formId, setFormId] = useState(desk.forms[0]!.id);
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const [told, setTold] = useState('');
  const form = desk.forms.find((form) => form.id === formId)!;
  const pushes = desk.pushes.filter((push) => push.service === 'ads' && push.topic === `form:${formId}`).reverse();
  const set = (key: string, value: string) => setAnswers((before) => ({ ...before, [key]: value }));

  const fill = () => {
    const person = someoneNew();
    const values: Record<string, string> = {};
    for (const question of form.questions) values[question.key] = sampleAnswer(question, person);
    setAnswers(values);
  };
  const send = async () => {
    setTold('Sending …');
    try {
      const { pushes: made } = await post<{ pushes: Push[] }>(`/forms/${form.id}/entries`, { answers });
      const phone = form.questions.find((question) => question.kind === 'phone');
      const email = form.questions.find((question) => question.kind === 'email');
      const read = parsePhone(answers[phone?.key ?? ''] ?? '', 'GB');
      onSent(read?.isPossible() ? read.number : null, answers[email?.key ?? '']?.trim().toLowerCase() || null);
      setTold(
        made.length === 0
          ? 'Kept by the ad platform. Nobody has asked for entries of this form yet.'
          : 'Thank you. Your details have been sent.',
      );
    } catch (error) {
      setTold((error as Error).message);
    }
  };

  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-2" role="tablist" aria-label="Forms">
        {desk.forms.map((form) => (
          <button
            key={form.id}
            type="button"
            role="tab"
            aria-selected={form.id === formId}
            className={`btn btn-sm ${form.id === formId ? 'btn-primary' : 'btn-plain'}`}
            onClick={() => {
              setFormId(form.id);
              setAnswers({});
              setTold('');
            }}
          >
            {form.name}
          </button>
        ))}
      </div>
      <div className="flex items-start justify-between gap-2">
        <div>
          <h2 className="text-lg">{form.name} form</h2>
          <p className="text-note text-ink-2">As a customer sees it, after tapping the ad "{form.ad.ad}"</p>
        </div>
        <span className={`pill ${form.live ? 'good' : ''}`}>
          {form.live ? 'Live on the page' : 'Not live on the page'}
        </span>
      </div>
      <form
        className="mt-3"
        onSubmit={(event) => {
          event.preventDefault();
          void send();
        }}
      >
        <Questions form={form} answers={answers} set={set} />
        <div className="mt-4 flex gap-3">
          <button className="btn btn-primary" type="submit">
            Send my details
          </button>
          <button className="btn btn-ghost" type="button" onClick={fill}>
            Fill with someone new
          </button>
        </div>
        <p className="mt-2 min-h-5 text-note text-ink-2" role="status">
          {told}
        </p>
      </form>
      <Pushes pushes={pushes} none="Nothing yet. Fill in the form above and send it." />
      <div className="mt-3 flex flex-wrap items-center gap-3 text-note text-ink-2">
        <label className="flex items-center gap-2 whitespace-nowrap">
          Entries are held for
          <input
            className="input input-xs"
            style={{ width: '4.5rem' }}
            type="number"
            min={1}
            max={400}
            defaultValue={desk.adsHoldDays}
            onBlur={(event) => void post('/hold-days', { days: Number(event.target.value) })}
          />
          days
        </label>
        <button
          type="button"
          className="btn btn-plain btn-xs"
          onClick={() => void post(`/forms/${form.id}/copy`, { name: `${form.name} again` })}
        >
          Make another form like this on the page
        </button>
      </div>
    </>
  );
}

function Questions({
  form,
  answers,
  set,
}: {
  form: AdForm;
  answers: Record<string, string>;
  set: (key: string, value: string) => void;
}) {
  return (
    <div className="grid grid-cols-2 gap-x-3 gap-y-3">
      {form.questions.map((question) => {
        const id = `q-${question.key}`;
        const value = answers[question.key] ?? '';
        if (question.kind === 'tick')
          return (
            <label key={id} className="col-span-2 flex items-start gap-2.5">
              <input
                id={id}
                type="checkbox"
                className="checkbox checkbox-sm mt-0.5"
                checked={value === 'true'}
                onChange={(event) => set(question.key, event.target.checked ? 'true' : 'false')}
              />
              <span>{question.label}</span>
            </label>
          );
        const half = /^(first|last)_name$/.test(question.key);
        return (
          <div key={id} className={half ? '' : 'col-span-2'}>
            <label className="field-label" htmlFor={id}>
              {question.label}
            </label>
            {question.kind === 'choice' ? (
              <select
                id={id}
                className="select"
                value={value}
                onChange={(event) => set(question.key, event.target.value)}
              >
                <option value="">Choose</option>
                {question.choices?.map((choice) => (
                  <option key={choice}>{choice}</option>
                ))}
              </select>
            ) : (
              <input
                id={id}
                className="input"
                value={value}
                onChange={(event) => set(question.key, event.target.value)}
              />
            )}
          </div>
        );
      })}
    </div>
  );
}

function sampleAnswer(question: FormQuestion, person: ReturnType<typeof someoneNew>): string {
  if (question.key === 'first_name') return person.first;
  if (question.key === 'last_name') return person.last;
  if (question.kind === 'email') return person.email;
  if (question.kind === 'phone') return person.phone;
  if (question.kind === 'tick') return 'true';
  if (question.kind === 'choice') return question.choices![Math.floor(Math.random() * question.choices!.length)]!;
  return `${person.first} ${person.last}`;
}
