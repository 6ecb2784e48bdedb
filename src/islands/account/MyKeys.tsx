import { browserSupportsWebAuthn, startRegistration } from '@simplewebauthn/browser';
import { useEffect, useState } from 'react';
import type { PasskeyView } from '../../app/account/passkeys.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Line } from '../../components/fields.tsx';
import { Popover } from '../../components/Popover.tsx';
import { TakeAway } from '../../components/row-buttons.tsx';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { keyTrouble } from './key-trouble.ts';
import { likelyName } from './this-device.ts';

/** Passkeys of one's own. */
export function MyKeys({
  keys,
  now,
  place,
  onDone,
}: {
  keys: readonly PasskeyView[];
  now: number;
  place: Place;
  onDone: () => Promise<void>;
}) {
  const { act, busy, told } = useAction();
  const [offered, setOffered] = useState(true);
  const [name, setName] = useState('');
  useEffect(() => {
    setOffered(browserSupportsWebAuthn());
    setName(likelyName());
  }, []);
  const add = (close: () => void) =>
    void act(async () => {
      const { token, options } = await call('POST', '/api/passkeys/begin');
      const answer = await startRegistration({ optionsJSON: options }).catch(keyTrouble);
      await call('POST', '/api/passkeys', { token, name, answer: { ...answer } });
      await onDone();
      close();
    });
  return (
    <div>
      <h3 className="mt-4 mb-1 font-semibold">Passkeys</h3>
      <p className="mb-2 text-note text-ink-2">
        A key on your own device, opened by finger, face or its code: nothing to type, and nothing that could leak.
      </p>
      <ToldLine told={told} />
      <ul>
        {keys.map((key) => (
          <li key={key.id} className="flex items-center gap-3 border-b border-base-300 py-1.5 last:border-0">
            <span className="font-medium">{key.name}</span>
            <span className="grow text-note text-ink-2">
              {key.usedAt
                ? `used ${whenWords(key.usedAt, now, place)}`
                : `since ${whenWords(key.createdAt, now, place)}`}
            </span>
            <TakeAway
              label={`Take away the passkey ${key.name}`}
              disabled={busy}
              onClick={() =>
                void act(async () => {
                  await call('DELETE', `/api/passkeys/${key.id}`);
                  await onDone();
                })
              }
            />
          </li>
        ))}
      </ul>
      {offered && (
        <div className="mt-2">
          <Popover button="Add a passkey" buttonClass="btn btn-plain btn-sm" panelClass="w-72 p-3">
            {(close) => (
              <form
                onSubmit={(event) => {
                  event.preventDefault();
                  add(close);
                }}
              >
                <Line label="What you know this device by" small maxLength={100} value={name} onChange={setName} />
                <ToldLine told={told} className="mb-2" />
                <button type="submit" className="btn btn-primary btn-sm" disabled={busy || name.trim() === ''}>
                  Go on
                </button>
              </form>
            )}
          </Popover>
        </div>
      )}
    </div>
  );
}
