import { useState } from 'react';
import type { CostsView } from '../../app/results/costs.ts';
import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { readRates } from '../../core/results/rates.ts';

/** What other currencies are worth, from which day on; typed, or several at once. */
export function CurrencyRates({
  view: { currency: own, rates, unrated },
  changes,
  again,
}: {
  view: CostsView;
  changes: boolean;
  again: () => Promise<void>;
}) {
  const [currency, setCurrency] = useState(unrated[0] ?? '');
  const [day, setDay] = useState('');
  const [rate, setRate] = useState('');
  const [several, setSeveral] = useState('');
  const { act, busy, told, tell } = useAction();
  const add = (lines: { currency: string; day: string; rate: number }[]) =>
    act(
      async () => {
        const took = await call('POST', '/api/results/rates', { rates: lines });
        setRate('');
        setSeveral('');
        await again();
        return took;
      },
      (took) =>
        `${took.rates === 1 ? 'The rate is' : `${took.rates} rates are`} kept. What it changes is reckoned anew.`,
    );
  const addSeveral = () => {
    const read = readRates(several);
    if (read.problem) tell(read.problem, false);
    else void add(read.rates);
  };
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">Other currencies</h2>
      <p className="mb-3 text-ink-2">
        A rate holds from its day until the next. Amounts of days before the first stay in their own currency.
      </p>
      <ToldLine told={told} />
      {rates.length > 0 && (
        <div className="mb-3 max-h-48 overflow-auto">
          <table className="table table-xs">
            <thead>
              <tr>
                <th scope="col">From</th>
                <th scope="col">1 of it is worth</th>
                {changes && (
                  <th scope="col">
                    <span className="sr-only">Remove</span>
                  </th>
                )}
              </tr>
            </thead>
            <tbody>
              {rates.map((one) => (
                <tr key={`${one.currency} ${one.day}`}>
                  <td>{one.day}</td>
                  <td className="tabular-nums">
                    1 {one.currency} = {one.rate} {own}
                  </td>
                  {changes && (
                    <td>
                      <button
                        type="button"
                        className="btn btn-ghost btn-xs"
                        disabled={busy}
                        aria-label={`Remove the rate of ${one.currency} from ${one.day}`}
                        onClick={() =>
                          void act(async () => {
                            await call('POST', '/api/results/rates/remove', { currency: one.currency, day: one.day });
                            await again();
                          })
                        }
                      >
                        Remove
                      </button>
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {changes && (
        <>
          <div className="flex flex-wrap items-end gap-2">
            <label>
              <span className="field-label">1 of</span>
              <input
                className="input input-sm w-20 uppercase"
                value={currency}
                maxLength={3}
                placeholder="EUR"
                onChange={(event) => setCurrency(event.target.value.toUpperCase())}
              />
            </label>
            <label>
              <span className="field-label">is worth in {own}</span>
              <input
                className="input input-sm w-28"
                inputMode="decimal"
                value={rate}
                placeholder="0.86"
                onChange={(event) => setRate(event.target.value)}
              />
            </label>
            <label>
              <span className="field-label">from</span>
              <input
                type="date"
                className="input input-sm w-auto"
                value={day}
                onChange={(event) => setDay(event.target.value)}
              />
            </label>
            <button
              type="button"
              className="btn btn-plain btn-sm"
              disabled={busy || currency.length !== 3 || day === '' || rate.trim() === ''}
              onClick={() => {
                const read = readRates(`${day};${currency};${rate}`);
                if (read.problem) tell(read.problem, false);
                else void add(read.rates);
              }}
            >
              Add
            </button>
          </div>
          <details className="mt-3">
            <summary className="cursor-pointer text-note">Several at once, from a file of rates</summary>
            <textarea
              className="textarea textarea-sm mt-2 w-full font-mono"
              rows={4}
              aria-label="Rates: day, currency, rate"
              placeholder={'2026-11-01, EUR, 0.86\n2026-11-02, EUR, 0.87'}
              value={several}
              onChange={(event) => setSeveral(event.target.value)}
            />
            <div className="mt-2 flex gap-2">
              <button
                type="button"
                className="btn btn-plain btn-sm"
                disabled={busy || several.trim() === ''}
                onClick={addSeveral}
              >
                Add these
              </button>
              <label className="btn btn-ghost btn-sm cursor-pointer">
                Read a file
                <input
                  type="file"
                  className="sr-only"
                  accept=".csv,.txt,.tsv"
                  onChange={(event) => void event.target.files?.[0]?.text().then(setSeveral)}
                />
              </label>
            </div>
          </details>
        </>
      )}
    </section>
  );
}
