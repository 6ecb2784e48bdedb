import { useState } from 'react';
import { Area, Line } from '../../components/fields.tsx';
import { type PhonesProps, post } from './desk-api.ts';
import { PhoneList } from './PhoneList.tsx';

/** All phones with a chat, and a way to begin one from any number. */
export function ChatDesk({ desk, chosen, onChoose }: PhonesProps) {
  const [number, setNumber] = useState('+447700900456');
  const [name, setName] = useState('');
  const [text, setText] = useState('Hello! Do you teach the cello on Saturdays?');
  return (
    <>
      <h2 className="text-lg">Chat network</h2>
      <p className="mb-3 text-note text-ink-2">
        A business may answer freely for 24 hours after somebody last wrote. Be that somebody:
      </p>
      <form
        className="mb-4"
        onSubmit={(event) => {
          event.preventDefault();
          void post('/chats/write', { number, text, name });
          onChoose(number);
        }}
      >
        <Line
          label="From the phone"
          block="mb-2 block"
          small
          value={number}
          maxLength={2000}
          onChange={(text) => setNumber(text.trim())}
        />
        <Line
          label="What they call themselves there, if anything"
          block="mb-2 block"
          small
          value={name}
          maxLength={2000}
          onChange={setName}
        />
        <Area label="Message" block="mb-2 block" value={text} rows={2} onChange={setText} />
        <button
          className="btn btn-primary btn-sm"
          type="submit"
          disabled={!/^\+\d{8,15}$/.test(number) || text.trim() === ''}
        >
          Write in chat
        </button>
      </form>
      <PhoneList phones={desk.chats} chosen={chosen} onChoose={onChoose} />
    </>
  );
}
