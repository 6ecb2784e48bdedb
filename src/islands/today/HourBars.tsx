import { useEffect, useRef, useState } from 'react';

interface Props {
  today: number[];
  yesterday: number[];
  hourNow: number;
}

/** Leads by hour; the drawing library is loaded after the page stands. A table behind it can be read and copied. */
export function HourBars({ today, yesterday, hourNow }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const chart = useRef<{ update(props: Props): void; dispose(): void } | null>(null);
  const [asTable, setAsTable] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the chart is made once; what it shows is handed over below
  useEffect(() => {
    let gone = false;
    if (asTable || !host.current) return;
    const element = host.current;
    void import('./hour-chart.ts').then(({ hourChart }) => {
      if (gone) return;
      chart.current = hourChart(element);
      chart.current.update({ today, yesterday, hourNow });
    });
    return () => {
      gone = true;
      chart.current?.dispose();
      chart.current = null;
    };
  }, [asTable]);
  useEffect(() => chart.current?.update({ today, yesterday, hourNow }), [today, yesterday, hourNow]);
  return (
    <>
      {asTable ? (
        <div className="max-h-40 overflow-y-auto">
          <table className="table table-xs">
            <thead>
              <tr>
                <th>Hour</th>
                <th>Today</th>
                <th>Yesterday</th>
              </tr>
            </thead>
            <tbody>
              {today.map((n, hour) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: the index is the hour
                <tr key={hour}>
                  <td>{String(hour).padStart(2, '0')}:00</td>
                  <td>{n}</td>
                  <td>{yesterday[hour]}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <div
          ref={host}
          className="h-36 w-full"
          role="img"
          aria-label={`Leads by hour: ${today.reduce((a, b) => a + b, 0)} today, ${yesterday.reduce((a, b) => a + b, 0)} yesterday`}
        />
      )}
      <button type="button" className="btn btn-ghost btn-xs mt-1 text-ink-2" onClick={() => setAsTable(!asTable)}>
        {asTable ? 'Show as bars' : 'Show as a table'}
      </button>
    </>
  );
}
