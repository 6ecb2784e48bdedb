import Send from 'lucide-react/icons/send';
import { useRef, useState } from 'react';
import type { ConversationView } from '../../app/conversations/get-conversation.ts';
import type { Way } from '../../app/conversations/ways.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Bare } from '../../components/fields.tsx';
import { CHANNEL_WORDS, type Channel } from '../../core/workflow/channel.ts';
import { KeptAnswers } from './KeptAnswers.tsx';
import { FormToSend, TemplateToSend } from './ReadyToSend.tsx';

/** A person who types is told to the others every so often, in milliseconds. */
const TELL_EVERY_MS = 3000;

/** An answer by hand: on which channel, whether that may be, and answers written beforehand. */
export function Answer({
  view,
  sent,
  change,
}: {
  view: ConversationView;
  sent: () => Promise<void>;
  change: (patch: object) => Promise<void>;
}) {
  const forms = view.ready.filter((readyAnswer) => readyAnswer.kind === 'form');
  const templates = view.ready.filter((readyAnswer) => readyAnswer.kind === 'template');
  const onlyTemplate = (one: Way | undefined) => one?.channel === 'chat' && !one.can && one.byTemplate;
  const best =
    view.ways.find((way) => way.channel === view.channel && (way.can || onlyTemplate(way))) ??
    view.ways.find((way) => way.can);
  const [channel, setChannel] = useState<Channel | 'note'>(best?.channel ?? 'note');
  const [text, setText] = useState('');
  const [subject, setSubject] = useState('');
  const [key, setKey] = useState(() => crypto.randomUUID());
  const { act, busy, told, tell } = useAction();
  const [formId, setFormId] = useState('');
  const [templateId, setTemplateId] = useState('');
  const toldAt = useRef(0);
  const way = view.ways.find((way) => way.channel === channel);
  const byTemplate = onlyTemplate(way);
  const form = channel === 'chat' ? forms.find((form) => form.id === formId) : undefined;
  const template = byTemplate ? templates.find((template) => template.id === templateId) : undefined;
  const ready = byTemplate ? template?.cannot === '' : text.trim() !== '' && way?.can !== false;
  const typed = (value: string) => {
    setText(value);
    if (channel === 'note' || Date.now() - toldAt.current < TELL_EVERY_MS) return;
    toldAt.current = Date.now();
    call('PUT', `/api/conversations/${view.id}`, { typing: true }).catch(() => {});
  };
  // What was typed stays when it does not go, and so does its key: sent again it is the same message.
  const send = async () => {
    if (!ready) return;
    await act(async () => {
      if (channel === 'note') await call('POST', `/api/conversations/${view.id}/notes`, { text });
      else
        await call('POST', `/api/conversations/${view.id}/answers`, {
          ...{ key, channel, subject, text: template ? '' : text },
          ...(form ? { form: form.id } : {}),
          ...(template ? { template: template.id } : {}),
        });
      if (!template) setText('');
      setFormId('');
      setTemplateId('');
      setSubject('');
      setKey(crypto.randomUUID());
      await sent();
    });
  };
  return (
    <form
      aria-label="Your answer"
      className="border-t border-base-300 bg-base-100 p-3"
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <select
          className="select select-sm"
          style={{ width: 'auto' }}
          aria-label="How to answer"
          value={channel}
          onChange={(event) => setChannel(event.target.value as Channel | 'note')}
        >
          {view.ways.map((way) => (
            <option key={way.channel} value={way.channel}>
              {CHANNEL_WORDS[way.channel].one}
              {way.can ? '' : onlyTemplate(way) ? ' (by template)' : ' (not now)'}
            </option>
          ))}
          <option value="note">Note, for colleagues only</option>
        </select>
        {way?.words && (
          <span className={`text-note ${way.can || byTemplate ? 'text-ink-2' : 'text-error'}`} data-testid="way">
            {way.words}
          </span>
        )}
        <span className="grow" />
        {channel === 'chat' && way?.can && <FormToSend forms={forms} chosen={form} choose={setFormId} />}
        {!byTemplate && (
          <KeptAnswers view={view} text={text} put={setText} kept={sent} failed={(words) => tell(words, false)} />
        )}
      </div>
      {channel === 'email' && (
        <Bare label="Subject" className="mb-2" maxLength={300} value={subject} onChange={setSubject} />
      )}
      <div className={`flex gap-2 ${byTemplate ? 'items-start' : 'items-end'}`}>
        {byTemplate ? (
          <div className="min-w-0 grow">
            <TemplateToSend templates={templates} chosen={template} choose={setTemplateId} />
          </div>
        ) : (
          <textarea
            className="textarea grow"
            rows={3}
            dir="auto"
            aria-label={channel === 'note' ? 'The note' : 'The answer'}
            maxLength={4096}
            value={text}
            disabled={way !== undefined && !way.can}
            onChange={(event) => typed(event.target.value)}
            onKeyDown={(event) => {
              if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) void send();
            }}
          />
        )}
        <div className="grid gap-1">
          <button type="submit" className="btn btn-primary btn-sm" disabled={busy || !ready}>
            <Send className="size-4" aria-hidden="true" />
            {channel === 'note' ? 'Keep the note' : 'Send'}
          </button>
          <button type="button" className="btn btn-plain btn-sm" onClick={() => void change({ done: !view.done })}>
            {view.done ? 'Open again' : 'Done'}
          </button>
        </div>
      </div>
      {view.typing && (
        <p className="notice warn mt-2 text-note">{view.typing} is writing an answer too. Wait, or ask them.</p>
      )}
      <Notice
        told={told && !byTemplate ? { ...told, text: `${told.text} What you wrote is still here.` } : told}
        className="mt-2 text-note"
      />
    </form>
  );
}
