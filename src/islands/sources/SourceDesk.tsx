import Copy from 'lucide-react/icons/copy';
import Eye from 'lucide-react/icons/eye';
import { useState } from 'react';
import type { SampleView, SourceView } from '../../app/sources.ts';
import type { LeadCard } from '../../core/source/lead-card.ts';
import { exactWords, type Place, whenWords } from '../../core/words/instant.ts';
import { call, messageOf } from '../call.ts';
import { useLive } from '../use-live.ts';
import { LeadCardForm } from './LeadCardForm.tsx';

type Sample = SampleView & { guess: LeadCard };

interface Props {
  first: SourceView;
  samples: Sample[];
  place: Place;
  now: number;
  practiceUrl: string | null;
}

/** A source: its address, the samples caught, and the lead card that says which field is which. */
export default function SourceDesk({ first, samples: firstSamples, place, now: loadedAt, practiceUrl }: Props) {
  const [source, setSource] = useState(first);
  const [samples, setSamples] = useState(firstSamples);
  const [chosen, setChosen] = useState<string | null>(null);
  const [now, setNow] = useState(loadedAt);
  const [told, setTold] = useState<{ text: string; good: boolean } | null>(null);
  const look = async () => {
    const [fresh, caught] = await Promise.all([
      call<SourceView>('GET', `/api/sources/${source.id}`),
      call<Sample[]>('GET', `/api/sources/${source.id}/samples`),
    ]);
    setSource(fresh);
    setSamples(caught);
    setNow(Date.now());
  };
  useLive(() => void look().catch(() => {}));
  const readable = samples.filter((sample) => sample.state !== 'refused');
  const sample = samples.find((one) => one.arrivalId === chosen) ?? readable[0] ?? samples[0] ?? null;
  const change = (work: Promise<SourceView>, done: string) =>
    work.then(
      (fresh) => {
        setSource(fresh);
        setTold({ text: done, good: true });
      },
      (error) => setTold({ text: messageOf(error), good: false }),
    );
  return (
    <main className="mx-auto max-w-[1200px] p-5">
      <div className="mb-4 flex flex-wrap items-center gap-2.5">
        <a className="text-ink-2 hover:underline" href="/sources">
          Sources
        </a>
        <h1 className="text-xl">{source.name}</h1>
        <span className={`pill ${source.state === 'live' ? 'good' : source.state === 'paused' ? 'warn' : ''}`}>
          {source.state === 'live' ? 'Live' : source.state === 'paused' ? 'Paused' : 'Waiting to be set up'}
        </span>
        <span className="text-ink-2">
          {source.kindLabel}, {source.arrivals} {source.arrivals === 1 ? 'arrival' : 'arrivals'}
        </span>
        <span className="grow" />
        {source.cardConfirmed && (
          <button
            type="button"
            className="btn btn-plain btn-sm"
            onClick={() =>
              change(
                call('PUT', `/api/sources/${source.id}`, { paused: source.state === 'live' }),
                source.state === 'live' ? 'Paused. What comes in is kept, and nothing is sent.' : 'Live again.',
              )
            }
          >
            {source.state === 'live' ? 'Pause this source' : 'Put it live again'}
          </button>
        )}
      </div>
      {told && (
        <p className={`notice mb-3 ${told.good ? 'good' : 'bad'}`} role="alert">
          {told.text}
        </p>
      )}
      <div className="grid gap-4 lg:grid-cols-[360px_minmax(0,1fr)]">
        <div className="min-w-0">
          {source.kind === 'webhook' && <Address source={source} />}
          <section className="sheet-card" aria-label="Samples">
            <div className="flex items-center justify-between border-b border-base-300 px-4 py-2.5">
              <h2 className="text-[15px]">{samples.length === 0 ? 'Waiting for a first one' : 'Caught'}</h2>
              <span className="pill good">Listening</span>
            </div>
            {samples.length === 0 && (
              <p className="p-4 text-ink-2" data-testid="waiting">
                {source.kind === 'webhook'
                  ? 'Send something to the address above; it appears here by itself.'
                  : `Fill in the ${String(source.settings.formName)} form once, as a customer would; the entry appears here by itself.`}
                {source.kind === 'ad-form' && practiceUrl && (
                  <>
                    {' '}
                    The form is at the{' '}
                    <a className="link" href={practiceUrl} target="_blank" rel="noreferrer">
                      practice desk
                    </a>
                    .
                  </>
                )}
              </p>
            )}
            <ul className="max-h-[60vh] overflow-y-auto" data-testid="samples">
              {samples.map((one) => (
                <li key={one.arrivalId} className="border-b border-base-300 last:border-0">
                  <button
                    type="button"
                    aria-pressed={one.arrivalId === sample?.arrivalId}
                    className={`block w-full px-4 py-2 text-left ${one.arrivalId === sample?.arrivalId ? 'bg-pine-soft' : 'hover:bg-base-200'}`}
                    onClick={() => setChosen(one.arrivalId)}
                  >
                    <span className="flex justify-between gap-2">
                      <span className="truncate font-semibold">{summary(one)}</span>
                      {one.state !== 'read' && (
                        <span className={`pill shrink-0 ${one.state === 'refused' ? 'bad' : ''}`}>
                          {one.state === 'refused' ? 'Not understood' : 'Kept'}
                        </span>
                      )}
                    </span>
                    <time
                      className="text-xs text-ink-2"
                      dateTime={one.receivedAt}
                      title={exactWords(one.receivedAt, place)}
                    >
                      {whenWords(one.receivedAt, now, place)}
                    </time>
                  </button>
                </li>
              ))}
            </ul>
          </section>
        </div>
        <div className="min-w-0">
          {sample?.state === 'refused' ? (
            <section className="sheet-card p-4">
              <h2 className="mb-2 text-[15px]">Not understood</h2>
              <p className="notice bad mb-2">{sample.problem}</p>
              <p className="text-ink-2">What was sent is kept, byte for byte. The sender was told the same.</p>
            </section>
          ) : sample ? (
            <LeadCardForm
              key={`${sample.arrivalId}-${source.cardConfirmed}`}
              fields={sample.fields}
              start={source.cardConfirmed ? source.card : sample.guess}
              confirmed={source.cardConfirmed}
              usedBy={source.usedBy}
              onSave={async (card) => {
                const fresh = await call<SourceView>('PUT', `/api/sources/${source.id}/card`, card);
                setSource(fresh);
                setTold({
                  text: source.cardConfirmed
                    ? 'The lead card is saved. It counts from the next lead on.'
                    : 'Done. This source is live: put it on top of a run sheet.',
                  good: true,
                });
              }}
            />
          ) : (
            <section className="sheet-card p-6 text-ink-2">
              Once something has come in, its fields stand here and you say which is the name, the email, the phone and
              the consent.
            </section>
          )}
        </div>
      </div>
    </main>
  );
}

const summary = (sample: Sample) =>
  sample.fields
    .map((field) => field.value)
    .filter((value) => value !== '')
    .slice(0, 3)
    .join(', ') || (sample.state === 'refused' ? (sample.problem ?? '') : 'Nothing in it');

function Address({ source }: { source: SourceView }) {
  const [secret, setSecret] = useState<string | null>(null);
  const [copied, setCopied] = useState('');
  const copy = (text: string, what: string) =>
    void navigator.clipboard.writeText(text).then(() => setCopied(`${what} copied`));
  const example = `curl -X POST ${source.address} -H 'content-type: application/json' -d '{"name":"Nadia Okafor","email":"nadia@example.com","contact_number":"07700 900142"}'`;
  return (
    <section className="sheet-card mb-4 p-4">
      <h2 className="mb-1 text-[15px]">Its address</h2>
      <p className="mb-2 text-[13px] text-ink-2">The application sends each lead here, as JSON or form fields.</p>
      <div className="mb-2 flex gap-2">
        <code className="grow rounded-lg bg-base-200 px-2 py-1.5 font-mono text-xs break-all" data-testid="address">
          {source.address}
        </code>
        <button
          type="button"
          className="btn btn-plain btn-sm btn-square"
          aria-label="Copy the address"
          onClick={() => copy(source.address, 'Address')}
        >
          <Copy className="size-4" />
        </button>
      </div>
      {source.signed &&
        (secret ? (
          <div className="mb-2 flex gap-2">
            <code className="grow rounded-lg bg-base-200 px-2 py-1.5 font-mono text-xs break-all">{secret}</code>
            <button
              type="button"
              className="btn btn-plain btn-sm btn-square"
              aria-label="Copy the secret"
              onClick={() => copy(secret, 'Secret')}
            >
              <Copy className="size-4" />
            </button>
          </div>
        ) : (
          <button
            type="button"
            className="btn btn-plain btn-sm mb-2"
            onClick={() =>
              void call<{ secret: string }>('POST', `/api/sources/${source.id}/secret`).then((found) =>
                setSecret(found.secret),
              )
            }
          >
            <Eye className="size-4" aria-hidden="true" />
            Show the signing secret
          </button>
        ))}
      <details>
        <summary className="cursor-pointer text-[13px] text-ink-2">For developers: an example</summary>
        <code className="mt-1 block rounded-lg bg-base-200 p-2 font-mono text-xs break-all">{example}</code>
      </details>
      <p className="text-xs text-success" role="status">
        {copied}
      </p>
    </section>
  );
}
