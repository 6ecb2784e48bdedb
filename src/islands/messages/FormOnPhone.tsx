import { useState } from 'react';
import type { ChatForm } from '../../core/form/chat-form.ts';

/** A chat form as it will stand on a phone, screen by screen. */
export function FormOnPhone({ form, business }: { form: ChatForm; business: string }) {
  const [chosen, setAt] = useState(0);
  const at = Math.min(chosen, form.screens.length - 1);
  const screen = form.screens[at];
  const last = at === form.screens.length - 1;
  return (
    <div className="phone mb-4 bg-base-200 p-3" data-testid="form-preview">
      <p className="mb-2 text-center text-xs text-ink-2">{business}, in chat</p>
      <div className="min-h-[360px] rounded-2xl bg-base-100 p-3">
        <p className="mb-2 font-head text-part font-semibold">{form.heading || 'No heading yet'}</p>
        {screen?.title && <p className="mb-2 font-semibold">{screen.title}</p>}
        {screen?.fields.map((field) =>
          field.kind === 'tick' ? (
            <p key={field.key} className="mb-2 flex items-start gap-2 text-note">
              <span className="mt-0.5 size-4 shrink-0 rounded border border-base-300" aria-hidden="true" />
              {field.label}
            </p>
          ) : (
            <div key={field.key} className="mb-2">
              <p className="field-label">
                {field.label}
                {!field.required && <span className="text-ink-2"> (if you like)</span>}
              </p>
              <p className="min-h-8 rounded-lg border border-base-300 px-2 py-1.5 text-note text-ink-2">
                {field.kind === 'choice' ? field.choices.join(' / ') || 'Nothing to choose from yet' : field.help}
              </p>
            </div>
          ),
        )}
        {last && form.consent.asked && (
          <p className="mb-2 flex items-start gap-2 text-note">
            <span className="mt-0.5 size-4 shrink-0 rounded border border-base-300" aria-hidden="true" />
            {form.consent.text}
          </p>
        )}
      </div>
      <div className="mt-2 flex items-center justify-between gap-2 text-note">
        <button type="button" className="btn btn-ghost btn-xs" disabled={at === 0} onClick={() => setAt(at - 1)}>
          Back
        </button>
        <span className="text-ink-2">
          {at + 1} of {form.screens.length}
        </span>
        <button type="button" className="btn btn-ghost btn-xs" disabled={last} onClick={() => setAt(at + 1)}>
          Go on
        </button>
      </div>
    </div>
  );
}
