import { Fragment } from 'react';
import type { StepView } from '../../app/workflows/get-run.ts';
import { within } from '../../client/within.ts';
import { durationWords } from '../../core/words/duration.ts';
import { clockSeconds, exactWords, type Place } from '../../core/words/instant.ts';

const REPORTS: Record<string, string> = {
  sending: 'On its way',
  accepted: 'Accepted',
  delivered: 'Delivered to the phone',
  undelivered: 'Not delivered',
  refused: 'Refused',
  unsure: 'May have gone out: nobody can tell',
  draft: 'To be read and sent',
  dropped: 'Thrown away',
};

/** One step of a run: what it was to do, every try with what was answered, and what came back. */
export function StepDetail({ step, place, leadId }: { step: StepView; place: Place; leadId: string }) {
  const { plan } = step;
  return (
    <section className="sheet-card mb-2.5 p-4" data-testid="step-detail">
      <h3 className="mb-2 text-part">{step.title}</h3>
      {plan && 'why' in plan && (
        <p>
          {plan.why.text}.{' '}
          {(plan.why.code === 'no_consent' || plan.why.code === 'withdrawn') && (
            <a className="link" href={within(`/leads/${leadId}/consent`)}>
              Why
            </a>
          )}
        </p>
      )}
      {plan && 'words' in plan && (
        <>
          <p className="[overflow-wrap:anywhere]">{plan.words}</p>
          {step.attempts.map((attempt) => (
            <p key={attempt.at} className={`text-note ${attempt.outcome === 'refused' ? 'text-error' : 'text-ink-2'}`}>
              {clockSeconds(attempt.at, place)} {attempt.detail}
            </p>
          ))}
          {step.found.length > 0 && (
            <dl className="mt-2 grid grid-cols-[150px_minmax(0,1fr)] gap-y-1 text-note" data-testid="found">
              {step.found.map(({ label, value }) => (
                <Fragment key={label}>
                  <dt className="text-ink-2">{label}</dt>
                  <dd className="[overflow-wrap:anywhere]">{value || <span className="text-ink-3">empty</span>}</dd>
                </Fragment>
              ))}
            </dl>
          )}
        </>
      )}
      {step.instead?.does === 'send' && (
        <p className="notice mb-2 text-note">
          Refused, so it went by {step.instead.message.channel} to {step.instead.message.to} instead.
        </p>
      )}
      {plan?.does === 'send' && (
        <div className="grid gap-4 lg:grid-cols-2">
          <div>
            <p className="mb-1 text-note text-ink-2">
              To {plan.message.to}, from{' '}
              {plan.message.channel === 'text'
                ? `${plan.message.from}, ${plan.message.parts === 1 ? '1 part' : `${plan.message.parts} parts`}`
                : plan.message.channel === 'email'
                  ? plan.message.from.address
                  : plan.message.from}
            </p>
            {plan.message.channel === 'email' && (
              <p className="mb-1 font-semibold break-words">{plan.message.subject}</p>
            )}
            <p
              className="max-h-60 overflow-y-auto rounded-lg bg-base-200 p-2.5 break-words whitespace-pre-wrap"
              data-testid="message-sent"
            >
              {plan.message.text}
            </p>
            {plan.note && <p className="mt-1 text-note text-ink-2">{plan.note}.</p>}
          </div>
          <div>
            <p className="mb-1 text-note text-ink-2">What was answered</p>
            <ul className="text-note">
              {step.attempts.map((attempt) => (
                <li key={attempt.at} className="flex gap-2 border-b border-base-300 py-1 last:border-0">
                  <time className="shrink-0 text-ink-2" dateTime={attempt.at} title={exactWords(attempt.at, place)}>
                    {clockSeconds(attempt.at, place)}
                  </time>
                  <span
                    className={`min-w-0 grow break-words ${attempt.outcome === 'refused' ? 'text-error' : attempt.outcome === 'again' ? 'text-warning' : ''}`}
                  >
                    {attempt.detail}
                  </span>
                  <span className="shrink-0 text-ink-2">{durationWords(attempt.ms)}</span>
                </li>
              ))}
              {step.nextTryAt && (
                <li className="py-1 text-warning">Next try at {clockSeconds(step.nextTryAt, place)}</li>
              )}
            </ul>
            {step.delivery && (
              <p className="mt-1 text-note">
                <span
                  className={`pill ${step.delivery.state === 'delivered' ? 'good' : ['refused', 'undelivered', 'unsure'].includes(step.delivery.state) ? 'bad' : ''}`}
                >
                  {REPORTS[step.delivery.state]}
                </span>{' '}
                {step.delivery.readAt && <span className="pill good">Read</span>}{' '}
                {step.opened && <span className="pill good">Opened</span>}{' '}
                {step.delivery.state === 'draft' && (
                  <a className="link" href={within('/messages')}>
                    Read it and send it
                  </a>
                )}
                {step.delivery.reportedAt && (
                  <span className="text-ink-2">{clockSeconds(step.delivery.reportedAt, place)}</span>
                )}
                <span
                  className="mt-1 block font-mono text-xs break-all text-ink-2"
                  title="The same in the carrier's and mail server's records"
                >
                  Reference {step.delivery.key}
                </span>
              </p>
            )}
            {step.followed.map((one) => (
              <p key={one.url} className="mt-1 text-note break-all">
                Clicked {one.times === 1 ? 'once' : `${one.times} times`}: {one.url}
              </p>
            ))}
            {step.form && (
              <p className="mt-1 text-note whitespace-pre-line" data-testid="form-filled">
                Form “{step.form.name}”:{' '}
                {step.form.text === null ? 'not filled in yet' : `filled in\n${step.form.text}`}
              </p>
            )}
            {step.asked && <Asked asked={step.asked} place={place} />}
          </div>
        </div>
      )}
    </section>
  );
}

const ASKED: Record<string, string> = {
  open: 'Not answered yet',
  answered: 'Answered',
  given_up: 'No answer fitted',
  closed: 'Closed: they asked for no more',
};

/** What came back to a question. */
function Asked({ asked, place }: { asked: NonNullable<StepView['asked']>; place: Place }) {
  const { state, times, answer, replies, until } = asked;
  return (
    <div className="mt-2 text-note" data-testid="asked">
      <p>
        <span className={`pill ${state === 'answered' ? 'good' : state === 'given_up' ? 'warn' : ''}`}>
          {ASKED[state]}
        </span>{' '}
        {answer !== null && <strong>{answer}</strong>}{' '}
        <span className="text-ink-2">
          {times > 1 ? `Asked ${times} times.` : 'Asked once.'}
          {state === 'open' && ` An answer counts until ${exactWords(until, place)}.`}
        </span>
      </p>
      {replies.map((text, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: replies only ever come at the end
        <p key={i} className="text-ink-2">
          They wrote “{text}”
        </p>
      ))}
    </div>
  );
}
