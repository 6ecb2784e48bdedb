import { useState } from 'react';
import type { CareView } from '../../app/account/connection-care.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Area, Line } from '../../components/fields.tsx';
import { dayMonth } from '../../core/words/instant.ts';

interface Props {
  id: string;
  first: CareView;
  locale: string;
}

/** Until when the key holds, and which authority of the business's own is believed. */
export default function Care({ id, first, locale }: Props) {
  const [care, setCare] = useState(first);
  const [until, setUntil] = useState(first.keyUntil ?? '');
  const [pem, setPem] = useState('');
  const { act, busy, told } = useAction();
  const keep = (authority: string | null) =>
    act(
      async () => {
        setCare(await call('PUT', `/api/connections/${id}/care`, { keyUntil: until, authority }, care.seen));
        setPem('');
      },
      () => 'Kept.',
    );
  return (
    <details className="sheet-card mb-4 p-4">
      <summary className="cursor-pointer font-head text-part font-bold">Keys and certificates</summary>
      <form
        className="mt-3"
        aria-label="Keys and certificates"
        onSubmit={(event) => {
          event.preventDefault();
          void keep(pem.trim() === '' ? null : pem);
        }}
      >
        <div className="max-w-60">
          <Line label="Last day the key holds, if it ends" small type="date" value={until} onChange={setUntil} />
        </div>
        <p className="mb-3 text-note text-ink-2">
          You are reminded a week before, and a week before certificates you filled in here end.
        </p>
        {care.authorities.length > 0 && (
          <div className="mb-3">
            <p className="field-label">Believed besides the authorities everybody believes</p>
            <ul>
              {care.authorities.map(({ name, until }) => (
                <li key={`${name} ${until}`}>
                  {name}, until {dayMonth(until, locale, true)}
                </li>
              ))}
            </ul>
            <button type="button" className="btn btn-ghost btn-sm" disabled={busy} onClick={() => void keep('')}>
              Believe them no longer
            </button>
          </div>
        )}
        <Area
          label={`Certificate of an authority of your own (PEM)${care.authorities.length > 0 ? ', to replace these' : ''}`}
          small
          rows={3}
          maxLength={60_000}
          placeholder="-----BEGIN CERTIFICATE-----"
          value={pem}
          onChange={setPem}
        />
        <p className="mb-3 text-note text-ink-2">
          Only for a server of your own, whose certificate nobody else has signed. Whoever holds its key can pass for
          that server.
        </p>
        <Notice told={told} className="mb-3" />
        <button type="submit" className="btn btn-plain btn-sm" disabled={busy}>
          Keep this
        </button>
      </form>
    </details>
  );
}
