import { useEffect, useRef, useState } from 'react';
import type { Bars } from './bar-chart.ts';

/** Bars that can be read as a table as well; the drawing library is loaded after the page stands. */
export function Chart({
  bars,
  says,
  first,
  className = 'h-56',
}: {
  bars: Bars;
  /** For who cannot see it: what it is of. */
  says: string;
  /** What stands over the names in the table: "Week from". */
  first: string;
  className?: string;
}) {
  const host = useRef<HTMLDivElement>(null);
  const chart = useRef<{ update(bars: Bars): void; dispose(): void } | null>(null);
  const latest = useRef(bars);
  latest.current = bars;
  const [asTable, setAsTable] = useState(false);
  useEffect(() => {
    let gone = false;
    if (asTable || !host.current) return;
    const element = host.current;
    void import('./bar-chart.ts').then(({ barChart }) => {
      if (gone) return;
      chart.current = barChart(element);
      chart.current.update(latest.current);
    });
    return () => {
      gone = true;
      chart.current?.dispose();
      chart.current = null;
    };
  }, [asTable]);
  useEffect(() => chart.current?.update(bars), [bars]);
  const { names, series, words } = bars;
  // With keys: what drew into the one place must not be taken for the other.
  return (
    <>
      {asTable ? (
        <div key="table" className="max-h-64 overflow-auto">
          <table className="table table-xs results-table w-full">
            <thead>
              <tr>
                <th scope="col" className="text-left">
                  {first}
                </th>
                {series.map(({ name }) => (
                  <th key={name} scope="col">
                    {name || 'No mark'}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {names.map((name, i) => (
                <tr key={name}>
                  <th scope="row" className="text-left font-normal">
                    {name}
                  </th>
                  {series.map(({ name: of, values }) => (
                    <td key={of} className="tabular-nums">
                      {words(values[i]!)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <div key="bars" ref={host} className={`${className} w-full`} role="img" aria-label={says} />
      )}
      <button type="button" className="btn btn-ghost btn-xs mt-1 text-ink-2" onClick={() => setAsTable(!asTable)}>
        {asTable ? 'Show as bars' : 'Show as a table'}
      </button>
    </>
  );
}
