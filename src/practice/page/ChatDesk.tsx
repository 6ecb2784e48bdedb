import { useState } from 'react';
import { clock, type DeskState, post } from './desk-api.ts';

/** All phones with a chat, and a way to begin one from any number. */
export function ChatDesk({
  desk,
  chosen,
  onChoose,
}: {
  desk: DeskState;
  chosen: string | null;
  onChoose: (number: string) => void;
}) {
  const [number, setNumber] = useState('+447700900456');
  const [text, setText] = useState('Hello! Do you teach the cello on Saturdays?');
  const chats = Object.values(desk.chats).sort((a, b) =>
    (b.messages.at(-1)?.at ?? '').localeCompare(a.messages.at(-1)?.at ?? ''),
  );
  return (
    <>
      <h2 className="text-lg">Chat network</h2>
      <p className="mb-3 text-[13px] text-ink-2">
        A business may answer freely for 24 hours after somebody last wrote. Be that somebody:
      </p>
      <form
        className="mb-4"
        onSubmit={(event) => {
          event.preventDefault();
          void post('/chats/write', { number, text });
          onChoose(number);
        }}
      >
        <label className="mb-2 block">
          <span className="field-label">From the phone</span>
          <input className="input input-sm" value={number} onChange={(event) => setNumber(event.target.value.trim())} />
        </label>
        <label className="mb-2 block">
          <span className="field-label">Message</span>
          <textarea className="textarea" rows={2} value={text} onChange={(event) => setText(event.target.value)} />
        </label>
        <button
          className="btn btn-primary btn-sm"
          type="submit"
          disabled={!/^\+\d{8,15}$/.test(number) || text.trim() === ''}
        >
          Write in chat
        </button>
      </form>
      <ul className="max-h-[50vh] overflow-y-auto">
        {chats.map((chat) => (
          <li key={chat.number}>
            <button
              type="button"
              onClick={() => onChoose(chat.number)}
              aria-pressed={chat.number === chosen}
              className={`grid w-full grid-cols-[140px_1fr_auto] gap-3 rounded-lg px-3 py-2 text-left ${chat.number === chosen ? 'bg-pine-soft' : 'hover:bg-base-200'}`}
            >
              <span className="font-semibold">{chat.number}</span>
              <span className="truncate text-ink-2">{chat.messages.at(-1)?.text}</span>
              <time className="text-xs text-ink-2">{chat.messages.at(-1) && clock(chat.messages.at(-1)!.at)}</time>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}
