import { useState } from 'react';
import type { MySignInView } from '../../app/account/my-sign-in.ts';
import type { SessionView } from '../../app/account/session.ts';
import { call } from '../../client/call.ts';
import { Notice, ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { Line } from '../../components/fields.tsx';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { MyCodes } from './MyCodes.tsx';
import { MyKeys } from './MyKeys.tsx';

/** One's own password, keys and codes, and where one is signed in. */
export default function MySignIn({
  first,
  email,
  place,
  now: at,
}: {
  first: MySignInView;
  email: string;
  place: Place;
  now: number;
}) {
  const {
    value: { sessions, second, keys },
    at: now,
    again,
  } = useQuery(['my-sign-in'], () => call('GET', '/api/my-sign-in'), { first, at });
  return (
    <section className="sheet-card mb-4 p-4" aria-label="Sign-in">
      <h2 className="mb-3 text-part">Sign-in</h2>
      {second.demanded && !second.on && keys.length === 0 && (
        <p className="notice warn mb-3">
          This business asks everybody for more than a password. Add a passkey or codes of your phone to go on.
        </p>
      )}
      <PasswordForm email={email} onDone={again} />
      <MyKeys {...{ keys, now, place }} onDone={again} />
      <MyCodes second={second} onDone={again} />
      <h3 className="mt-4 mb-1 font-semibold">Where you are signed in</h3>
      <Sessions {...{ sessions, now, place }} onDone={again} />
    </section>
  );
}

function PasswordForm({ email, onDone }: { email: string; onDone: () => Promise<void> }) {
  const [open, setOpen] = useState(false);
  const [current, setCurrent] = useState('');
  const [password, setPassword] = useState('');
  const [repeated, setRepeated] = useState('');
  const { act, busy, told, tell } = useAction();
  if (!open)
    return (
      <>
        <Notice told={told} className="mb-3" />
        <button type="button" className="btn btn-plain btn-sm" onClick={() => setOpen(true)}>
          Change my password
        </button>
      </>
    );
  const change = () => {
    if (password !== repeated) return tell('The two new passwords are not the same. Type them once more.', false);
    void act(
      async () => {
        const { ended } = await call('PUT', '/api/password', { current, password });
        setOpen(false);
        setCurrent('');
        setPassword('');
        setRepeated('');
        await onDone();
        return ended;
      },
      (ended) => `Your password is changed.${ended > 0 ? ' Everywhere else you are signed out.' : ''}`,
    );
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        change();
      }}
    >
      <input type="hidden" name="username" autoComplete="username" value={email} />
      <Notice told={told} className="mb-3" />
      <Line
        label="Your password of now"
        small
        type="password"
        maxLength={1000}
        autoComplete="current-password"
        value={current}
        onChange={setCurrent}
      />
      <Line
        label="New password, at least 10 characters"
        small
        type="password"
        maxLength={1000}
        autoComplete="new-password"
        value={password}
        onChange={setPassword}
      />
      <Line
        label="The same once more"
        small
        type="password"
        maxLength={1000}
        autoComplete="new-password"
        value={repeated}
        onChange={setRepeated}
      />
      <div className="flex gap-2">
        <button type="submit" className="btn btn-primary btn-sm" disabled={busy || current === '' || password === ''}>
          Change it
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={() => setOpen(false)}>
          Keep the one I have
        </button>
      </div>
    </form>
  );
}

function Sessions({
  sessions,
  now,
  place,
  onDone,
}: {
  sessions: readonly SessionView[];
  now: number;
  place: Place;
  onDone: () => Promise<void>;
}) {
  const { act, busy, told } = useAction();
  const end = (work: () => Promise<unknown>) =>
    void act(async () => {
      await work();
      await onDone();
    });
  return (
    <>
      <ToldLine told={told} />
      <ul>
        {sessions.map((one) => (
          <li key={one.id} className="flex flex-wrap items-center gap-x-3 border-b border-base-300 py-2 last:border-0">
            <span className="font-medium">{one.device}</span>
            <span className="text-note text-ink-2">
              {one.here ? 'this one' : `used ${whenWords(one.usedAt, now, place)}`}
              {one.network && `, from ${one.network}`}
              {`, since ${whenWords(one.since, now, place)}`}
            </span>
            {!one.here && (
              <button
                type="button"
                className="btn btn-ghost btn-xs ml-auto"
                disabled={busy}
                aria-label={`Sign it out: ${one.device}`}
                onClick={() => end(() => call('DELETE', `/api/sessions/${one.id}`))}
              >
                Sign it out
              </button>
            )}
          </li>
        ))}
      </ul>
      {sessions.length > 1 && (
        <button
          type="button"
          className="btn btn-plain btn-xs mt-2"
          disabled={busy}
          onClick={() => end(() => call('DELETE', '/api/sessions'))}
        >
          Sign out everywhere else
        </button>
      )}
    </>
  );
}
