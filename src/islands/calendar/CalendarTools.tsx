import { useState } from 'react';
import type { WeekView } from '../../app/calendar/calendar.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { CopyLine } from '../../components/CopyLine.tsx';
import { FileButton } from '../../components/FileButton.tsx';
import { Popover } from '../../components/Popover.tsx';
import { sendFile } from '../../components/send-file.ts';

/** One's own time for a calendar program, and a colleague's appointments from a file. */
export default function CalendarTools({
  feed: first,
  colleagues,
  bookings: firstBookings,
}: {
  feed: string | null;
  colleagues: { id: string; name: string }[];
  bookings: WeekView['bookings'];
}) {
  const [bookings, setBookings] = useState(firstBookings);
  const [feed, setFeed] = useState(first);
  const [who, setWho] = useState(colleagues[0]?.id ?? '');
  const action = useAction();
  const act = (work: () => Promise<string>) => action.act(work, (words) => words);
  const upload = (file: File) =>
    act(async () => {
      const body = await sendFile<{ added: number; changed: number; removed: number }>(`/api/calendar/${who}`, file);
      return `${body.added} added, ${body.changed} changed, ${body.removed} taken away. Open the week again to see them.`;
    });
  return (
    <Popover button="Files and feed" buttonClass="btn btn-plain btn-sm" panelClass="w-96 p-4">
      {() => (
        <>
          <h2 className="mb-1 text-part">My time in a calendar program</h2>
          {feed ? (
            <CopyLine text={feed} what="the address" />
          ) : (
            <button
              type="button"
              className="btn btn-plain btn-sm"
              onClick={() =>
                void act(async () => {
                  setFeed((await call('POST', '/api/calendar/feed')).feed);
                  return 'Put this address into your calendar program.';
                })
              }
            >
              Give me an address
            </button>
          )}
          <h2 className="mt-4 mb-1 text-part">Appointments from a file (.ics)</h2>
          <div className="flex items-center gap-2">
            <select
              className="select select-sm"
              aria-label="Whose appointments"
              value={who}
              onChange={(event) => setWho(event.target.value)}
            >
              {colleagues.map((colleague) => (
                <option key={colleague.id} value={colleague.id}>
                  {colleague.name}
                </option>
              ))}
            </select>
            <FileButton accept=".ics,text/calendar" onFile={(file) => void upload(file)}>
              Choose a file
            </FileButton>
          </div>
          {bookings.length > 0 && <h2 className="mt-4 mb-1 text-part">Bookings of outside calendars</h2>}
          {bookings.map((booking) => (
            <label key={booking.sourceId} className="mb-1 flex items-center gap-2 text-note">
              <span className="min-w-0 grow truncate">{booking.name} go to</span>
              <select
                className="select select-sm"
                style={{ width: 190 }}
                value={booking.colleagueId ?? ''}
                onChange={(event) => {
                  const colleagueId = event.target.value || null;
                  void act(async () => {
                    const { untold } = await call('PUT', '/api/calendar/bookings', {
                      sourceId: booking.sourceId,
                      colleagueId,
                    });
                    setBookings((all) => all.map((each) => (each === booking ? { ...each, colleagueId } : each)));
                    if (untold.length > 0)
                      throw new Error(
                        `They stand in the week now, but ${booking.name} does not listen to appointments ${untold.join(' or ')}: tick that at the source, or they stay as they were.`,
                      );
                    return colleagueId
                      ? 'From now on they stand in the week.'
                      : 'They stand in nobody’s week any more.';
                  });
                }}
              >
                <option value="">nobody’s calendar</option>
                {colleagues.map((colleague) => (
                  <option key={colleague.id} value={colleague.id}>
                    {colleague.name}
                  </option>
                ))}
              </select>
            </label>
          ))}
          <ToldLine told={action.told} className="mt-2" />
        </>
      )}
    </Popover>
  );
}
