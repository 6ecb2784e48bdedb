import type { SourceView } from '../../app/sources/sources.ts';
import { everyWords } from '../../components/SetupForm.tsx';
import { exactWords, type Place, whenWords } from '../../core/words/instant.ts';

/** How a source is doing, in sentences. */
export function SourceHealth({ source, place, now }: { source: SourceView; place: Place; now: number }) {
  const { pull } = source;
  const when = (iso: string) => (
    <time dateTime={iso} title={exactWords(iso, place)}>
      {whenWords(iso, now, place)}
    </time>
  );
  const count = (n: number) => n.toLocaleString(place.locale);
  const backlog = pull?.backlog ?? null;
  return (
    <section className="sheet-card p-3.5" aria-label="Health">
      <h2 className="mb-1 text-note text-ink-2">How it is doing</h2>
      {pull?.troubleSince ? (
        <p className="notice bad mb-1">
          Nothing can be fetched since {when(pull.troubleSince)}. {pull.problem} The next try is at {when(pull.nextAt)}.
        </p>
      ) : (
        <p className="font-semibold">
          {source.state === 'paused'
            ? 'Paused: what comes in is kept.'
            : source.lastArrivalAt
              ? 'Well'
              : 'Ready, nothing has come in yet'}
        </p>
      )}
      <p>
        {count(source.arrivals)} {source.arrivals === 1 ? 'arrival' : 'arrivals'}
        {source.lastArrivalAt && <>, the last at {when(source.lastArrivalAt)}</>}
      </p>
      {pull && (
        <p className="text-note text-ink-2">
          Looks {everyWords(pull.everyMinutes)}
          {pull.lastOkAt && <>, last looked at {when(pull.lastOkAt)}</>}
        </p>
      )}
      {pull?.unfetched && pull.unfetched.count > 0 && (
        <p className="text-note text-warning">
          {count(pull.unfetched.count)} not fetched yet
          {pull.unfetched.firstExpiresAt && <>; the first is thrown away {when(pull.unfetched.firstExpiresAt)}</>}
        </p>
      )}
      {backlog && (
        <div className="mt-1" data-testid="backlog">
          {backlog.done < backlog.total && (
            <progress
              className="progress progress-primary"
              max={backlog.total}
              value={backlog.done}
              aria-label="Fetching what was there already"
            />
          )}
          <p className="text-note text-ink-2">
            {count(backlog.done)} of {count(backlog.total)} that were there already, oldest first
          </p>
        </div>
      )}
    </section>
  );
}
