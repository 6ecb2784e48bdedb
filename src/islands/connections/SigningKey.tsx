import { useState } from 'react';
import type { SigningView } from '../../app/account/sending-domain.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { CopyLine } from '../../components/CopyLine.tsx';
import type { DomainFinding } from '../../core/mail/sending-domain.ts';

const LOOKS: Record<DomainFinding['state'], { pill: string; words: string }> = {
  good: { pill: 'good', words: 'Good' },
  missing: { pill: 'warn', words: 'Missing' },
  wrong: { pill: 'bad', words: 'Wrong' },
  unknown: { pill: '', words: 'Not known' },
};

/** Signs emails for the business's own domain: the key, what to publish for it, and whether it is. */
export default function SigningKey({ id, domain, first }: { id: string; domain: string; first: SigningView | null }) {
  const [signing, setSigning] = useState(first);
  const [findings, setFindings] = useState<DomainFinding[]>([]);
  const { act, busy, told } = useAction();
  const make = () =>
    void act(async () => {
      setSigning(await call('POST', `/api/connections/${id}/signing`));
      setFindings([]);
    });
  return (
    <section className="sheet-card mb-4 p-4" aria-label="Signed as your own domain">
      <h2 className="mb-1 text-part">Signed as your own domain</h2>
      {!signing ? (
        <>
          <p className="mb-3 max-w-prose text-ink-2">
            Emails from {domain} can be signed (DKIM), so that readers' mail services see that they are yours. Leave it
            off when your mail server signs already.
          </p>
          <button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={make}>
            Make a key and sign
          </button>
        </>
      ) : (
        <>
          <p className="mb-2 text-ink-2">
            Emails from {signing.domain} are signed. Publish this where the names of your domain are kept, as a record
            of the kind TXT:
          </p>
          <p className="field-label">Name</p>
          <CopyLine text={signing.name} what="Name" />
          <p className="field-label mt-2">Text</p>
          <CopyLine text={signing.record} what="Text" />
          <div className="mt-3 flex flex-wrap gap-2">
            <button
              type="button"
              className="btn btn-primary btn-sm"
              disabled={busy}
              onClick={() =>
                void act(async () => setFindings((await call('POST', `/api/connections/${id}/signing/check`)).findings))
              }
            >
              {busy ? 'Looking …' : 'Look whether it is published'}
            </button>
            <button type="button" className="btn btn-plain btn-sm" disabled={busy} onClick={make}>
              Make another key
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={busy}
              onClick={() =>
                void act(async () => {
                  await call('DELETE', `/api/connections/${id}/signing`);
                  setSigning(null);
                })
              }
            >
              Stop signing
            </button>
          </div>
        </>
      )}
      <Notice told={told} className="mt-3" />
      {findings.length > 0 && (
        <ul className="mt-3" aria-label="What is published">
          {findings.map(({ what, state, text, publish }) => (
            <li key={what} className="mb-2">
              <span className={`pill ${LOOKS[state].pill}`}>{LOOKS[state].words}</span> {text}
              {publish && what !== 'dkim' && (
                <p className="mt-1 font-mono text-xs break-all text-ink-2">
                  {publish.name} TXT “{publish.text}”
                </p>
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
