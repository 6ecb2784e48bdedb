import Link from 'lucide-react/icons/link';
import { useState } from 'react';
import type { TriedLink } from '../../app/messages/try-links.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import type { EmailLayout } from '../../core/email/layout.ts';

/** Tries every link of the email once and says which lead nowhere. */
export function LinkCheck({ layout }: { layout: EmailLayout }) {
  const [tried, setTried] = useState<{ of: EmailLayout; links: TriedLink[] } | null>(null);
  const { act, busy, told } = useAction();
  const bad = tried?.links.filter((link) => !link.good) ?? [];
  const look = () =>
    act(async () => setTried({ of: layout, links: await call('POST', '/api/email-templates/links', { layout }) }));
  return (
    <div className="mb-3" data-testid="links">
      <button type="button" className="btn btn-plain btn-xs" disabled={busy} onClick={() => void look()}>
        <Link className="size-3.5" aria-hidden="true" />
        {busy ? 'Trying the links …' : 'Try the links'}
      </button>
      <Notice told={told} className="mt-1 text-note" />
      {tried && (
        <div className="mt-1 text-note" role="status">
          {tried.of !== layout && <p className="text-ink-2">The email has changed since.</p>}
          {tried.links.length === 0 && <p className="text-ink-2">There are no links in it yet.</p>}
          {tried.links.length > 0 && bad.length === 0 && (
            <p className="text-success">
              {tried.links.length === 1
                ? 'The link leads somewhere.'
                : `All ${tried.links.length} links lead somewhere.`}
            </p>
          )}
          {bad.map((triedLink) => (
            <p key={triedLink.address} className="notice bad mt-1 break-words">
              {triedLink.address}: {triedLink.said}
            </p>
          ))}
        </div>
      )}
    </div>
  );
}
