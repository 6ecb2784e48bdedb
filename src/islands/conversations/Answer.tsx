import Send from 'lucide-react/icons/send';
import { useRef, useState } from 'react';
import type { ConversationView } from '../../app/conversations.ts';
import { Popover } from '../../components/Popover.tsx';
import { CHANNEL_WORDS, type Channel } from '../../core/workflow/channel.ts';
import { call, messageOf } from '../call.ts';

/** A person who types is told to the others every so often, in milliseconds. */
const TELL_EVERY_MS = 3000;

/** An answer for next time: this person's first name in it becomes the first name of whoever gets it. */
const forAnybody = (text: string, firstName: string) =>
  firstName === '' ? text : text.replaceAll(firstName, '{{ lead.first_name }}');

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
  const best = view.ways.find((one) => one.channel === view.channel && one.can) ?? view.ways.find((one) => one.can);
  const [channel, setChannel] = useState<Channel | 'note'>(best?.channel ?? 'note');
  const [text, setText] = useState('');
  const [subject, setSubject] = useState('');
  const [key, setKey] = useState(() => crypto.randomUUID());
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState('');
  const [name, setName] = useState('');
  const told = useRef(0);
  const way = view.ways.find((one) => one.channel === channel);
  const typed = (value: string) => {
    setText(value);
    if (channel === 'note' || Date.now() - told.current < TELL_EVERY_MS) return;
    told.current = Date.now();
    call('PUT', `/api/conversations/${view.id}`, { typing: true }).catch(() => {});
  };
  const send = async () => {
    if (busy || text.trim() === '') return;
    setBusy(true);
    setProblem('');
    try {
      if (channel === 'note') await call('POST', `/api/conversations/${view.id}/notes`, { text });
      else await call('POST', `/api/conversations/${view.id}/answers`, { key, channel, subject, text });
      setText('');
      setSubject('');
      setKey(crypto.randomUUID());
      await sent();
    } catch (error) {
      // What was typed stays, and so does its key: sent again it is the same message.
      setProblem(messageOf(error));
    } finally {
      setBusy(false);
    }
  };
  return (
    <form
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
          {view.ways.map((one) => (
            <option key={one.channel} value={one.channel}>
              {CHANNEL_WORDS[one.channel].one}
              {one.can ? '' : ' (not now)'}
            </option>
          ))}
          <option value="note">Note, for colleagues only</option>
        </select>
        {way?.words && (
          <span className={`text-[13px] ${way.can ? 'text-ink-2' : 'text-error'}`} data-testid="way">
            {way.words}
          </span>
        )}
        <span className="grow" />
        <Popover
          button="Answers kept"
          buttonClass="btn btn-ghost btn-sm"
          panelClass="right-0 bottom-full mb-1 max-h-80 w-80 overflow-y-auto p-2"
        >
          {(close) => (
            <>
              {view.answers.map((one) => (
                <button
                  key={one.id}
                  type="button"
                  className="block w-full rounded px-2 py-1.5 text-left hover:bg-base-200"
                  onClick={() => {
                    setText(one.text);
                    close();
                  }}
                >
                  <span className="block font-semibold">{one.name}</span>
                  <span className="block truncate text-[13px] text-ink-2">{one.text}</span>
                </button>
              ))}
              {view.answers.length === 0 && (
                <p className="px-2 py-1 text-[13px] text-ink-2">
                  None yet. What you write below can be kept for next time.
                </p>
              )}
              <div className="mt-2 flex gap-1 border-t border-base-300 pt-2">
                <input
                  className="input input-sm"
                  aria-label="Name of the answer to keep"
                  placeholder="Name"
                  maxLength={60}
                  value={name}
                  onChange={(event) => setName(event.target.value)}
                />
                <button
                  type="button"
                  className="btn btn-plain btn-sm"
                  disabled={name.trim() === '' || text.trim() === ''}
                  onClick={() =>
                    call('POST', '/api/canned-answers', { name, text: forAnybody(text, view.firstName) }).then(
                      () => {
                        setName('');
                        void sent();
                      },
                      (error: unknown) => setProblem(messageOf(error)),
                    )
                  }
                >
                  Keep what I wrote
                </button>
              </div>
              {view.firstName !== '' && text.includes(view.firstName) && (
                <p className="mt-1 px-1 text-xs text-ink-2">
                  “{view.firstName}” becomes the first name of whoever it is written to.
                </p>
              )}
            </>
          )}
        </Popover>
      </div>
      {channel === 'email' && (
        <input
          className="input input-sm mb-2"
          aria-label="Subject"
          placeholder="Subject"
          maxLength={300}
          value={subject}
          onChange={(event) => setSubject(event.target.value)}
        />
      )}
      <div className="flex items-end gap-2">
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
        <div className="grid gap-1">
          <button
            type="submit"
            className="btn btn-primary btn-sm"
            disabled={busy || text.trim() === '' || (way !== undefined && !way.can)}
          >
            <Send className="size-4" aria-hidden="true" />
            {channel === 'note' ? 'Keep the note' : 'Send'}
          </button>
          <button type="button" className="btn btn-plain btn-sm" onClick={() => void change({ done: !view.done })}>
            {view.done ? 'Open again' : 'Done'}
          </button>
        </div>
      </div>
      {view.typing && (
        <p className="notice warn mt-2 text-[13px]">{view.typing} is writing an answer too. Wait, or ask them.</p>
      )}
      {problem && (
        <p className="notice bad mt-2 text-[13px]" role="alert">
          {problem} What you wrote is still here.
        </p>
      )}
    </form>
  );
}
