import { useState } from 'react';
import { CopyLine } from '../../components/CopyLine.tsx';
import { sendFile } from '../../components/send-file.ts';
import { call, messageOf } from '../call.ts';

/** One's own time for a calendar program, and a colleague's appointments from a file. */
export default function CalendarTools({
  feed: first,
  colleagues,
}: {
  feed: string | null;
  colleagues: { id: string; name: string }[];
}) {
  const [feed, setFeed] = useState(first);
  const [who, setWho] = useState(colleagues[0]?.id ?? '');
  const [told, setTold] = useState<{ text: string; good: boolean } | null>(null);
  const act = async (work: () => Promise<string>) => {
    try {
      setTold({ text: await work(), good: true });
    } catch (error) {
      setTold({ text: messageOf(error), good: false });
    }
  };
  const upload = (file: File) =>
    act(async () => {
      const body = await sendFile<{ added: number; changed: number }>(`/api/calendar/${who}`, file);
      return `${body.added} added, ${body.changed} changed. Open the week again to see them.`;
    });
  return (
    <details className="relative">
      <summary className="btn btn-plain btn-sm list-none">In and out</summary>
      <div className="sheet-card absolute right-0 z-40 mt-2 w-96 p-4 shadow-lg">
        <h2 className="mb-1 text-[15px]">My time in a calendar program</h2>
        {feed ? (
          <CopyLine text={feed} what="the address" />
        ) : (
          <button
            type="button"
            className="btn btn-plain btn-sm"
            onClick={() =>
              void act(async () => {
                setFeed((await call<{ feed: string }>('POST', '/api/calendar/feed')).feed);
                return 'Put this address into your calendar program.';
              })
            }
          >
            Give me an address
          </button>
        )}
        <h2 className="mt-4 mb-1 text-[15px]">Appointments from a file (.ics)</h2>
        <div className="flex items-center gap-2">
          <select
            className="select select-sm"
            aria-label="Whose appointments"
            value={who}
            onChange={(event) => setWho(event.target.value)}
          >
            {colleagues.map((one) => (
              <option key={one.id} value={one.id}>
                {one.name}
              </option>
            ))}
          </select>
          <label className="btn btn-plain btn-sm cursor-pointer">
            Choose a file
            <input
              type="file"
              accept=".ics,text/calendar"
              className="sr-only"
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file) void upload(file);
                event.target.value = '';
              }}
            />
          </label>
        </div>
        {told && (
          <p className={`mt-2 text-[13px] ${told.good ? 'text-success' : 'text-error'}`} role="status">
            {told.text}
          </p>
        )}
      </div>
    </details>
  );
}
