import type { PhonesProps } from './desk-api.ts';
import { PhoneList } from './PhoneList.tsx';

/** All phones that have had a text. */
export function CarrierDesk({ desk, chosen, onChoose }: PhonesProps) {
  return (
    <>
      <h2 className="text-lg">Text carrier</h2>
      <p className="mb-3 text-note text-ink-2">Every phone that has had a text. Choose one to see its conversation.</p>
      {Object.keys(desk.phones).length === 0 && (
        <p className="text-ink-2">No text has gone out yet. Fill in a form at the ad platform.</p>
      )}
      <PhoneList phones={desk.phones} chosen={chosen} onChoose={onChoose} />
    </>
  );
}
