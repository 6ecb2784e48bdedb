import { Choice, Line } from '../../components/fields.tsx';
import type { SmppSettings } from '../../core/message/smpp/settings.ts';

interface Props {
  value: SmppSettings;
  onChange: (value: SmppSettings) => void;
}

/** A number that is typed; what is none counts as `least`. */
const whole = (text: string, least: number) => Math.max(least, Math.trunc(Number(text) || 0));

/** How a carrier that is reached by SMPP wants its texts. */
export function SmppFields({ value, onChange }: Props) {
  return (
    <>
      <Choice
        label="Letters go out as"
        block="mb-2 block"
        small
        value={value.letters}
        onChange={(letters) => onChange({ ...value, letters: letters as SmppSettings['letters'] })}
      >
        <option value="gsm">the alphabet of phones, others where a text needs them</option>
        <option value="latin1">Latin-1, others where a text needs them</option>
        <option value="unicode">Unicode always, in twice as many parts</option>
      </Choice>
      <Line
        label="Texts a second at most, 0 for any number"
        block="mb-2 block"
        small
        type="number"
        value={String(value.perSecond)}
        onChange={(text) => onChange({ ...value, perSecond: whole(text, 0) })}
      />
      <Line
        label="Texts that may wait for an answer at once (window)"
        block="mb-2 block"
        small
        type="number"
        value={String(value.window)}
        onChange={(text) => onChange({ ...value, window: whole(text, 1) })}
      />
    </>
  );
}
