import { useState } from 'react';
import type { MonthMail } from '../../app/results/month.ts';
import { call } from '../../client/call.ts';
import { goTo } from '../../client/go-to.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';
import { Popover } from '../../components/Popover.tsx';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { Choose } from './DaysChoice.tsx';

/** Which month, on paper, as a file, and to whom it is sent by itself. */
export default function MonthTools({
  month,
  months,
  files,
  mail: first,
  place,
  now,
  changes,
}: {
  month: string;
  months: (readonly [month: string, name: string])[];
  files: string;
  mail: MonthMail | null;
  place: Place;
  now: number;
  changes: boolean;
}) {
  const [mail, setMail] = useState(first);
  return (
    <div className="mb-4 flex flex-wrap items-end gap-2 print:hidden">
      <Choose
        label="Month"
        value={month}
        options={Object.fromEntries(months)}
        choose={(one) => void goTo(`/results/month?month=${one}`)}
      />
      <button type="button" className="btn btn-plain btn-sm" onClick={() => window.print()}>
        Print, or save as PDF
      </button>
      <a className="btn btn-plain btn-sm" href={within(`/api/results/file?${files}&format=csv`)} download>
        CSV
      </a>
      <a className="btn btn-plain btn-sm" href={within(`/api/results/file?${files}&format=xlsx`)} download>
        XLSX
      </a>
      {changes ? (
        <Popover
          button={mail ? `Sent on day ${mail.day}` : 'Send it by email'}
          buttonClass="btn btn-plain btn-sm"
          panelClass="w-96 p-4"
        >
          {() => <MailForm mail={mail} kept={setMail} place={place} now={now} />}
        </Popover>
      ) : null}
      {mail?.trouble && <p className="notice bad">{mail.trouble}</p>}
    </div>
  );
}

function MailForm({
  mail,
  kept,
  place,
  now,
}: {
  mail: MonthMail | null;
  kept: (mail: MonthMail | null) => void;
  place: Place;
  now: number;
}) {
  const [recipients, setRecipients] = useState(mail?.recipients.join(', ') ?? '');
  const [day, setDay] = useState(mail?.day ?? 1);
  const { act, busy, told } = useAction();
  const keep = () =>
    act(
      async () => {
        const now = await call('PUT', '/api/results/month/mail', { day, recipients });
        kept(now);
        return now;
      },
      (set) => (set ? `It goes out ${whenWords(set.nextAt, now, place)}, and every month.` : 'It is sent to nobody.'),
    );
  return (
    <>
      <h2 className="mb-1 text-part">The page of the month by email</h2>
      <p className="mb-3 text-note text-ink-2">That of the month before, at 8 in the morning.</p>
      <label className="mb-2 block">
        <span className="field-label">To, with commas between them; nobody ends it</span>
        <textarea
          className="textarea textarea-sm w-full"
          rows={2}
          value={recipients}
          placeholder="owner@wrenfield.example"
          onChange={(event) => setRecipients(event.target.value)}
        />
      </label>
      <label className="mb-3 block">
        <span className="field-label">On this day of the month</span>
        <select
          className="select select-sm w-auto"
          value={day}
          onChange={(event) => setDay(Number(event.target.value))}
        >
          {Array.from({ length: 28 }, (_, i) => i + 1).map((one) => (
            <option key={one} value={one}>
              {one}
            </option>
          ))}
        </select>
      </label>
      <button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={() => void keep()}>
        Keep
      </button>
      <ToldLine told={told} />
      {mail?.lastAt && <p className="mt-2 text-note text-ink-2">Last sent {whenWords(mail.lastAt, now, place)}.</p>}
    </>
  );
}
