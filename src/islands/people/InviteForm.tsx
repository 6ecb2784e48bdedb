import { useState } from 'react';
import { call } from '../../client/call.ts';
import { Modal } from '../../client/Modal.tsx';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { CopyLine } from '../../components/CopyLine.tsx';
import { Line } from '../../components/fields.tsx';
import { MayFields, type Place } from './MayFields.tsx';

/** Asks somebody in: by email, or by a link that is handed over. */
export function InviteForm({
  teams,
  onDone,
  onClose,
}: {
  teams: readonly { id: string; name: string }[];
  onDone: () => Promise<void>;
  onClose: () => void;
}) {
  const [email, setEmail] = useState('');
  const [name, setName] = useState('');
  const [place, setPlace] = useState<Place>({ role: 'desk', whoseLeads: 'all', teams: [] });
  const [link, setLink] = useState<string | null>(null);
  const { act, busy, told } = useAction();
  const send = (by: 'email' | 'link') =>
    void act(async () => {
      const made = await call('POST', '/api/invitations', {
        ...place,
        name,
        email: by === 'email' ? email.trim() : '',
      });
      await onDone();
      if (made.link) setLink(made.link);
      else onClose();
    });
  return (
    <Modal label="Invite somebody" className="w-full max-w-lg" onClose={onClose}>
      <form
        className="p-5"
        onSubmit={(event) => {
          event.preventDefault();
          send('email');
        }}
      >
        <h2 className="mb-3 text-lg">Invite somebody</h2>
        {link ? (
          <>
            <p className="mb-2">
              Whoever follows this link first comes in. It is good for seven days, and shown only now: hand it over in a
              way nobody else reads.
            </p>
            <CopyLine text={link} what="Link" testid="invitation-link" />
            <button type="button" className="btn btn-primary btn-sm mt-2" onClick={onClose}>
              Done
            </button>
          </>
        ) : (
          <>
            <Notice told={told} className="mb-3" />
            <div className="grid gap-x-3 sm:grid-cols-2">
              <Line label="Email" type="email" small maxLength={320} value={email} onChange={setEmail} />
              <Line label="Their name, if you like" small value={name} onChange={setName} />
            </div>
            <MayFields value={place} teams={teams} onChange={setPlace} />
            <div className="flex flex-wrap gap-2">
              <button type="submit" className="btn btn-primary btn-sm" disabled={busy || email.trim() === ''}>
                Send the invitation
              </button>
              <button type="button" className="btn btn-plain btn-sm" disabled={busy} onClick={() => send('link')}>
                Make a link to hand over
              </button>
              <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
                Not now
              </button>
            </div>
          </>
        )}
      </form>
    </Modal>
  );
}
