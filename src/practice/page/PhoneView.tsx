import Send from 'lucide-react/icons/send';
import { useEffect, useRef, useState } from 'react';
import { clock, type DeskState, post } from './desk-api.ts';

/** A phone with its conversation; what is written on it reaches Pine Bell as a reply. */
export function PhoneView({ desk, number }: { desk: DeskState; number: string | null }) {
  const [text, setText] = useState('');
  const end = useRef<HTMLDivElement>(null);
  const messages = (number && desk.phones[number]?.messages) || [];
  // biome-ignore lint/correctness/useExhaustiveDependencies: scrolls when there is something new
  useEffect(() => {
    end.current?.scrollIntoView({ block: 'nearest' });
  }, [messages.length, number]);
  const write = () => {
    if (!number || !text.trim()) return;
    void post('/phones/write', { number, text });
    setText('');
  };
  return (
    <section
      className="phone flex h-[calc(100vh-72px)] flex-col bg-base-200 p-3"
      aria-label="Phone"
      data-testid="phone"
    >
      <p className="mb-2 text-center text-xs text-ink-2">{number ? `Phone ${number}` : 'No text has been sent yet'}</p>
      <div className="flex grow flex-col gap-2 overflow-y-auto">
        {messages.map((message) => (
          <div
            key={message.id}
            className={`max-w-[85%] rounded-2xl px-3 py-2 break-words ${message.direction === 'to_phone' ? 'self-start rounded-bl-sm bg-base-100' : 'self-end rounded-br-sm bg-slate-soft'}`}
          >
            {message.text}
            <span className="block text-right text-[11px] text-ink-3">{clock(message.at)}</span>
          </div>
        ))}
        <div ref={end} />
      </div>
      <form
        className="mt-2 flex items-center gap-1 rounded-full border border-base-300 bg-base-100 py-1 pr-1 pl-3"
        onSubmit={(event) => {
          event.preventDefault();
          write();
        }}
      >
        <input
          className="w-full bg-transparent outline-none"
          aria-label="Write a reply"
          placeholder="Write a reply"
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
