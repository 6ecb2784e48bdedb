import { useState } from 'react';
import type { OwnCalendars as Own } from '../../app/calendar/own-calendars.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';
import { Choice, Tick } from '../../components/fields.tsx';
import { clockTime } from '../../core/words/instant.ts';

interface Props {
  first: Own;
  colleagues: { id: string; name: string }[];
  place: { locale: string; timeZone: string };
}
type Found = { href: string; name: string; writable: boolean };

/** Calendars colleagues keep elsewhere: which are read, and into which what is held is put. */
export default function OwnCalendars({ first, colleagues, place }: Props) {
  const [{ calendars, accounts }, setOwn] = useState(first);
  const [account, setAccount] = useState('');
  const [found, setFound] = useState<Found[]>([]);
  const [href, setHref] = useState('');
  const [colleague, setColleague] = useState('');
  const [writes, setWrites] = useState(true);
  const [titles, setTitles] = useState(false);
  const { act, busy, told } = useAction();
  const again = async () => setOwn(await call('GET', '/api/calendar/own'));
  const chosen = found.find((one) => one.href === href);
  const look = (id: string) => {
    setAccount(id);
    setFound([]);
    setHref('');
    if (id === '') return;
    void act(async () => {
      const answer = await call('GET', `/api/calendar/own/choices?connection=${id}`);
      setFound(answer.calendars);
      setHref(answer.calendars[0]?.href ?? '');
      if (answer.calendars.length === 0) throw new Error('There is no calendar in this account.');
    });
  };
  const add = () =>
    act(
      async () => {
        await call('POST', '/api/calendar/own', {
          ...{ connectionId: account, href, colleagueId: colleague, titles },
          writes: writes && (chosen?.writable ?? false),
        });
        setAccount('');
        setFound([]);
        await again();
      },
      () => 'It is read within a minute. Open the week again to see it.',
    );
  return (
    <section className="sheet-card mt-4 p-4">
      <h2 className="mb-1 text-part">Colleagues’ own calendars</h2>
      <p className="mb-3 text-note text-ink-2">
        What stands in them takes time here, so that nothing is held over it. What is held here can be put into them.
      </p>
      <ul className="mb-3 space-y-2">
        {calendars.map((one) => (
          <li key={one.id} className="flex flex-wrap items-center gap-x-3 gap-y-1 text-note">
            <span className="font-semibold">
              {one.colleague}: {one.name}
            </span>
            <span className="text-ink-2">
              at {one.connection}; {one.titles ? 'shown with what is in it' : 'shown as busy'}
              {one.writes ? ', what is held is put there' : ', only read'}.{' '}
              {one.problem === ''
                ? one.lastOkAt
                  ? `Read last ${clockTime(one.lastOkAt, place)}.`
                  : 'It has not been read yet.'
                : null}
            </span>
            {one.problem !== '' && <span className="text-error">{one.problem}</span>}
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              aria-label={`Take out: ${one.colleague}, ${one.name}`}
              disabled={busy}
              onClick={() =>
                void act(
                  async () => {
                    await call('DELETE', `/api/calendar/own/${one.id}`);
                    await again();
                  },
                  () => 'Their time is not read any more. What was put into their calendar stays there.',
                )
              }
            >
              Take out
            </button>
          </li>
        ))}
      </ul>
      {accounts.length === 0 ? (
        <p className="text-note">
          Connect a calendar account under{' '}
          <a className="link" href={within('/connections')}>
            Connections
          </a>{' '}
          first.
        </p>
      ) : (
        <form
          className="grid items-end gap-x-4 gap-y-2 md:grid-cols-3"
          onSubmit={(event) => {
            event.preventDefault();
            void add();
          }}
        >
          <Choice label="Account" small value={account} onChange={look}>
            <option value="">Choose an account</option>
            {accounts.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Choice>
          {found.length > 0 && (
            <>
              <Choice label="Calendar" small value={href} onChange={setHref}>
                {found.map((one) => (
                  <option key={one.href} value={one.href}>
                    {one.name}
                  </option>
                ))}
              </Choice>
              <Choice label="Whose it is" small value={colleague} onChange={setColleague}>
                <option value="">Choose a colleague</option>
                {colleagues.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </Choice>
              {chosen?.writable && (
                <Tick label="What is held here is put into it" value={writes} onChange={setWrites} />
              )}
              <Tick label="Everybody here sees what is in it" value={titles} onChange={setTitles} />
              <button className="btn btn-primary btn-sm justify-self-start" type="submit" disabled={busy}>
                Keep in step
              </button>
            </>
          )}
        </form>
      )}
      <ToldLine told={told} className="mt-2" />
    </section>
  );
}
