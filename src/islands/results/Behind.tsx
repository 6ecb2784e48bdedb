import { useState } from 'react';
import { call } from '../../client/call.ts';
import { Modal } from '../../client/Modal.tsx';
import { useQuery } from '../../client/use-query.ts';
import { within } from '../../client/within.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';
import { countWords, shareWords, sumsWords } from './figures.ts';

/** A number of the table. */
export interface Asked {
  kind: string;
  path: string[];
  what: string;
  name: string;
}

/** Who is behind a number, what of them counted, and why so much of it. */
export function Behind({
  search,
  asked,
  own,
  place,
  onClose,
}: {
  search: string;
  asked: Asked;
  own: string;
  place: Place;
  onClose: () => void;
}) {
  const [now] = useState(() => Date.now());
  const query = new URLSearchParams(search);
  query.set('kind', asked.kind);
  query.set('path', JSON.stringify(asked.path));
  const { value: view, problem } = useQuery(
    ['results-people', query.toString()],
    () => call('GET', `/api/results/people?${query}`),
    { first: null, at: now, live: false },
  );
  const title = `${asked.name}: ${asked.what}`;
  return (
    <Modal label={title} className="w-[min(44rem,94vw)]" onClose={onClose}>
      <div className="max-h-[80vh] overflow-y-auto p-4">
        <h2 className="mb-2 text-part">{title}</h2>
        {problem && <p className="notice bad">{problem}</p>}
        {view && (
          <>
            <p className="mb-2 text-ink-2">
              {countWords(view.total, place.locale)} in all
              {view.outcomes > view.rows.length && `, the latest ${view.rows.length} of ${view.outcomes} are shown`}.
            </p>
            <table className="table table-sm w-full">
              <thead>
                <tr>
                  <th scope="col">Who</th>
                  <th scope="col">What counted</th>
                  <th scope="col">When</th>
                  <th scope="col" className="text-right">
                    Credited here
                  </th>
                </tr>
              </thead>
              <tbody>
                {view.rows.map((row, i) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: they are shown once and in this order
                  <tr key={i}>
                    <td>
                      {row.leadId ? (
                        <a className="link" href={within(`/leads/${row.leadId}`)}>
                          {row.name}
                        </a>
                      ) : (
                        <span className="text-ink-2">{row.name}</span>
                      )}
                    </td>
                    <td>{row.what}</td>
                    <td className="whitespace-nowrap">{whenWords(row.at, now, place)}</td>
                    <td className="text-right tabular-nums">
                      {sumsWords({ [row.currency]: row.money }, own, place.locale) ||
                        (row.share === 1 ? '1' : shareWords(row.share, place.locale, 0))}
                      <span className="block text-xs text-ink-3">
                        {row.contacts === 0
                          ? 'no marked contact before it'
                          : row.contacts === 1
                            ? 'their only contact before it'
                            : `of ${row.contacts} contacts before it`}
                      </span>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </>
        )}
        <div className="mt-3 flex justify-end">
          <form method="dialog">
            <button type="submit" className="btn btn-plain btn-sm">
              Close
            </button>
          </form>
        </div>
      </div>
    </Modal>
  );
}
