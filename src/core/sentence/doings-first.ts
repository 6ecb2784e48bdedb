import { type DoingPattern, doingsIn, idOf, letters, MAIL, NAMES, step, THEM } from './doing-words.ts';

/** What comes before the lanes; and saying that nothing is done. */
export const FIRST: DoingPattern[] = [];
const doing = doingsIn(FIRST);

doing(
  `(?:give|assign|hand|pass) ${THEM}(?: over)? to ${NAMES}( in turn)?|share ${THEM}(?: out)? (?:among|between) ${NAMES}(?: in turn)?`,
  (read, clause, reading, from) => {
    const among = letters((read[1] ?? read[3])!).map((letter) =>
      idOf('colleague', letter, undefined, clause, reading, from),
    );
    return [step('assign', 'first', { by: 'turn', among })];
  },
);
doing(
  `(?:tidy|clean)(?: up)?(?: (?:what they typed|everything|(?:their |the )?(?:(?:names?|first name|last name|e-?mail(?: address)?|phone(?: number)?|number)(?:[,\u201A]? )?(?:and |\u2014\u2014\u2014 )?(?:their |the )?)+))?`,
  (read) => {
    const said = read[0];
    const all = !/name|mail|phone|number/.test(said);
    return [
      step('tidy', 'first', {
        names: all || /name/.test(said),
        email: all || /mail/.test(said),
        phone: all || /phone|number/.test(said),
      }),
    ];
  },
);
doing(`look up (?:their|the) company(?: by their ${MAIL} address)?`, () => [step('company', 'first', {})]);
doing('(?:do|send) nothing(?: else| more)?|nothing (?:else )?happens', () => []);
