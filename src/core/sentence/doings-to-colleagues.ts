import {
  type DoingPattern,
  doingsIn,
  idOf,
  letters,
  messageOf,
  NAMES,
  OWNER,
  quoted,
  step,
  THEM,
  UNKNOWN,
  WRITES,
} from './doing-words.ts';
import { QUOTE } from './mask.ts';

/** Who of ours is told: tried before what is done to the lead, as "text Tomas" begins as "text them" does. */
export const TO_COLLEAGUES: DoingPattern[] = [];
const doing = doingsIn(TO_COLLEAGUES);

doing(
  `(?:tell|notify|alert|inform|let|ping|(text|email|e-mail|message|write to)) (?:(${OWNER})|(?:the next of )?${NAMES})(?: know)?( in turn)?(?: by (text|email))?(?: (?:about (?:it|them|the lead|this)|at once|that they .*|that .*))?(?:: ?(${QUOTE}))?`,
  (read, clause, reading, from) => {
    const by = read[5] === 'text' || read[1] === 'text' ? 'text' : 'email';
    const said = quoted(clause, read[6]);
    const message = said ? messageOf(said, reading.fields) : WRITES.told;
    const settings = { by, subject: 'New lead: {{ lead.full_name }}', message };
    if (read[2]) return [step('tell', 'team', { ...settings, colleague: 'owner' })];
    const named = letters(read[3]!);
    const ids = named.map((letter) => reading.find(letter, 'colleague')?.id ?? null);
    // "Text Newsletter" is about nobody of ours.
    const isSomebody = (letter: string) => {
      const token = clause.token(letter);
      return token.is === 'quote' || (token.is === 'name' && token.things.some(({ kind }) => kind === 'colleague'));
    };
    if (!named.some(isSomebody)) return null;
    const all = ids.map((id, i) => id ?? idOf('colleague', named[i], undefined, clause, reading, from));
    return read[4] || /the next of/.test(read[0])
      ? [step('tell', 'team', { ...settings, colleague: 'rota', among: all })]
      : all.map((colleague) => step('tell', 'team', { ...settings, colleague }));
  },
);

doing(
  `(?:tell|notify|alert|inform|ping|text|email|e-mail|message) (?!(?:${THEM})(?:[^\\p{L}]|$))(?:(?:my |our |the )?(?:colleague |boss )?)${UNKNOWN}(?= (?:about|that|if|only|when|after|by)\\b|\\s*$)(?: (?:about|that) .*)?`,
  (read, clause, reading, from) => [
    step('tell', 'team', {
      by: 'email',
      subject: 'New lead: {{ lead.full_name }}',
      message: WRITES.told,
      colleague: idOf('colleague', undefined, read[1], clause, reading, from),
    }),
  ],
);
