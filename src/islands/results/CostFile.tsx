import { useState } from 'react';
import type { LookedAt } from '../../app/results/costs.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { FileButton, TABLES } from '../../components/FileButton.tsx';
import { sendFile } from '../../components/send-file.ts';
import { COST_COLUMNS, type CostColumn, type CostMapping } from '../../core/results/costs.ts';
import { countWords, sumsWords } from './figures.ts';

/** Brings costs in from a file or from what is pasted: shows what was understood, and keeps it only then. */
export function CostFile({ currency, locale, done }: { currency: string; locale: string; done: () => Promise<void> }) {
  const [file, setFile] = useState<File | null>(null);
  const [looked, setLooked] = useState<LookedAt | null>(null);
  const [pasted, setPasted] = useState('');
  const { act, busy, told } = useAction();
  const query = (tab: string | null, mapping: CostMapping | null) =>
    new URLSearchParams({ ...(tab ? { tab } : {}), ...(mapping ? { columns: JSON.stringify(mapping) } : {}) });
  const look = (chosen: File, tab: string | null, mapping: CostMapping | null) =>
    act(async () => {
      setLooked(await sendFile<LookedAt>(`/api/results/costs/look?${query(tab, mapping)}`, chosen));
      setFile(chosen);
    });
  const keep = () =>
    act(
      async () => {
        const kept = await sendFile<{ lines: number; replaced: number }>(
          `/api/results/costs?${query(looked!.tab, looked!.mapping)}`,
          file!,
        );
        setLooked(null);
        setFile(null);
        setPasted('');
        await done();
        return kept;
      },
      ({ lines, replaced }) =>
        `${lines} lines are kept${replaced > 0 ? `; they take the place of ${replaced} that were there` : ''}.`,
    );
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">From a file, or pasted</h2>
      <p className="mb-3 text-ink-2">
        A table with the day, the campaign and the cost; ad set, ad and currency where it has them. Without a currency
        it is in {currency}.
      </p>
      <ToldLine told={told} />
      {looked && file ? (
        <Understood
          looked={looked}
          own={currency}
          locale={locale}
          busy={busy}
          remap={(mapping) => void look(file, looked.tab, mapping)}
          otherTab={(tab) => void look(file, tab, null)}
          keep={() => void keep()}
          leave={() => setLooked(null)}
        />
      ) : (
        <>
          <FileButton accept={TABLES} onFile={(chosen) => void look(chosen, null, null)} disabled={busy}>
            Choose a file
          </FileButton>
          <label className="mt-3 block">
            <span className="field-label">Or paste rows, with the names of the columns first</span>
            <textarea
              className="textarea textarea-sm w-full font-mono"
              rows={4}
              value={pasted}
              placeholder={'Day\tCampaign\tAd set\tAd\tCost'}
              onChange={(event) => setPasted(event.target.value)}
            />
          </label>
          <button
            type="button"
            className="btn btn-plain btn-sm mt-2"
            disabled={busy || pasted.trim() === ''}
            onClick={() =>
              void look(
                new File([pasted], `pasted ${new Date().toISOString().slice(0, 16).replace('T', ' ')}`),
                null,
                null,
              )
            }
          >
            Look at it
          </button>
        </>
      )}
    </section>
  );
}

function Understood({
  looked,
  own,
  locale,
  busy,
  remap,
  otherTab,
  keep,
  leave,
}: {
  looked: LookedAt;
  own: string;
  locale: string;
  busy: boolean;
  remap: (mapping: CostMapping) => void;
  otherTab: (tab: string) => void;
  keep: () => void;
  leave: () => void;
}) {
  const { names, mapping, sample, lines, from, to, sums, left, leftInAll, missing } = looked;
  return (
    <>
      {looked.tabs.length > 1 && (
        <label className="mb-3 block">
          <span className="text-xs text-ink-2">Tab of the workbook</span>
          <select
            className="select select-sm w-full"
            value={looked.tab ?? ''}
            disabled={busy}
            onChange={(event) => otherTab(event.target.value)}
          >
            {looked.tabs.map((tab) => (
              <option key={tab} value={tab}>
                {tab}
              </option>
            ))}
          </select>
        </label>
      )}
      <div className="mb-3 grid grid-cols-2 gap-x-3 gap-y-2 sm:grid-cols-3">
        {(Object.keys(COST_COLUMNS) as CostColumn[]).map((column) => (
          <label key={column} className="block">
            <span className="text-xs text-ink-2">{COST_COLUMNS[column]}</span>
            <select
              className="select select-sm w-full"
              value={mapping[column]}
              disabled={busy}
              onChange={(event) => remap({ ...mapping, [column]: Number(event.target.value) })}
            >
              <option value={-1}>No column</option>
              {names.map((name, i) => (
                <option key={name} value={i}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        ))}
      </div>
      <div className="mb-3 max-h-40 overflow-auto rounded border border-base-300">
        <table className="table table-xs">
          <thead>
            <tr>
              {names.map((name) => (
                <th key={name} scope="col">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {sample.map((row, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: rows of a file have no name but their place
              <tr key={i}>
                {names.map((name, at) => (
                  <td key={name}>{row[at] ?? ''}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {missing ? (
        <p className="notice warn mb-3">{missing}</p>
      ) : (
        <p className="mb-3">
          {countWords(lines, locale)} lines{from && `, ${from} to ${to}`}:{' '}
          <b>{sumsWords(sums, own, locale) || 'nothing spent'}</b>.
        </p>
      )}
      {leftInAll > 0 && (
        <details className="notice warn mb-3">
          <summary className="cursor-pointer">
            {leftInAll === 1 ? '1 row is' : `${leftInAll} rows are`} left out
          </summary>
          <ul className="mt-1">
            {left.map(({ row, why }) => (
              <li key={row}>
                Row {row}: {why}.
              </li>
            ))}
          </ul>
        </details>
      )}
      <div className="flex gap-2">
        <button
          type="button"
          className="btn btn-primary btn-sm"
          disabled={busy || missing !== null || lines === 0}
          onClick={keep}
        >
          Keep these costs
        </button>
        <button type="button" className="btn btn-ghost btn-sm" onClick={leave}>
          Leave it
        </button>
      </div>
    </>
  );
}
