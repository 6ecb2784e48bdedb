import { useState } from 'react';
import type { TriedCall } from '../../app/account/service-calls.ts';
import { call as ask } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Choice, Line } from '../../components/fields.tsx';
import type { Description } from '../../core/described/description.ts';
import { askedAs, keptHeaders, type Recorded } from '../../core/described/recorded.ts';
import { readTree } from './read-tree.ts';

interface Props {
  id: string;
  /** As it is saved: what is tried. */
  description: Description;
  /** What each call is given, with its words. */
  givenOf: (call: string) => Record<string, string>;
  /** Something in an answer was pointed at. */
  onPoint: ((call: string, name: string, path: string) => void) | null;
}

/** Hands the browser a file: a line of JSON for each try. */
function save(name: string, kept: readonly Recorded[]): void {
  const lines = kept.map((one) => JSON.stringify(one)).join('\n');
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([lines], { type: 'application/x-ndjson' }));
  link.download = `${name.replace(/[^\w -]+/g, '') || 'service'}.ndjson`;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** Makes one call of a service, or shows what it would send; what came back can be pointed at. */
export function TryCall({ id, description, givenOf, onPoint }: Props) {
  const names = Object.keys(description.calls);
  const [name, setName] = useState(names[0] ?? '');
  const [given, setGiven] = useState<Record<string, string>>({});
  const [came, setCame] = useState<(TriedCall & { call: string }) | null>(null);
  /** What was sent and came back, try by try: a recording the description can be held to later. */
  const [kept, setKept] = useState<Recorded[]>([]);
  const { act, busy, told } = useAction();
  if (names.length === 0) return null;
  const tryIt = (dry: boolean) =>
    void act(async () => {
      const answer = await ask('POST', `/api/connections/${id}/call`, { call: name, given, dry });
      setCame({ call: name, ...answer });
      const { sent, reply } = answer;
      if (sent && reply) {
        const asked = askedAs(sent.method, sent.address, sent.body);
        setKept([...kept, { asked, reply: { ...reply, headers: keptHeaders(reply.headers) } }]);
      }
    });
  const lines = came?.reply ? readTree(came.reply.body) : [];
  return (
    <section className="sheet-card mb-4 p-4" aria-label="Try it">
      <h2 className="mb-2 text-part">Try it</h2>
      <div className="grid gap-x-3 sm:grid-cols-2">
        <Choice label="Call" small value={name} options={names.map((one) => [one, one] as const)} onChange={setName} />
        {Object.entries(givenOf(name)).map(([key, words]) => (
          <Line
            key={key}
            label={words || key}
            small
            maxLength={20_000}
            value={given[key] ?? ''}
            onChange={(text) => setGiven({ ...given, [key]: text })}
          />
        ))}
      </div>
      <div className="mb-3 flex gap-2">
        <button type="button" className="btn btn-plain btn-sm" disabled={busy} onClick={() => tryIt(true)}>
          Show what would be sent
        </button>
        <button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={() => tryIt(false)}>
          {busy ? 'Calling …' : 'Call it now'}
        </button>
      </div>
      <Notice told={told} className="mb-3" />
      {kept.length > 0 && (
        <p className="mb-3 text-note text-ink-2">
          <button type="button" className="link" onClick={() => save(description.name, kept)}>
            Save {kept.length === 1 ? 'this try' : `these ${kept.length} tries`} as a recording
          </button>
          , to hold the description to without the service. What is secret is hidden; people in the answers are not.
        </p>
      )}
      {came && (
        <>
          <p className="mb-2 font-semibold" role="status">
            {came.outcome}
            {came.reply && (
              <span className="font-normal text-ink-2">
                {' '}
                · answered {came.reply.status} in {came.ms} ms
              </span>
            )}
          </p>
          {came.sent && (
            <details className="mb-2" open={came.reply === null}>
              <summary className="cursor-pointer text-note text-ink-2">
                What {came.reply ? 'was' : 'would be'} sent; what is secret is hidden
              </summary>
              <pre className="mt-1 overflow-x-auto rounded-lg bg-base-200 p-2 font-mono text-xs whitespace-pre-wrap break-all">
                {`${came.sent.method} ${came.sent.address}\n${Object.entries(came.sent.headers)
                  .map(([header, value]) => `${header}: ${value}`)
                  .join('\n')}${came.sent.body ? `\n\n${came.sent.body}` : ''}`}
              </pre>
            </details>
          )}
          {(Object.keys(came.read).length > 0 || came.items.length > 0) && (
            <dl className="mb-2 grid grid-cols-[auto_1fr] gap-x-3 text-note" aria-label="What was read from it">
              {Object.entries(came.items[0] ?? came.read).map(([key, value]) => (
                <div key={key} className="contents">
                  <dt className="text-ink-2">{key}</dt>
                  <dd className="break-words">{value || 'nothing'}</dd>
                </div>
              ))}
            </dl>
          )}
          {came.items.length > 1 && (
            <p className="mb-2 text-note text-ink-2">The first of {came.items.length} items.</p>
          )}
          {lines.length > 0 && (
            <>
              <h3 className="field-label">What came back{onPoint && ': point at a value to read it'}</h3>
              <div className="max-h-80 overflow-auto rounded-lg bg-base-200 p-2 font-mono text-xs">
                {lines.map((line) => (
                  <div
                    key={line.path}
                    className="flex items-baseline gap-2"
                    style={{ paddingLeft: `${line.depth}rem` }}
                  >
                    <span className="text-ink-2">{line.name || 'the answer'}</span>
                    {line.plain && onPoint ? (
                      <button
                        type="button"
                        className="link text-left break-all"
                        title={line.path}
                        onClick={() => onPoint(came.call, line.name, line.path)}
                      >
                        {line.value || 'empty'}
                      </button>
                    ) : (
                      <span className="break-all">{line.value}</span>
                    )}
                  </div>
                ))}
              </div>
            </>
          )}
          {came.reply && lines.length === 0 && came.reply.body !== '' && (
            <pre className="max-h-60 overflow-auto rounded-lg bg-base-200 p-2 font-mono text-xs whitespace-pre-wrap break-all">
              {came.reply.body}
            </pre>
          )}
        </>
      )}
    </section>
  );
}
