import Send from 'lucide-react/icons/send';
import { useEffect, useRef, useState } from 'react';
import type { NetworkForm } from '../world-state.ts';
import { clock, type DeskState, post } from './desk-api.ts';
import { PhoneForm } from './PhoneForm.tsx';

const APPS = { texts: 'Texts', chat: 'Chat' } as const;
type App = keyof typeof APPS;

const formOf = (desk: DeskState, id: string): NetworkForm | undefined =>
  desk.chatForms.find((chatForm) => chatForm.id === id);

/** What phones do with web addresses in a message. */
function WithLinks({ text }: { text: string }) {
  const pieces = text.split(/(https?:\/\/\S+)/);
  return pieces.map((piece, i) =>
    i % 2 === 1 ? (
      // biome-ignore lint/suspicious/noArrayIndexKey: pieces of one text never move
      <a key={i} className="link" href={piece} target="_blank" rel="noreferrer">
        {piece}
      </a>
    ) : (
      piece
    ),
  );
}

/** A phone with its conversation; what is written on it reaches Pine Bell as a reply. */
export function PhoneView({ desk, number }: { desk: DeskState; number: string | null }) {
  const [text, setText] = useState('');
  const [chosen, setApp] = useState<{ number: string | null; app: App } | null>(null);
  const lastOf = (kept: DeskState['phones']) => (number && kept[number]?.messages.at(-1)?.at) || '';
  // What came last is looked at, until something else is chosen on this phone.
  const newest: App = lastOf(desk.chats) > lastOf(desk.phones) ? 'chat' : 'texts';
  const app = chosen?.number === number ? chosen.app : newest;
  const [opened, setOpened] = useState<{ id: string; token: string } | null>(null);
  const form = opened && formOf(desk, opened.id);
  const end = useRef<HTMLDivElement>(null);
  const kept = app === 'texts' ? desk.phones : desk.chats;
  const messages = (number && kept[number]?.messages) || [];
  // biome-ignore lint/correctness/useExhaustiveDependencies: scrolls when there is something new
  useEffect(() => {
    end.current?.scrollIntoView({ block: 'nearest' });
  }, [messages.length, number, app]);
  const write = () => {
    if (!number || !text.trim()) return;
    void post(app === 'texts' ? '/phones/write' : '/chats/write', { number, text });
    setText('');
  };
  return (
    <section
      className="phone relative flex h-[calc(100vh-72px)] flex-col bg-base-200 p-3"
      aria-label="Phone"
      data-testid="phone"
    >
      <p className="mb-2 text-center text-xs text-ink-2">{number ? `Phone ${number}` : 'No text has been sent yet'}</p>
      <div className="mb-2 grid grid-cols-2 gap-1" role="tablist" aria-label="On the phone">
        {(Object.keys(APPS) as App[]).map((one) => (
          <button
            key={one}
            type="button"
            role="tab"
            aria-selected={one === app}
            className={`rounded-lg px-2 py-1 text-note font-medium ${one === app ? 'bg-base-100' : 'hover:bg-base-100/60'}`}
            onClick={() => setApp({ number, app: one })}
          >
            {APPS[one]}
          </button>
        ))}
      </div>
      <div className="flex grow flex-col gap-2 overflow-y-auto">
        {messages.map((message) => (
          <div
            key={message.id}
            className={`max-w-[85%] rounded-2xl px-3 py-2 break-words ${message.direction === 'to_phone' ? 'self-start rounded-bl-sm bg-base-100' : 'self-end rounded-br-sm bg-slate-soft'}`}
          >
            <span className="whitespace-pre-line">
              <WithLinks text={message.text} />
            </span>
            {message.buttons?.map((button) => (
              <button
                key={button}
                type="button"
                className="mt-1.5 block w-full rounded-lg border border-base-300 px-2 py-1 text-center font-medium hover:bg-base-200"
                onClick={() => void post('/chats/write', { number, text: button, button: true })}
              >
                {button}
              </button>
            ))}
            {message.form && (
              <button
                type="button"
                className="mt-1.5 block w-full rounded-lg border border-base-300 px-2 py-1 text-center font-medium hover:bg-base-200"
                onClick={() => setOpened(message.form!)}
              >
                {formOf(desk, message.form.id)?.open ?? 'Open the form'}
                {message.form.sent && <span className="text-ink-2"> ✓</span>}
              </button>
            )}
            <span className="block text-right text-xs text-ink-3">{clock(message.at)}</span>
          </div>
        ))}
        <div ref={end} />
      </div>
      {form && number && (
        <PhoneForm
          key={opened.token}
          form={form}
          token={opened.token}
          number={number}
          onClose={() => setOpened(null)}
        />
      )}
      <form
        className="mt-2 flex items-center gap-1 rounded-full border border-base-300 bg-base-100 py-1 pr-1 pl-3"
        onSubmit={(event) => {
          event.preventDefault();
          write();
        }}
      >
        <input
          className="w-full bg-transparent outline-none"
          aria-label={app === 'texts' ? 'Write a reply' : 'Write in chat'}
          placeholder={app === 'texts' ? 'Write a reply' : 'Write in chat'}
          value={text}
          onChange={(event) => setText(event.target.value)}
          disabled={!number}
        />
        <button
          className="btn btn-circle btn-ghost btn-sm"
          type="submit"
          aria-label="Send the reply"
          disabled={!number}
        >
          <Send className="size-4" />
        </button>
      </form>
    </section>
  );
}
