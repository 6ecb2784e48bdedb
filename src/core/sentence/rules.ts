import { rulesAloud } from '../workflow/read-aloud.ts';
import { ENDS, type Ends, Rules, SAME_PERSON, TEXT_HOURS } from '../workflow/rules.ts';
import { type Clause, words } from './clause.ts';
import type { Draft } from './draft.ts';
import { fold } from './known.ts';
import { CLOCK } from './mask.ts';

const ENDED: readonly [words: string, ends: Ends][] = [
  ['(?:they )?(?:reply|answer|write back)', 'reply'],
  ['(?:they )?(?:ask for no more|ask us to stop|say stop|want no more|unsubscribe)', 'stop'],
  ['(?:they )?(?:book|have booked)(?: an appointment)?', 'booked'],
  ['(?:they )?(?:buy|order|have bought|have ordered)(?: something)?', 'bought'],
];

const UNNAMED = { tag: () => '', clock: (time: string) => time };

/** Rules whose sentences say all of it, as they are read aloud. */
const SPOKEN: [sentence: string, set: (rules: Rules) => void][] = [
  ...SAME_PERSON.filter((one) => one !== 'run_again_after').map((samePerson): (typeof SPOKEN)[number] => [
    rulesAloud(Rules.parse({ samePerson }), UNNAMED)[0]!,
    (rules) => Object.assign(rules, { samePerson }),
  ]),
  [
    rulesAloud(Rules.parse({ samePerson: 'nothing', hours: { text: TEXT_HOURS, email: null } }), UNNAMED)[2]!,
    (rules) => Object.assign(rules, { answerAtOnce: true }),
  ],
];

/** Sets what rules say that stand there as they are read aloud, and gives the text with blanks in their place. `said` is told where each stood. */
export function takeSpokenRules(text: string, rules: Rules, said: (from: number, to: number) => void): string {
  let left = text;
  for (const [sentence, set] of SPOKEN) {
    const at = fold(left).indexOf(fold(sentence));
    if (at < 0) continue;
    set(rules);
    said(at, at + sentence.length);
    left = left.slice(0, at) + ' '.repeat(sentence.length) + left.slice(at + sentence.length);
  }
  return left;
}

/** A standing rule at the front of a clause: hours, what ends it, how often somebody goes through. */
export function readRule(clause: Clause, draft: Draft, last: string | null): string | null {
  const { rules } = draft.sheet;
  const hours = clause.eat(
    words(
      `(?:(?:send |only send )?(texts|e-?mails|messages)(?: go out| are sent)? ?)?(?:only )?(?:between|from) (${CLOCK})(?: to| until| \u2014\u2014\u2014|-) ?(${CLOCK})(?:\u201A? by the lead's clock)?`,
    ),
  );
  if (hours) {
    const [from, to] = [hours[2]!, hours[3]!].map((letter) => {
      const token = clause.token(letter);
      return token.is === 'clock' ? token.clock : '08:00';
    }) as [string, string];
    const open = { from, to };
    const said = hours[1] ?? 'messages';
    if (said !== 'texts') rules.hours.email = open;
    if (!/mail/.test(said)) rules.hours.text = open;
    return 'hours';
  }
  const ends = clause.eat(
    words('(?:it |the workflow |this )?(?:ends?|stops?|finish(?:es)?)(?: early| it)?(?: when| if| once| as soon as)'),
  );
  if (ends || last === 'ends') {
    const mark = clause.mark();
    clause.eat(words('or'));
    let found = false;
    for (const [pattern, one] of ENDED)
      if (clause.eat(words(pattern))) {
        rules.endsWhen = ENDS.filter((known) => known === one || rules.endsWhen.includes(known));
        found = true;
        clause.eat(words('or'));
      }
    for (const [pattern, one] of found ? ENDED : [])
      if (clause.eat(words(pattern)))
        rules.endsWhen = ENDS.filter((known) => known === one || rules.endsWhen.includes(known));
    if (found) return 'ends';
    clause.back(mark);
    if (ends) return 'ends';
  }
  if (
    clause.eat(
      words('(?:but )?(?:only )?once (?:for each person|per person|a person|for everybody|only)|everybody only once'),
    )
  ) {
    rules.samePerson = 'nothing';
    return 'same';
  }
  if (clause.eat(words('every time(?: they come in)?|again every time|each time anew'))) {
    rules.samePerson = 'run_again';
    return 'same';
  }
  return null;
}
