import { useMemo, useState } from 'react';
import type { ChatFormView } from '../../app/messages/chat-forms.ts';
import { call } from '../../client/call.ts';
import { useAction } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';
import { bound } from '../../components/bound.ts';
import { Area, Line, Tick } from '../../components/fields.tsx';
import { ScreensEditor } from '../../components/ScreensEditor.tsx';
import { CHAT_FORM_MOST, ChatForm } from '../../core/form/chat-form.ts';
import { CHAT_FIELD_KINDS } from '../../core/form/field-kinds.ts';
import { CHANNEL_WORDS, CHANNELS } from '../../core/workflow/channel.ts';
import { PURPOSE_WORDS, PURPOSES } from '../../core/workflow/purpose.ts';
import { FormOnPhone } from './FormOnPhone.tsx';
import { VersionButtons } from './VersionButtons.tsx';

const timesWords = (n: number) => (n === 1 ? 'once' : `${n} times`);

const toggled = <T,>(list: readonly T[], one: T, on: boolean) =>
  on ? [...list, one] : list.filter((each) => each !== one);

/** A chat form: its screens, the consent it asks for, how it looks on a phone, and its version that is sent. */
export default function ChatFormEditor({
  first,
  business,
  changes,
}: {
  first: ChatFormView;
  business: string;
  changes: boolean;
}) {
  const [view, setView] = useState(first);
  const [form, setForm] = useState(first.content);
  const action = useAction();
  const dirty = JSON.stringify(form) !== JSON.stringify(view.content);
  const wrong = useMemo(() => {
    const read = ChatForm.safeParse(form);
    return read.success ? '' : (read.error.issues[0]?.message ?? '');
  }, [form]);
  const set = (patch: Partial<ChatForm>) => setForm({ ...form, ...patch });
  const of = bound(form, set);
  const setConsent = (patch: Partial<ChatForm['consent']>) => set({ consent: { ...form.consent, ...patch } });
  const act = (work: () => Promise<ChatFormView>) =>
    action.act(async () => {
      const next = await work();
      setView(next);
      setForm(next.content);
    });
  const save = async () => {
    const next = await call('PUT', `/api/chat-forms/${first.id}`, form, view.seen);
    setView(next);
    return next;
  };
  const wording = view.content.consent.wordings.at(-1);
  return (
    <main className="mx-auto grid max-w-[1000px] gap-6 p-5 grid-cols-1 md:grid-cols-[minmax(0,1fr)_300px]">
      <section className="sheet-card p-4" data-testid="chat-form-editor">
        <p className="mb-1 text-note text-ink-2">
          <a className="hover:underline" href={within('/messages/chat-forms')}>
            Chat forms
          </a>
        </p>
        <h1 className="mb-3 text-xl">{view.name}</h1>
        <Line label="Heading" {...of('heading')} maxLength={CHAT_FORM_MOST.heading} />
        <Line label="On the button that opens it" {...of('open')} maxLength={CHAT_FORM_MOST.open} />
        <ScreensEditor
          screens={form.screens}
          kinds={CHAT_FIELD_KINDS}
          kept={view.content.screens.flatMap((screen) => screen.fields.map((field) => field.key))}
          whose
          onChange={(screens) => set({ screens })}
        />
        <fieldset className="mb-3 rounded-lg border border-base-300 p-3">
          <legend className="px-1 text-note font-semibold">Consent, at the end of the last screen</legend>
          <Tick label="Ask for consent" value={form.consent.asked} onChange={(asked) => setConsent({ asked })} />
          {form.consent.asked && (
            <>
              <Area
                label={
                  <>
                    What they agree to
                    {wording && ` (version ${wording.version} of the wording; a change makes a new version)`}
                  </>
                }
                block="mb-2 block"
                value={form.consent.text}
                rows={2}
                maxLength={1000}
                onChange={(typed) => setConsent({ text: typed })}
              />
              <p className="field-label">It allows</p>
              <div className="flex flex-wrap gap-x-5">
                {CHANNELS.map((channel) => (
                  <Tick
                    key={channel}
                    label={CHANNEL_WORDS[channel].many}
                    value={form.consent.channels.includes(channel)}
                    onChange={(on) => setConsent({ channels: toggled(form.consent.channels, channel, on) })}
                  />
                ))}
              </div>
              <div className="flex flex-wrap gap-x-5">
                {PURPOSES.map((purpose) => (
                  <Tick
                    key={purpose}
                    label={PURPOSE_WORDS[purpose]}
                    value={form.consent.purposes.includes(purpose)}
                    onChange={(on) => setConsent({ purposes: toggled(form.consent.purposes, purpose, on) })}
                  />
                ))}
              </div>
              <Tick
                label="Nobody can send the form without agreeing"
                value={form.consent.required}
                onChange={(required) => setConsent({ required })}
              />
            </>
          )}
        </fieldset>
        <Line label="Read on the phone once it is sent" {...of('thanks')} maxLength={CHAT_FORM_MOST.thanks} />
      </section>
      <aside className="self-start">
        <FormOnPhone form={form} business={business} />
        <div className="sheet-card p-4">
          <p className="mb-1">
            <span className={`pill ${view.draft ? '' : 'good'}`} data-testid="form-state">
              {view.draft ? 'Draft' : 'Live'}
            </span>{' '}
            <span className="text-note text-ink-2">version {view.version}</span>
          </p>
          {view.draft && view.liveVersion !== null && (
            <p className="mb-2 text-note text-ink-2">Version {view.liveVersion} is sent meanwhile.</p>
          )}
          {view.sent > 0 && (
            <p className="mb-2 text-note text-ink-2">
              Sent {timesWords(view.sent)}, filled in {timesWords(view.answered)}.
            </p>
          )}
          {wrong && <p className="notice warn mb-2 text-note">{wrong}.</p>}
          <VersionButtons
            what="form"
            share={`/api/chat-forms/${first.id}/share`}
            version={view.version}
            draft={view.draft}
            dirty={dirty}
            mayOut={wrong === '' && (dirty || view.draft)}
            out="Put it live"
            usedBy={view.usedBy}
            told={action.told}
            changes={changes}
            onSave={wrong === '' ? () => void act(save) : null}
            onOut={() =>
              void act(async () => {
                if (dirty) await save();
                return call('POST', `/api/chat-forms/${first.id}/live`);
              })
            }
            onRemove={() =>
              void act(async () => {
                await call('DELETE', `/api/chat-forms/${first.id}`);
                location.assign(within('/messages/chat-forms'));
                return view;
              })
            }
          />
        </div>
      </aside>
    </main>
  );
}
