import Send from 'lucide-react/icons/send';
import Trash2 from 'lucide-react/icons/trash-2';
import { useState } from 'react';
import type { DraftView } from '../../app/conversations/drafts.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';
import { EmailPreview } from '../../components/EmailPreview.tsx';
import { Area, Line } from '../../components/fields.tsx';
import { phoneWords } from '../../core/people/phone.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { CHANNEL_WORDS } from '../../core/workflow/channel.ts';

/** Messages that wait for somebody to read them: each can be mended, sent, or thrown away. */
export default function Drafts({ first, place, now }: { first: DraftView[]; place: Place; now: number }) {
  const [drafts, setDrafts] = useState(first);
  const { told, tell } = useAction();
  const settled = (id: string, words: string) => {
    setDrafts((before) => before.filter((draftView) => draftView.id !== id));
    tell(words, true);
  };
  return (
    <>
      <Notice told={told} className="mb-2" />
      {drafts.map((draft) => (
        <Draft key={draft.id} draft={draft} place={place} now={now} onSettled={settled} />
      ))}
      {drafts.length === 0 && <p className="sheet-card p-6 text-ink-2">All read. Nothing else waits.</p>}
    </>
  );
}

function Draft({
  draft,
  place,
  now,
  onSettled,
}: {
  draft: DraftView;
  place: Place;
  now: number;
  onSettled: (id: string, words: string) => void;
}) {
  const { message } = draft;
  const [text, setText] = useState(message.text);
  const [subject, setSubject] = useState(message.channel === 'email' ? message.subject : '');
  const action = useAction();
  const act = (work: () => Promise<unknown>, words: string) =>
    action.act(async () => {
      await work();
      onSettled(draft.id, words);
    });
  const send = () => {
    const changed = {
      ...(draft.editable && text !== message.text ? { text } : {}),
      ...(message.channel === 'email' && subject !== message.subject ? { subject } : {}),
    };
    return act(() => call('POST', `/api/drafts/${draft.id}/send`, changed), `On its way to ${draft.name}.`);
  };
  return (
    <article className="sheet-card mb-3 p-4" aria-label={`${CHANNEL_WORDS[message.channel].one} to ${draft.name}`}>
      <p className="mb-2 text-note text-ink-2">
        {CHANNEL_WORDS[message.channel].one} to{' '}
        <a className="font-semibold text-base-content hover:underline" href={within(`/leads/${draft.leadId}`)}>
          {draft.name}
        </a>{' '}
        ({message.channel === 'email' ? message.to : phoneWords(message.to)}), from{' '}
        <a className="hover:underline" href={within(`/workflows/${draft.workflowId}/log?run=${draft.runId}`)}>
          {draft.workflowName}
        </a>
        , {whenWords(draft.createdAt, now, place)}
      </p>
      {draft.withdrawn && (
        <p className="notice bad mb-2 text-note">
          They have asked for no more {CHANNEL_WORDS[message.channel].many} since: it will not go out.
        </p>
      )}
      {message.channel === 'email' && (
        <Line label="Subject" block="mb-2 block" small value={subject} maxLength={2000} onChange={setSubject} />
      )}
      {draft.editable ? (
        <Area
          label="Message"
          block="block"
          value={text}
          rows={Math.min(14, Math.max(3, text.split('\n').length + 1))}
          onChange={setText}
        />
      ) : (
        message.channel === 'email' && <EmailPreview html={message.html} room={680} />
      )}
      <Notice told={action.told} className="mt-2 text-note" />
      <div className="mt-2 flex gap-2">
        <button
          type="button"
          className="btn btn-primary btn-sm"
          disabled={action.busy || draft.withdrawn || text.trim() === ''}
          onClick={() => void send()}
        >
          <Send className="size-4" aria-hidden="true" />
          Send it
        </button>
        <button
          type="button"
          className="btn btn-ghost btn-sm"
          disabled={action.busy}
          onClick={() => void act(() => call('DELETE', `/api/drafts/${draft.id}`), 'Thrown away. Nothing was sent.')}
        >
          <Trash2 className="size-4" aria-hidden="true" />
          Throw it away
        </button>
      </div>
    </article>
  );
}
