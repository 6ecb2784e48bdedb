import { useState } from 'react';
import type { LeadOutcome } from '../../app/leads/outcomes.ts';
import { call } from '../../client/call.ts';
import { comeAnew } from '../../client/go-to.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Line } from '../../components/fields.tsx';
import { dayWords, type Place } from '../../core/words/instant.ts';
import { moneyWords } from '../../core/words/money.ts';

/** What has come of somebody, by the business's own names: noted by hand, or taken back. */
export default function LeadOutcomes({
  leadId,
  outcomes,
  names,
  place,
  changes,
}: {
  leadId: string;
  outcomes: LeadOutcome[];
  names: string[];
  place: Place;
  changes: boolean;
}) {
  const [name, setName] = useState('');
  const [day, setDay] = useState('');
  const [amount, setAmount] = useState('');
  const { act, busy, told } = useAction();
  const note = () =>
    act(async () => {
      await call('POST', `/api/leads/${leadId}/outcomes`, { name, day, amount });
      await comeAnew();
    });
  const takeBack = (id: string) =>
    act(async () => {
      await call('DELETE', `/api/leads/${leadId}/outcomes/${id}`);
      await comeAnew();
    });
  if (!changes && outcomes.length === 0) return null;
  return (
    <section className="mt-4">
      <h2 className="mb-1 font-sans text-note font-semibold text-ink-2">What came of it</h2>
      <ul>
        {outcomes.map((one) => (
          <li key={one.id} className="flex items-baseline justify-between gap-2">
            <span>
              {one.name}
              {one.amount !== null && `, ${moneyWords(one.amount, one.currency, place.locale)}`}
              <span className="block text-note text-ink-2">{dayWords(one.at, place)}</span>
            </span>
            {changes && (
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                disabled={busy}
                aria-label={`Take back: ${one.name}`}
                onClick={() => void takeBack(one.id)}
              >
                Take back
              </button>
            )}
          </li>
        ))}
      </ul>
      {changes && (
        <details className="mt-1">
          <summary className="cursor-pointer text-note">Note something that has happened</summary>
          <div className="mt-2">
            <Line
              label="What"
              value={name}
              list="own-outcomes"
              maxLength={60}
              placeholder="Trial lesson had"
              small
              onChange={setName}
            />
            <datalist id="own-outcomes">
              {names.map((one) => (
                <option key={one} value={one} />
              ))}
            </datalist>
            <Line label="Day; empty for today" type="date" value={day} small onChange={setDay} />
            <Line
              label="Money; empty for none"
              value={amount}
              inputMode="decimal"
              small
              maxLength={60}
              onChange={setAmount}
            />
            <button
              type="button"
              className="btn btn-plain btn-sm"
              disabled={busy || name.trim() === ''}
              onClick={() => void note()}
            >
              Note it
            </button>
          </div>
        </details>
      )}
      <ToldLine told={told} />
    </section>
  );
}
