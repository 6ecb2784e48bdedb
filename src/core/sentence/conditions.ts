import type { Condition, Test, TestName } from '../condition/condition.ts';
import { type Clause, words } from './clause.ts';
import type { KnownThing } from './known.ts';
import { NAME, NAMED, QUOTE } from './mask.ts';

/** Somebody the sheet is about. */
export const THEY = '(?:they|the leads?|he|she|somebody|someone|the person|the customer)';
const HAVE = '(?:have|has|had)(?: already)?';
const NOT = "(?:do not|don't|does not|doesn't|did not|didn't|have not|haven't|has not|hasn't|never)";

/** They have not written back, or nothing of what was waited for has happened. */
const NO_REPLY = words(
  `(?:${THEY} )?(?:${NOT}(?: yet)?|still ${NOT}) (?:replied|reply|answered|answer|written back|write back|responded|respond|reacted|react)(?: yet)?|there (?:is|was|has been) (?:still )?no (?:reply|answer|response)(?: yet)?|(?:there is )?no (?:reply|answer|response)(?: comes| has come)?|nothing happened|nobody answers`,
);
const A_REPLY = words(
  `${THEY} (?:${HAVE} )?(?:replied|reply|replies|answered|answer|answers|written back|write back|writes back|responded|respond|responds)|it happened|there (?:is|was|has been) (?:a |an )?(?:reply|answer)`,
);

const CHANNEL: Record<string, string> = { text: 'text', email: 'email', 'e-mail': 'email', chat: 'chat' };
const LEAD_WORDS: Record<string, string> = {
  'first name': 'lead.first_name',
  'last name': 'lead.last_name',
  surname: 'lead.last_name',
  'full name': 'lead.full_name',
  name: 'lead.full_name',
  email: 'lead.email',
  'email address': 'lead.email',
  phone: 'lead.phone',
  'phone number': 'lead.phone',
  mobile: 'lead.phone',
  'mobile number': 'lead.phone',
  number: 'lead.phone',
};
const LEAD_NAME = Object.keys(LEAD_WORDS)
  .sort((a, b) => b.length - a.length)
  .join('|');

const test = (field: string, how: TestName, value = '', to = ''): Test => ({
  field,
  test: how,
  value,
  to,
  exact: false,
});

/** A value ends where a doing begins. */
const VERB =
  '(?:text|email|e-mail|send|put|add|tell|notify|tag|ask|give|open|call|write|hold|have|take|remove|do|we|then|only)';
const VALUE = `(${QUOTE}|${NAMED}|(?:(?!\\s+${VERB}\\b)[^\\s()])+(?:\\s+(?!${VERB}\\b)[^\\s()]+)*)`;
/** Several values, up to where a doing begins. */
const VALUES = `((?:(?!\\s+${VERB}\\b)[^()])+)`;
const TESTS: readonly [words: string, test: TestName, takes: boolean][] = [
  [
    "is not filled(?: in)?|isn't filled(?: in)?|is empty|is missing|is not given|isn't given|is unknown",
    'empty',
    false,
  ],
  ['is filled(?: in)?|is given|is known|is there', 'filled', false],
  ['is a valid mobile', 'valid_mobile', false],
  ['is a valid email', 'valid_email', false],
  ['is a throw-away email', 'throw_away', false],
  ['is none of', 'none_of', true],
  ['is one of', 'one_of', true],
  ["is not|isn't|does not equal", 'is_not', true],
  ['is greater than|is more than|is over|is above', 'greater', true],
  ['is less than|is fewer than|is under|is below', 'less', true],
  ["does not contain|doesn't contain", 'contains_not', true],
  ['contains|mentions|has', 'contains', true],
  ['starts with|begins with', 'starts', true],
  ['ends with', 'ends', true],
  ['is before', 'before', true],
  ['is after', 'after', true],
  ['is|equals|says|was', 'is', true],
];

/** What is asked in a sentence: about the reply that was waited for, or about the lead. */
export type Asked = { reply: 'yes' | 'no' } | { condition: Condition };

/** Reads a condition at the front of a clause; null where there is none. `known` finds the thing of a kind a letter stands for. */
export function readCondition(
  clause: Clause,
  known: (letter: string, kind: KnownThing['kind']) => KnownThing | null,
): Asked | null {
  if (clause.eat(NO_REPLY)) return { reply: 'no' };
  if (clause.eat(A_REPLY)) return { reply: 'yes' };
  const one = readTest(clause, known);
  if (!one) return null;
  const any: Condition[] = [one];
  for (;;) {
    const mark = clause.mark();
    const more = clause.eat(words('or(?: if)?')) ? readTest(clause, known) : null;
    if (!more) {
      clause.back(mark);
      return { condition: any.length > 1 ? { any } : one };
    }
    any.push(more);
  }
}

function readTest(clause: Clause, known: (letter: string, kind: KnownThing['kind']) => KnownThing | null): Test | null {
  const mark = clause.mark();
  const found =
    readConsent(clause) ?? readMembership(clause, known) ?? readGiven(clause) ?? readField(clause, known) ?? null;
  if (!found) clause.back(mark);
  return found;
}

function readConsent(clause: Clause): Test | null {
  const read = clause.eat(
    words(
      `(?:${THEY} )?(${NOT} (?:agree|agreed|consent)|(?:${HAVE} )?(?:agree|agreed|agrees|consented)) to (?:be (?:texted|emailed)|(?:getting |receiving )?(text|e-?mail|chat)(?: messages?)?s?)`,
    ),
  );
  if (!read) return null;
  const channel = read[2] ? CHANNEL[read[2]] : /texted/.test(read[0]) ? 'text' : 'email';
  return test('', new RegExp(`^${NOT}`).test(read[1]!) ? 'not_agreed' : 'agreed', channel);
}

function readMembership(
  clause: Clause,
  known: (letter: string, kind: KnownThing['kind']) => KnownThing | null,
): Test | null {
  const mark = clause.mark();
  const tagged = clause.eat(
    words(`${THEY} (${NOT} have|${HAVE}(?: got)?|carry|carries|are tagged|is tagged)(?: the)?(?: tag)? (${NAMED})`),
  );
  const tag = tagged && known(tagged[2]!, 'tag');
  if (tag) return test('', new RegExp(NOT).test(tagged[1]!) ? 'has_no_tag' : 'has_tag', tag.id);
  clause.back(mark);
  const on = clause.eat(words(`${THEY} (?:are|is)( not)?(?: already| yet)? on(?: the)?(?: list)? (${NAMED})`));
  const list = on && known(on[2]!, 'list');
  if (list) return test('', on[1] ? 'not_on_list' : 'on_list', list.id);
  clause.back(mark);
  return null;
}

function readGiven(clause: Clause): Test | null {
  const read = clause.eat(
    words(
      `${THEY} (${NOT} (?:give|leave|have)|gave|left|have given|have left|have|has)(?: us)? (a|an|no|their|any) (${LEAD_NAME})`,
    ),
  );
  if (!read) return null;
  const none = read[2] === 'no' || new RegExp(NOT).test(read[1]!);
  return test(LEAD_WORDS[read[3]!]!, none ? 'empty' : 'filled');
}

function readField(
  clause: Clause,
  known: (letter: string, kind: KnownThing['kind']) => KnownThing | null,
): Test | null {
  const mark = clause.mark();
  const named = clause.eat(words(`(?:their |the |its )?(?:answer to |field )?(${NAME}|${QUOTE}|${LEAD_NAME})`));
  const said = named?.[1];
  const field = said ? (LEAD_WORDS[said] ?? known(said, 'field')?.id ?? null) : null;
  if (!field) {
    clause.back(mark);
    return null;
  }
  for (const [pattern, how, takes] of TESTS) {
    const begun = clause.mark();
    if (!takes) {
      if (clause.eat(words(pattern))) return test(field, how);
      continue;
    }
    const read = clause.eat(
      new RegExp(
        `^\\s*(?:${pattern.replaceAll(' ', '\\s+')})\\s+${how.endsWith('one_of') || how === 'none_of' ? VALUES : VALUE}`,
        'u',
      ),
    );
    const value = read?.[1]?.trim();
    if (value) {
      const typed = typedValue(clause, begun, value);
      return test(
        field,
        how,
        how === 'one_of' || how === 'none_of'
          ? typed
              .split(',')
              .map((one) => one.trim())
              .join('\n')
          : typed,
      );
    }
    clause.back(begun);
  }
  clause.back(mark);
  return null;
}

/** A value as it was typed, not as it is compared. */
function typedValue(clause: Clause, since: number, value: string): string {
  if (value.length === 1 && value >= '\uE000' && value <= '\uF3FF') return clause.token(value).text;
  const { to } = clause.since(since);
  return clause.masked.typed.slice(0, to).slice(-lengthOf(clause, value)).trim();
}

/** How long a masked value is in what was typed. */
const lengthOf = (clause: Clause, value: string): number =>
  [...value].reduce(
    (sum, letter) =>
      sum + (letter >= '\uE000' && letter <= '\uF3FF' ? clause.token(letter).text.length : letter.length),
    0,
  );

/** The other way round, for "otherwise"; null where there is no such question. */
export function inverse(condition: Condition): Condition | null {
  if (!('test' in condition)) return null;
  const pairs: [TestName, TestName][] = [
    ...([
      ['is', 'is_not'],
      ['contains', 'contains_not'],
      ['one_of', 'none_of'],
      ['filled', 'empty'],
    ] as const),
    ...([
      ['has_tag', 'has_no_tag'],
      ['on_list', 'not_on_list'],
      ['agreed', 'not_agreed'],
    ] as const),
  ].map(([a, b]) => [a, b]);
  const other = pairs.find((pair) => pair.includes(condition.test))?.find((one) => one !== condition.test);
  return other ? { ...condition, test: other } : null;
}
