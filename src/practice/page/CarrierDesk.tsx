import { clock, type DeskState } from './desk-api.ts';

/** All phones that have had a text. */
export function CarrierDesk({
  desk,
  chosen,
  onChoose,
}: {
  desk: DeskState;
  chosen: string | null;
  onChoose: (number: string) => void;
}) {
  const phones = Object.values(desk.phones).sort((a, b) =>
    (b.messages.at(-1)?.at ?? '').localeCompare(a.messages.at(-1)?.at ?? ''),
  );
  return (
    <>
      <h2 className="text-lg">Text carrier</h2>
      <p className="mb-3 text-[13px] text-ink-2">
        Every phone that has had a text. Choose one to see its conversation.
      </p>
      {phones.length === 0 && (
        <p className="text-ink-2">No text has gone out yet. Fill in a form at the ad platform.</p>
      )}
      <ul className="max-h-[70vh] overflow-y-auto">
        {phones.map((phone) => (
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
    </>
  );
}
