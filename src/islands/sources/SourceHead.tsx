import type { SourceView } from '../../app/sources/sources.ts';
import { within } from '../../client/within.ts';
import { KindIcon } from '../../components/icons.tsx';
import RemoveButton from '../../components/RemoveButton.tsx';

/** What a source is called and how it is, and whether it is heard. */
export function SourceHead({
  source,
  wide,
  onPause,
}: {
  source: SourceView;
  /** Its own page of rows says all there is to say of its state. */
  wide: boolean;
  onPause(paused: boolean): void;
}) {
  const live = source.state === 'live';
  return (
    <div className="mb-3 flex flex-wrap items-center gap-2.5">
      <a className="text-ink-2 hover:underline" href={within('/sources')}>
        Sources
      </a>
      <KindIcon name={source.icon} />
      <h1 className="text-xl">{source.name}</h1>
      {!source.once && (
        <span className={`pill ${live ? 'good' : source.state === 'paused' ? 'warn' : ''}`}>
          {live ? 'Live' : source.state === 'paused' ? 'Paused' : 'Waiting to be set up'}
        </span>
      )}
      <span className="text-ink-2">{source.kindLabel}</span>
      <span className="grow" />
      {!source.cardConfirmed && (
        <RemoveButton
          size="sm"
          what="source"
          name={source.name}
          stays="What was caught by it stays with the leads, if there are any."
          path={`/api/sources/${source.id}`}
          to="/sources"
        />
      )}
      {source.cardConfirmed && (
        <a className="btn btn-ghost btn-sm" href={within(`/api/sources/${source.id}/share`)} download>
          Share
        </a>
      )}
      {source.cardConfirmed && !wide && (
        <button type="button" className="btn btn-plain btn-sm" onClick={() => onPause(live)}>
          {live ? 'Pause this source' : 'Put it live again'}
        </button>
      )}
    </div>
  );
}
