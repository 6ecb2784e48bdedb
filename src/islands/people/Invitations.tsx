import { useState } from 'react';
import type { InvitationView } from '../../app/people/invitations.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { CopyLine } from '../../components/CopyLine.tsx';
import { ROLE_WORDS } from '../../core/people/rights.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';

/** How an invitation stands, in words; with whether that is bad. */
function stateOf(one: InvitationView, now: number, place: Place): readonly [string, 'good' | 'warn' | 'bad' | ''] {
  if (one.state === 'accepted') return ['Accepted', 'good'];
  if (one.state === 'withdrawn') return ['Withdrawn', ''];
  if (one.state === 'run-out') return ['Has run out', 'warn'];
  if (one.trouble) return [`Not sent: ${one.trouble}`, 'bad'];
  if (one.email === '') return [`Link to hand over, good until ${whenWords(one.expiresAt, now, place)}`, ''];
  return one.mailedAt
    ? [`Sent ${whenWords(one.mailedAt, now, place)}, good until ${whenWords(one.expiresAt, now, place)}`, '']
    : ['On its way', ''];
}

/** Who is asked in, and how far that has come. */
export function Invitations({
  invitations,
  place,
  now,
  onDone,
}: {
  invitations: readonly InvitationView[];
  place: Place;
  now: number;
  onDone: () => Promise<void>;
}) {
  const [link, setLink] = useState<{ of: string; text: string } | null>(null);
  const { act, busy, told } = useAction();
  if (invitations.length === 0) return null;
  return (
    <section className="sheet-card mb-4 p-4" aria-label="Invitations">
      <h2 className="mb-2 text-part">Invitations</h2>
      <ToldLine told={told} className="mb-2" />
      <ul>
        {invitations.map((one) => {
          const [words, tone] = stateOf(one, now, place);
          const open = one.state === 'open' || one.state === 'run-out';
          return (
            <li
              key={one.id}
              className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-base-300 py-2 last:border-0"
            >
              <span className="font-semibold break-all">{one.email || one.name || 'Whoever has the link'}</span>
              <span className="pill">{ROLE_WORDS[one.role].name}</span>
              <span className={`text-note ${tone === 'bad' ? 'text-error' : 'text-ink-2'}`}>{words}</span>
              {open && (
                <span className="ml-auto flex gap-1">
                  <button
                    type="button"
                    className="btn btn-plain btn-xs"
                    disabled={busy}
                    onClick={() =>
                      void act(
                        async () => {
                          const made = await call('POST', `/api/invitations/${one.id}/again`);
                          await onDone();
                          setLink(made.link ? { of: one.id, text: made.link } : null);
                        },
                        one.email ? 'Sent again; the older link is no longer good.' : '',
                      )
                    }
                  >
                    {one.email ? 'Send again' : 'New link'}
                  </button>
                  <button
                    type="button"
                    className="btn btn-ghost btn-xs"
                    disabled={busy}
                    onClick={() =>
                      void act(async () => {
                        await call('DELETE', `/api/invitations/${one.id}`);
                        await onDone();
                      })
                    }
                  >
                    Withdraw
                  </button>
                </span>
              )}
              {link?.of === one.id && (
                <div className="basis-full">
                  <CopyLine text={link.text} what="Link" testid="invitation-link" />
                </div>
              )}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
