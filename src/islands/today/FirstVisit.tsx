import Check from 'lucide-react/icons/check';
import { type FormEvent, type ReactNode, useState } from 'react';
import type { FirstStep, FirstStepId, FirstSteps } from '../../app/today/first-steps.ts';
import { call } from '../../client/call.ts';
import { comeAnew, goTo } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { within } from '../../client/within.ts';

const TITLES: Record<FirstStepId, string> = {
  source: 'A source',
  sample: 'A sample',
  answer: 'An answer',
  phone: 'Your own phone',
  live: 'Live',
};

const AHEAD: Record<FirstStepId, string> = {
  source: 'Where new leads come from.',
  sample: 'One lead, as it really comes in.',
  answer: 'A workflow that texts or emails them.',
  phone: 'The answer, seen where your lead will see it.',
  live: 'The next lead is answered within seconds.',
};

/** From first visit to a lead answered: what has really happened is ticked, by itself, whoever did it. */
export default function FirstVisit({ first, now }: { first: FirstSteps; now: number }) {
  const {
    value: visit,
    put,
    problem,
  } = useQuery(['first-steps'], () => call('GET', '/api/first-steps'), { first, at: now });
  const { act, busy, told } = useAction();
  const next = visit.steps.find(({ done }) => !done)?.id ?? null;
  const { practice } = visit;
  const body: Record<FirstStepId, (step: FirstStep) => ReactNode> = {
    source: ({ done, what, href }) =>
      done ? (
        <Done href={href} words={what} />
      ) : (
        <>
          <p className="mb-2">
            Where do new leads come from? A form of your own is made in a minute and needs no account anywhere.
          </p>
          <p className="flex flex-wrap gap-2">
            <a className="btn btn-primary btn-sm" href={within('/sources/new?kind=form-page')}>
              Make a form
            </a>
            <a className="btn btn-plain btn-sm" href={within('/sources/new')}>
              Choose another source
            </a>
          </p>
        </>
      ),
    sample: ({ done, what, href }) =>
      done ? (
        <Done href={href} words={what || 'Something has come in'} />
      ) : (
        <>
          <p className="mb-2">
            {what !== ''
              ? `“${what}” has come in. Say which answer is the name, the email and the phone, and the source is live.`
              : visit.form
                ? 'Fill in your form once yourself, as a lead would. What you type is the sample the answer is written with.'
                : 'Let one lead come in: what they sent is the sample the answer is written with.'}
          </p>
          <p className="flex flex-wrap gap-2">
            {visit.form && (
              <a className="btn btn-primary btn-sm" href={visit.form} target="_blank" rel="noreferrer">
                Open your form
              </a>
            )}
            {!visit.form && practice.url && (
              <a className="btn btn-primary btn-sm" href={practice.url} target="_blank" rel="noreferrer">
                Open the practice desk
              </a>
            )}
            {href && (
              <a className="btn btn-plain btn-sm" href={within(href)}>
                See the source
              </a>
            )}
          </p>
        </>
      ),
    answer: ({ done, what, href }) =>
      done ? (
        <Done href={href} words={what} />
      ) : (
        <>
          <p className="mb-2">
            A workflow says what happens when a lead rings in. Take one that is finished, texts and all, and make it
            yours.
          </p>
          <p className="flex flex-wrap gap-2">
            {visit.starter && (
              <a className="btn btn-primary btn-sm" href={within(visit.starter.href)}>
                See “{visit.starter.name}”
              </a>
            )}
            <a className={`btn btn-sm ${visit.starter ? 'btn-plain' : 'btn-primary'}`} href={within('/workflows/new')}>
              Choose another, or say it yourself
            </a>
            {href && (
              <a className="btn btn-plain btn-sm" href={within(href)}>
                Go on with “{what}”
              </a>
            )}
          </p>
        </>
      ),
    phone: ({ done, what, href }) =>
      done ? (
        <Done href={null} words={`Sent to ${what}`} />
      ) : !visit.canSend ? (
        <>
          <p className="mb-2">
            Messages go out by a text carrier or a mail server of yours. Connect one
            {practice.offered && ', or switch the practice world on below'}.
          </p>
          <a className="btn btn-primary btn-sm" href={within('/connections')}>
            Connect a service
          </a>
        </>
      ) : (
        <>
          <p className="mb-2">
            {visit.myPhone
              ? `On the run sheet, choose a message and press “Send it to my phone”. It goes to ${visit.myPhone} and to nobody else.`
              : 'See the answer where your lead will see it. Tries go to this number and to nobody else.'}
          </p>
          {visit.myPhone === '' && (
            <MyPhone
              busy={busy}
              say={(phone) => act(async () => put(await call('PUT', '/api/first-steps/phone', { phone })))}
            />
          )}
          {visit.myPhone !== '' && href && (
            <p className="flex flex-wrap gap-2">
              <a className="btn btn-primary btn-sm" href={within(href)}>
                Open the run sheet
              </a>
              {practice.url && (
                <a className="btn btn-plain btn-sm" href={practice.url} target="_blank" rel="noreferrer">
                  See the phone
                </a>
              )}
            </p>
          )}
        </>
      ),
    live: ({ done, what, href }) =>
      done ? (
        <Done href={TODAY} words={`${what} has been answered`} />
      ) : (
        <>
          <p className="mb-2">
            Press “Put version 1 live” on the run sheet. From then on the next lead is answered within seconds; the
            first one ticks this off.
          </p>
          {href && (
            <p className="flex flex-wrap gap-2">
              <a className="btn btn-primary btn-sm" href={within(href)}>
                Open the run sheet
              </a>
              {visit.form && (
                <a className="btn btn-plain btn-sm" href={visit.form} target="_blank" rel="noreferrer">
                  Open your form
                </a>
              )}
            </p>
          )}
        </>
      ),
  };
  return (
    <>
      {(told || problem) && (
        <Notice told={told ?? { text: problem, good: false, field: null, code: '', status: 0 }} className="mb-4" />
      )}
      <ol className="relative ml-3 border-l-4 border-brass-line">
        {visit.steps.map((step, i) => (
          <li
            key={step.id}
            className="relative pb-6 pl-8 last:pb-0"
            aria-current={step.id === next ? 'step' : undefined}
          >
            <span
              className={`absolute top-0 -left-[15px] grid size-[26px] place-items-center rounded-full border-2 text-xs font-bold ${
                step.done
                  ? 'border-primary bg-primary text-primary-content'
                  : step.id === next
                    ? 'border-brass-line bg-brass-soft'
                    : 'border-base-300 bg-base-100 text-ink-2'
              }`}
            >
              {step.done ? <Check className="size-4" aria-label="Done" /> : i + 1}
            </span>
            <h2 className={`text-part leading-[26px] ${step.done || step.id === next ? '' : 'text-ink-2'}`}>
              {TITLES[step.id]}
            </h2>
            {step.done || step.id === next ? (
              <div className="mt-1">{body[step.id](step)}</div>
            ) : (
              <p className="mt-1 text-ink-2">{AHEAD[step.id]}</p>
            )}
          </li>
        ))}
      </ol>
      {next === null && (
        <p className="notice good mt-6">
          That was it: a lead was answered.{' '}
          <a className="link" href={within('/')}>
            See Today
          </a>
        </p>
      )}
      {!practice.on && practice.offered && next !== null && (
        <section className="sheet-card mt-8 p-4" aria-label="Practice world">
          <h2 className="mb-1 text-part">Nothing connected yet?</h2>
          <p className="mb-3 max-w-prose text-ink-2">
            Switch the practice world on: an invented ad account, text carrier, mail server, shop and calendar, with
            phones you can look at. Nothing leaves this machine, and one click takes all of it away again.
          </p>
          <button
            type="button"
            className="btn btn-plain btn-sm"
            disabled={busy}
            onClick={() =>
              void act(async () => {
                await call('POST', '/api/practice');
                await comeAnew();
              })
            }
          >
            {busy ? 'One moment …' : 'Switch the practice world on'}
          </button>
        </section>
      )}
      {next !== null && (
        <p className="mt-6 text-note text-ink-2">
          You can leave this at any time and come back to it by your initials at the top.{' '}
          <button
            type="button"
            className="link"
            onClick={() =>
              void act(async () => {
                await call('PUT', '/api/first-steps', { state: 'left' });
                await goTo('/');
              })
            }
          >
            Leave it for good
          </button>
        </p>
      )}
    </>
  );
}

const TODAY = '/';

function Done({ href, words }: { href: string | null; words: string }) {
  return (
    <p className="text-ink-2">
      {href ? (
        <a className="link" href={within(href)}>
          {words}
        </a>
      ) : (
        words
      )}
    </p>
  );
}

function MyPhone({ busy, say }: { busy: boolean; say: (phone: string) => Promise<unknown> }) {
  const [phone, setPhone] = useState('');
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void say(phone);
  };
  return (
    <form className="flex flex-wrap items-end gap-2" onSubmit={submit}>
      <label className="block">
        <span className="field-label">Your phone number</span>
        <input
          className="input input-sm w-56"
          type="tel"
          autoComplete="tel"
          value={phone}
          required
          maxLength={40}
          onChange={(event) => setPhone(event.target.value)}
        />
      </label>
      <button className="btn btn-primary btn-sm" type="submit" disabled={busy}>
        This is my phone
      </button>
    </form>
  );
}
