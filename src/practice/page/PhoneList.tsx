import type { Phone } from '../world-state.ts';
import { clock } from './desk-api.ts';

/** Phones with what was last written, newest first; one is chosen. */
export function PhoneList({
  phones,
  chosen,
  onChoose,
}: {
  phones: Record<string, Phone>;
  chosen: string | null;
  onChoose: (number: string) => void;
}) {
  const newest = Object.values(phones).sort((a, b) =>
    (b.messages.at(-1)?.at ?? '').localeCompare(a.messages.at(-1)?.at ?? ''),
  );
  return (
    <ul className="max-h-[60vh] overflow-y-auto">
      {newest.map((phone) => (
        <li key={phone.number}>
          <button
            type="button"
            onClick={() => onChoose(phone.number)}
            aria-pressed={phone.number === chosen}
            className={`grid w-full grid-cols-[140px_1fr_auto] gap-3 rounded-lg px-3 py-2 text-left ${phone.number === chosen ? 'bg-pine-soft' : 'hover:bg-base-200'}`}
          >
            <span className="font-semibold">{phone.number}</span>
            <span className="truncate text-ink-2">{phone.messages.at(-1)?.text}</span>
            <time className="text-xs text-ink-2">{phone.messages.at(-1) && clock(phone.messages.at(-1)!.at)}</time>
          </button>
        </li>
      ))}
    </ul>
  );
}
