import { useState } from 'react';
import { call } from '../../client/call.ts';
import { useQuery } from '../../client/use-query.ts';
import { MODEL_WORDS, MODELS } from '../../core/results/models.ts';
import { countWords } from './figures.ts';
import { Wide } from './Wide.tsx';

/** The same outcomes by every way of crediting, and where they disagree. */
export function SideBySide({ search, what, locale }: { search: string; what: string; locale: string }) {
  const [now] = useState(() => Date.now());
  const { value: view } = useQuery(['results-models', search], () => call('GET', `/api/results/models?${search}`), {
    first: null,
    at: now,
    live: false,
  });
  return (
    <section className="sheet-card p-4">
      <h2 className="mb-1 text-part">{what}, by every way of crediting</h2>
      {view && (
        <>
          <p className="mb-2 text-ink-2">
            {view.says ?? 'Here all of them say the same: each of these people had one contact, or all by one place.'}
          </p>
          <div>
            <Wide what={what}>
              <table className="table table-xs results-table w-full">
                <thead>
                  <tr>
                    <th scope="col" className="text-left">
                      From
                    </th>
                    {MODELS.map((model) => (
                      <th key={model} scope="col" title={MODEL_WORDS[model].says}>
                        {MODEL_WORDS[model].short}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {view.rows.slice(0, 8).map(({ name, by }) => (
                    <tr key={name}>
                      <th scope="row" className="max-w-48 truncate text-left font-medium">
                        {name || 'No mark'}
                      </th>
                      {MODELS.map((model) => (
                        <td key={model} className="tabular-nums">
                          {countWords(by[model], locale)}
                        </td>
                      ))}
                    </tr>
                  ))}
                  <tr className="border-t-2 border-base-300 font-semibold">
                    <th scope="row" className="text-left">
                      All of it
                    </th>
                    {MODELS.map((model) => (
                      <td key={model} className="tabular-nums">
                        {countWords(view.total[model], locale)}
                      </td>
                    ))}
                  </tr>
                </tbody>
              </table>
            </Wide>
          </div>
        </>
      )}
    </section>
  );
}
