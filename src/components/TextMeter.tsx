import { measureText } from '../core/message/text-segments.ts';
import { Hint } from './Hint.tsx';

/** How long a text is, in parts, and what made it longer. `exact` is the sample's text; without one the length is a guess. */
export function TextMeter({ text, exact }: { text: string; exact: boolean }) {
  const length = measureText(text);
  const share = length.room === 0 ? 0 : Math.min(1, length.units / length.room);
  const words =
    length.parts === 0
      ? 'Nothing written yet'
      : `${length.parts === 1 ? '1 text' : `${length.parts} texts`}, ${length.units} of ${length.room} characters`;
  return (
    <div className="-mt-1.5 mb-3" data-testid="text-meter">
      <div className="flex items-center gap-2 text-xs text-ink-2">
        <progress
          className={`progress h-1.5 grow ${length.parts > 1 ? 'progress-warning' : 'progress-success'}`}
          value={share}
          max={1}
          aria-label="Room used"
        />
        <span className="shrink-0">
          {exact ? '' : 'about '}
          {words}
        </span>
        <Hint term="textPart" />
      </div>
      {length.forcedBy && length.units > 0 && (
        <p className="mt-1 text-xs text-warning">
          “{length.forcedBy.character}” is not in the plain alphabet of texts
          {length.forcedBy.count > 1 ? ` (and ${length.forcedBy.count - 1} more like it)` : ''}, so one text holds 70
          characters instead of 160.
        </p>
      )}
      {length.parts > 1 && <p className="mt-1 text-xs text-warning">The carrier charges for {length.parts} texts.</p>}
    </div>
  );
}
