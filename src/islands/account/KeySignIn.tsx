import { browserSupportsWebAuthn, startAuthentication } from '@simplewebauthn/browser';
import KeyRound from 'lucide-react/icons/key-round';
import { useEffect, useState } from 'react';
import { callAny } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { keyTrouble } from './key-trouble.ts';

/** Signs in by whichever passkey the device holds: no name, no password. */
export default function KeySignIn({ to }: { to: string }) {
  const [offered, setOffered] = useState(false);
  const { act, busy, told } = useAction();
  useEffect(() => setOffered(browserSupportsWebAuthn()), []);
  if (!offered) return null;
  return (
    <div className="mt-4 border-t border-base-300 pt-4">
      <Notice told={told} className="mb-3" />
      <button
        type="button"
        className="btn btn-plain w-full"
        disabled={busy}
        onClick={() =>
          void act(async () => {
            const optionsJSON = await callAny<Parameters<typeof startAuthentication>[0]['optionsJSON']>(
              'POST',
              '/api/sign-in/key',
            );
            const answer = await startAuthentication({ optionsJSON }).catch(keyTrouble);
            const { to: next } = await callAny<{ to: string }>(
              'PUT',
              `/api/sign-in/key?to=${encodeURIComponent(to)}`,
              answer,
            );
            location.assign(next);
          })
        }
      >
        <KeyRound className="size-4" aria-hidden="true" />
        Sign in with a passkey
      </button>
    </div>
  );
}
