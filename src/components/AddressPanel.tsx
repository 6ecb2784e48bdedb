import Eye from 'lucide-react/icons/eye';
import { type ReactNode, useState } from 'react';
import type { SourcePanelProps } from '../sources/source-form.ts';
import { CopyLine } from './CopyLine.tsx';

/** The address a source listens on, the secret that signs, and a new address for when the old one has leaked. */
export function AddressPanel({
  source,
  ask,
  about,
  children,
}: Pick<SourcePanelProps, 'source' | 'ask'> & { about: string; children?: ReactNode }) {
  const [secret, setSecret] = useState<string | null>(null);
  const [asking, setAsking] = useState(false);
  const [problem, setProblem] = useState('');
  return (
    <section className="sheet-card mb-4 p-4" aria-label="Address">
      <h2 className="mb-1 text-part">Its address</h2>
      <p className="mb-2 text-note text-ink-2">{about}</p>
      <CopyLine text={source.address} what="Address" testid="address" />
      {source.signedAs && (
        <p className="mb-2 text-note">
          User name: <code className="font-mono">{source.signedAs}</code>
        </p>
      )}
      {source.signedBy !== 'nobody' &&
        (secret ? (
          <CopyLine text={secret} what={source.signedAs ? 'Password' : 'Secret'} />
        ) : (
          <button
            type="button"
            className="btn btn-plain btn-sm mb-2"
            onClick={() => void ask<{ secret: string }>('POST', 'secret').then((found) => setSecret(found.secret))}
          >
            <Eye className="size-4" aria-hidden="true" />
            {source.signedAs ? 'Show the password' : 'Show the signing secret'}
          </button>
        ))}
      {children}
      {asking ? (
        <div className="notice mt-2">
          <p className="mb-2">
            The old address ends at once. Whatever still sends to it is turned away until you give it the new one.
          </p>
          <button
            type="button"
            className="btn btn-primary btn-sm mr-2"
            onClick={() =>
              void ask('POST', 'address').then(
                () => {
                  setAsking(false);
                  setSecret(null);
                  location.reload();
                },
                (error: unknown) => setProblem(error instanceof Error ? error.message : String(error)),
              )
            }
          >
            Give it a new address
          </button>
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsking(false)}>
            Keep the old one
          </button>
          {problem && <p role="alert">{problem}</p>}
        </div>
      ) : (
        <button type="button" className="btn btn-ghost btn-xs text-ink-2" onClick={() => setAsking(true)}>
          The address has leaked: make a new one
        </button>
      )}
    </section>
  );
}
