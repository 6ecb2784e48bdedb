import { useState } from 'react';
import type { SecondView } from '../../app/account/second-factor.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Line } from '../../components/fields.tsx';

/** Codes of a program on one's phone, asked for beside the password. */
export function MyCodes({ second, onDone }: { second: SecondView; onDone: () => Promise<void> }) {
  const { act, busy, told } = useAction();
  const [begun, setBegun] = useState<{ token: string; secret: string; picture: string } | null>(null);
  const [code, setCode] = useState('');
  const [codes, setCodes] = useState<string[]>([]);
  const start = () =>
    void act(async () => {
      const made = await call('PUT', '/api/second', { token: begun!.token, code });
      setCodes(made.codes);
      setBegun(null);
      setCode('');
      await onDone();
    });
  return (
    <div>
      <h3 className="mt-4 mb-1 font-semibold">Codes of your phone</h3>
      <ToldLine told={told} className="mb-2" />
      {codes.length > 0 && (
        <div className="notice good mb-3">
          <p className="mb-2">
            Without your phone each of these lets you in once. They are shown only now: print them, or keep them where
            your phone is not.
          </p>
          <ul className="columns-2 font-mono" data-testid="recovery-codes">
            {codes.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </div>
      )}
      {begun ? (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            start();
          }}
        >
          <p className="mb-2">
            Read this picture with an authenticator program of your phone, and type the code it shows.
          </p>
          <img
            className="mb-2 w-44 rounded-lg bg-white p-2"
            alt="A square of dots, to be read by your phone"
            src={`data:image/svg+xml,${encodeURIComponent(begun.picture)}`}
          />
          <p className="mb-3 text-note text-ink-2">
            Or type it there: <code className="break-all">{begun.secret}</code>
          </p>
          <Line label="Its code" small maxLength={10} autoComplete="one-time-code" value={code} onChange={setCode} />
          <div className="flex gap-2">
            <button type="submit" className="btn btn-primary btn-sm" disabled={busy || code.trim() === ''}>
              Ask for codes from now on
            </button>
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => setBegun(null)}>
              Not now
            </button>
          </div>
        </form>
      ) : (
        <>
          <p className="mb-2 text-note text-ink-2">
            {second.on
              ? `Asked for beside your password. ${second.codesLeft} of your recovery codes are left.`
              : 'Whoever has your password is not in with it: a code of your phone is asked for, too.'}
          </p>
          <div className="flex flex-wrap gap-2">
            {second.on ? (
              <>
                <button
                  type="button"
                  className="btn btn-plain btn-sm"
                  disabled={busy}
                  onClick={() =>
                    void act(async () => {
                      setCodes((await call('POST', '/api/second/codes')).codes);
                      await onDone();
                    })
                  }
                >
                  New recovery codes
                </button>
                <button
                  type="button"
                  className="btn btn-ghost btn-sm"
                  disabled={busy}
                  onClick={() =>
                    void act(async () => {
                      await call('DELETE', '/api/second');
                      setCodes([]);
                      await onDone();
                    })
                  }
                >
                  Ask for none any more
                </button>
              </>
            ) : (
              <button
                type="button"
                className="btn btn-plain btn-sm"
                disabled={busy}
                onClick={() => void act(async () => setBegun(await call('POST', '/api/second')))}
              >
                Add codes
              </button>
            )}
          </div>
        </>
      )}
    </div>
  );
}
