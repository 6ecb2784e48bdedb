import { useCallback, useEffect, useState } from 'react';
import type { BulkRow } from '../../app/leads/bulk.ts';
import { call } from '../../client/call.ts';

/** Work that ended longer ago than this is not shown any more, in milliseconds. */
const SHOWN_MS = 90_000;
const LOOK_MS = 600;

/** How far work on many leads has come, with a way to stop it. `begun` counts what was begun on this page. */
export function BulkProgress({ begun, locale }: { begun: number; locale: string }) {
  const [rows, setRows] = useState<BulkRow[]>([]);
  const look = useCallback(async () => {
    const all = await call('GET', '/api/bulk').catch(() => []);
    const recent = (row: BulkRow) =>
      row.state === 'running' || Date.now() - Date.parse(row.finishedAt ?? row.createdAt) < SHOWN_MS;
    setRows(all.filter(recent).slice(0, 3));
    return all.some((row) => row.state === 'running');
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: looks again when something was begun
  useEffect(() => {
    let gone = false;
    let timer: ReturnType<typeof setTimeout>;
    const again = async () => {
      const running = await look();
      if (!gone && running) timer = setTimeout(() => void again(), LOOK_MS);
    };
    void again();
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [look, begun]);
  if (rows.length === 0) return null;
  const count = (n: number) => n.toLocaleString(locale);
  return (
    <div className="mt-2 grid gap-1" data-testid="bulk-progress">
      {rows.map((row) => (
        <div key={row.id} className="notice flex flex-wrap items-center gap-2 text-note">
          <span className="font-semibold">{row.words}:</span>
          {row.state === 'running' ? (
            <>
              <progress
                className="progress progress-primary w-40"
                max={row.total}
                value={row.done}
                aria-label="How far it has come"
              />
              {count(row.done)} of {count(row.total)}
              <button
                type="button"
                className="btn btn-ghost btn-xs"
                onClick={() => void call('POST', `/api/bulk/${row.id}/stop`).then(look, look)}
              >
                Stop it
              </button>
            </>
          ) : row.state === 'refused' ? (
            row.problem
          ) : (
            <>
              {row.state === 'stopped' ? 'stopped' : 'done'}, {count(row.changed)} changed
              {row.done > row.changed && `, ${count(row.done - row.changed)} were so already`}
              {row.state === 'stopped' && `, ${count(row.total - row.done)} not reached`}.
              <button type="button" className="link" onClick={() => location.reload()}>
                Show the page anew
              </button>
            </>
          )}
        </div>
      ))}
    </div>
  );
}
