import { call } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useQuery } from '../../client/use-query.ts';
import { within } from '../../client/within.ts';
import { exactWords, type Place, whenWords } from '../../core/words/instant.ts';
import { type Caught, pillOf } from './caught.ts';

const KEPT_NO_MORE =
  'What was sent is kept no more: it is older than the settings say. What was understood of it stands above.';

/** One arrival: what was understood of it, and what came, as it came. */
export function ArrivalDetail({
  sourceId,
  arrival,
  place,
  now,
}: {
  sourceId: string;
  arrival: Caught;
  place: Place;
  now: number;
}) {
  const { value: full, problem } = useQuery(
    ['arrival', sourceId, arrival.arrivalId],
    () => call('GET', `/api/sources/${sourceId}/arrivals/${arrival.arrivalId}`),
    { first: null, at: 0, live: false },
  );
  const raw = full?.arrivalId === arrival.arrivalId ? full : null;
  return (
    <section className="sheet-card p-4" aria-label="Arrival">
      <div className="mb-2 flex items-center gap-2">
        <h2 className="text-part">
          <time dateTime={arrival.receivedAt} title={exactWords(arrival.receivedAt, place)}>
            {whenWords(arrival.receivedAt, now, place)}
          </time>
        </h2>
        <span className={`pill ${pillOf(arrival).tone}`}>{pillOf(arrival).label}</span>
        {arrival.leadId && (
          <a className="link ml-auto" href={within(`/leads/${arrival.leadId}`)}>
            Open the lead
          </a>
        )}
      </div>
      {arrival.problem && (
        <p className={`notice mb-3 ${arrival.state === 'refused' ? 'bad' : ''}`}>{arrival.problem}</p>
      )}
      {arrival.state === 'held' && (
        <p className="notice mb-3">
          It came while the source was not live. Tick it and handle it again to bring it in.
        </p>
      )}
      {arrival.fields.length > 0 && (
        <table className="table table-sm mb-3">
          <thead>
            <tr>
              <th>Field</th>
              <th>As it was read</th>
            </tr>
          </thead>
          <tbody>
            {arrival.fields.map((field) => (
              <tr key={field.key}>
                <td className="w-44 align-top font-semibold break-words">{field.label}</td>
                <td className="break-words whitespace-pre-wrap">
                  {field.rows ? (
                    <FieldRows
                      rows={field.rows}
                      link={
                        field.key === 'attachments' && raw?.kept !== false
                          ? (n) => `/api/sources/${sourceId}/arrivals/${arrival.arrivalId}/attachment?n=${n}`
                          : null
                      }
                    />
                  ) : (
                    field.value.slice(0, 2000) || <span className="text-ink-3">empty</span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <ToldLine told={problem ? { text: problem, good: false } : null} className="mb-2" />
      {raw && raw.where.length > 0 && (
        <>
          <h3 className="mb-1 text-note text-ink-2">Where from</h3>
          <p className="mb-3">{raw.where.map(([label, value]) => `${label}: ${value}`).join(', ')}</p>
        </>
      )}
      <details>
        <summary className="cursor-pointer text-note text-ink-2">
          As it came{raw?.kept ? `, ${raw.bytes.toLocaleString('en')} bytes` : ''}
        </summary>
        {raw && !raw.kept && <p className="mt-2">{KEPT_NO_MORE}</p>}
        {raw?.kept && (
          <div className="mt-2" data-testid="raw">
            <AsItCame
              label="Headers"
              rows={Math.min(6, raw.headers.length)}
              text={raw.headers.map(([name, value]) => `${name}: ${value}`).join('\n')}
            />
            <AsItCame label="Body" rows={12} text={raw.text ?? 'Not text; it is kept byte for byte.'} />
          </div>
        )}
      </details>
    </section>
  );
}

/** To read and copy, never to change: a text area can be scrolled and selected with the keyboard. */
function AsItCame({ label, rows, text }: { label: string; rows: number; text: string }) {
  if (text === '') return null;
  return (
    <textarea
      readOnly
      aria-label={label}
      rows={rows}
      value={text}
      className="textarea mb-2 w-full bg-base-200 font-mono text-xs"
    />
  );
}

/** A list within an arrival: the lines of an order, the attachments of a mail. */
function FieldRows({ rows, link }: { rows: Record<string, string>[]; link: ((n: number) => string) | null }) {
  return (
    <ul>
      {rows.map((row, n) => {
        const [first = '', ...rest] = Object.values(row);
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a row is known by its place alone.
          <li key={n}>
            {link ? (
              <a className="link" href={within(link(n))}>
                {first}
              </a>
            ) : (
              first
            )}
            <span className="text-ink-2">{rest.length > 0 && `, ${rest.join(', ')}`}</span>
          </li>
        );
      })}
    </ul>
  );
}
