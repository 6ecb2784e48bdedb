import type { Plan } from '../core/workflow/plan.ts';
import { EmailPreview } from './EmailPreview.tsx';

/** What the sample lead would get, live as it is written. */
export function MessagePreview({
  plan,
  name,
  laidOut = false,
}: {
  plan: Plan | null;
  name: string;
  /** An email of a template, shown as it will look. */
  laidOut?: boolean;
}) {
  if (!plan) return <p className="text-note text-ink-2">Catch a sample lead to see what they would get.</p>;
  if (plan.does !== 'send' && !('why' in plan)) return null;
  if (plan.does !== 'send')
    return (
      <p className="notice text-note">
        {name === '' ? '' : `${name} gets nothing. `}
        {plan.why.text}.
      </p>
    );
  const { message } = plan;
  if (message.channel !== 'email')
    return (
      <>
        <div
          className="rounded-2xl rounded-bl-sm bg-base-200 px-3 py-2.5 text-note break-words whitespace-pre-wrap"
          dir="auto"
          data-testid="preview"
        >
          {message.channel === 'chat' && message.heading && <p className="font-semibold">{message.heading}</p>}
          {message.text}
          {message.channel === 'chat' && message.closing && <p className="text-note text-ink-2">{message.closing}</p>}
          {message.channel === 'chat' &&
            [...(message.buttons ?? []), ...(message.form ? [`▤ ${message.form.open}`] : [])].map((button) => (
              <span
                key={button}
                className="mt-1.5 block rounded-lg border border-base-300 bg-base-100 px-2 py-1 text-center"
              >
                {button}
              </span>
            ))}
        </div>
        {plan.note && <p className="mt-1.5 text-note text-ink-2">{plan.note}.</p>}
      </>
    );
  return (
    <div className="rounded-lg border border-base-300 bg-base-200 p-3 text-note" data-testid="preview">
      <p className="text-ink-2">
        {message.from.name} to {message.toName || message.to}
      </p>
      <p className="mb-2 font-semibold break-words">{message.subject}</p>
      {laidOut ? (
        <EmailPreview html={message.html} room={290} />
      ) : (
        <p className="max-h-52 overflow-y-auto break-words whitespace-pre-wrap">{message.text}</p>
      )}
    </div>
  );
}

/** The same under its heading, as the forms of steps have it last. */
export const WhatTheyGet = (props: Parameters<typeof MessagePreview>[0]) => (
  <>
    <h3 className="mt-4 mb-1.5 font-sans text-note font-semibold text-ink-2">What {props.name} gets</h3>
    <MessagePreview {...props} />
  </>
);
