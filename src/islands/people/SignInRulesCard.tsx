import { useState } from 'react';
import type { SignInRules } from '../../app/account/sign-on.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { CopyLine } from '../../components/CopyLine.tsx';
import { Choice, Line, Tick } from '../../components/fields.tsx';
import { ROLE_WORDS, ROLES, type Role } from '../../core/people/rights.ts';

type Newcomers = Exclude<Role, 'owner'> | 'nobody';

/** How people come into the business: with more than a password, by a sign-in of its own. */
export default function SignInRulesCard({ first, now }: { first: SignInRules; now: number }) {
  const { value, again } = useQuery(['sign-in-rules'], () => call('GET', '/api/sign-in-rules'), { first, at: now });
  const { act, busy, told } = useAction();
  const [open, setOpen] = useState(false);
  const doing = (work: () => Promise<unknown>, words: string) =>
    act(async () => {
      await work();
      await again();
    }, words);
  const { demandsSecond, without, signOn, backTo } = value;
  return (
    <section className="sheet-card mb-4 p-4" aria-label="How people sign in">
      <h2 className="mb-2 text-part">How people sign in</h2>
      <Notice told={told} className="mb-3" />
      <Tick
        label="Everybody needs more than a password"
        note={
          without > 0 && !demandsSecond
            ? `${without === 1 ? 'One person has' : `${without} people have`} neither a passkey nor codes yet: they are asked to add one before they go on.`
            : 'A passkey, or a code of their phone.'
        }
        value={demandsSecond}
        disabled={busy}
        onChange={(demands) =>
          void doing(
            () => call('PUT', '/api/sign-in-rules', { demands }),
            demands ? 'Asked of everybody from now on.' : 'A password is enough again.',
          )
        }
      />
      <h3 className="mt-4 mb-1 font-semibold">A sign-in of your own</h3>
      <p className="mb-2 text-note text-ink-2">
        {signOn
          ? `People with an address of ${signOn.domains.join(', ')} come in by ${new URL(signOn.issuer).host}.${signOn.only ? ' Passwords open this business to its owners only.' : ''}`
          : 'If your business has a sign-in for all its programs, people can come in by that (OpenID Connect).'}
      </p>
      {open ? (
        <SignOnForm
          first={signOn}
          backTo={backTo}
          busy={busy}
          onSave={async (input) => {
            const done = await doing(
              () => call('PUT', '/api/sign-on', input).then(() => true),
              'Saved: the service answers.',
            );
            if (done !== undefined) setOpen(false);
          }}
          onClose={() => setOpen(false)}
        />
      ) : (
        <div className="flex gap-2">
          <button type="button" className="btn btn-plain btn-sm" onClick={() => setOpen(true)}>
            {signOn ? 'Change it' : 'Set it up'}
          </button>
          {signOn && (
            <button
              type="button"
              className="btn btn-ghost btn-sm"
              disabled={busy}
              onClick={() =>
                void doing(() => call('DELETE', '/api/sign-on'), 'People sign in by password and passkey again.')
              }
            >
              Do without it
            </button>
          )}
        </div>
      )}
    </section>
  );
}

function SignOnForm({
  first,
  backTo,
  busy,
  onSave,
  onClose,
}: {
  first: SignInRules['signOn'];
  backTo: string;
  busy: boolean;
  onSave: (input: {
    issuer: string;
    clientId: string;
    secret: string;
    domains: string[];
    newcomers: Exclude<Role, 'owner'> | null;
    only: boolean;
  }) => Promise<void>;
  onClose: () => void;
}) {
  const [issuer, setIssuer] = useState(first?.issuer ?? '');
  const [clientId, setClientId] = useState(first?.clientId ?? '');
  const [secret, setSecret] = useState('');
  const [domains, setDomains] = useState(first?.domains.join(', ') ?? '');
  const [newcomers, setNewcomers] = useState<Newcomers>((first?.newcomers as Newcomers | null) ?? 'nobody');
  const [only, setOnly] = useState(first?.only ?? false);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void onSave({
          ...{ issuer: issuer.trim(), clientId, secret, only },
          domains: domains.split(/[\s,;]+/).filter(Boolean),
          newcomers: newcomers === 'nobody' ? null : newcomers,
        });
      }}
    >
      <p className="mb-1 field-label">What the service is told to send people back to</p>
      <CopyLine text={backTo} what="Address" />
      <Line
        label="Its address (issuer)"
        small
        maxLength={500}
        placeholder="https://sign-in.wrenfield.example"
        value={issuer}
        onChange={setIssuer}
      />
      <Line label="Client id" small maxLength={500} value={clientId} onChange={setClientId} />
      <Line
        label={
          first?.hasSecret ? 'Client secret (kept as it is where left empty)' : 'Client secret, if it gave you one'
        }
        small
        type="password"
        maxLength={1000}
        value={secret}
        onChange={setSecret}
      />
      <Line
        label="Addresses that come in by it end in"
        small
        maxLength={500}
        placeholder="wrenfield.example"
        value={domains}
        onChange={setDomains}
      />
      <Choice
        label="Whoever is new"
        small
        value={newcomers}
        options={[
          ['nobody', 'comes in only when invited'] as const,
          ...ROLES.filter((role) => role !== 'owner').map(
            (role) => [role, `becomes ${ROLE_WORDS[role].name.toLowerCase()}`] as const,
          ),
        ]}
        onChange={setNewcomers}
      />
      <Tick
        label="No other way in, but for owners"
        note="Passwords and passkeys still let owners in, should the service fail."
        value={only}
        onChange={setOnly}
      />
      <div className="flex gap-2">
        <button
          type="submit"
          className="btn btn-primary btn-sm"
          disabled={busy || issuer.trim() === '' || clientId.trim() === ''}
        >
          Try it and save
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
          Leave it as it is
        </button>
      </div>
    </form>
  );
}
