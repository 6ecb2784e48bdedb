import type { Span } from '../time/span.ts';
import type { At } from '../workflow/at.ts';
import { type Clause, words } from './clause.ts';
import { THEY } from './conditions.ts';
import { ofEvent } from './draft.ts';
import type { KnownThing } from './known.ts';
import { CLOCK, NAME, NAMED, SPAN } from './mask.ts';

export type Find = (letter: string, kind: KnownThing['kind']) => KnownThing | null;

/** When a morning is, if nobody says. */
const MORNING = '09:00';

const spanOf = (clause: Clause, letter: string): Span => {
  const token = clause.token(letter);
  return token.is === 'span' ? token.span : { amount: 1, unit: 'days' };
};
const clockOf = (clause: Clause, letter: string | undefined): string => {
  const token = letter ? clause.token(letter) : null;
  return token?.is === 'clock' ? token.clock : MORNING;
};

const WHEN = '(?:when(?:ever)?|if|once|as soon as|should)';
const AT = `(?:(?: at|\u201A) (${CLOCK}))?`;

/** A time at the front of a clause: "two days later", "after an hour", "the next working day at 9:30", "a day before Appointment start". */
export function readTime(clause: Clause, find: Find): At | null {
  const dated = readDate(clause, find);
  if (dated) return dated;
  const later = clause.eat(
    words(
      `(?:then )?(?:after|in|wait(?: for)?) (?:another )?(${SPAN})(?: later)?|(?:another )?(${SPAN}) (?:later|after(?:wards| that)|on)`,
    ),
  );
  if (later) return { kind: 'later', span: spanOf(clause, (later[1] ?? later[2])!) };
  const day = clause.eat(
    words(
      `(?:on )?(?:the )?(next|following) (working day|weekday|business day|day|morning)(?:(?: at|\u201A)? (${CLOCK}))?|(tomorrow)(?: morning)?${AT}`,
    ),
  );
  if (day)
    return {
      kind: 'time_of_day',
      time: clockOf(clause, day[3] ?? day[5]),
      day: 'next_day',
      workingDays: /working|weekday|business/.test(day[2] ?? ''),
      whose: 'lead',
    };
  const soon = clause.eat(words(`at (${CLOCK})( on a working day)?`));
  if (soon)
    return {
      kind: 'time_of_day',
      time: clockOf(clause, soon[1]),
      day: 'soonest',
      workingDays: Boolean(soon[2]),
      whose: 'lead',
    };
  return null;
}

function readDate(clause: Clause, find: Find): At | null {
  const mark = clause.mark();
  const read = clause.eat(
    words(
      `(?:(?:on )?(?:the )?(day|morning)|(${SPAN})) (before|after|of) (?:their |the )?(${NAME})${AT}|on (?:their |the )?(${NAME})${AT}`,
    ),
  );
  const field = read && find((read[4] ?? read[6])!, 'field');
  if (!field) {
    clause.back(mark);
    return null;
  }
  const clock = read[5] ?? read[7];
  const on = read[6] !== undefined || read[3] === 'of';
  return {
    kind: 'on_date',
    field: field.id,
    side: on ? 'on' : (read[3] as 'before' | 'after'),
    span: read[2] ? spanOf(clause, read[2]) : { amount: 1, unit: 'days' },
    time: clock ? clockOf(clause, clock) : read[1] === 'morning' ? MORNING : null,
    whose: 'lead',
    ifPassed: 'skip',
  };
}

const EVENTS: readonly [words: string, event: Extract<At, { kind: 'event' }>['event']][] = [
  ['(?:follow|follows|click|clicks)(?: on)? (?:a|the|that|any) link(?: in it)?', 'link'],
  ['(?:open|opens) (?:an|the|that|any) e-?mail', 'opened'],
  ['answer (?:the|that) question|answers (?:the|that) question', 'answer'],
  ['fill in (?:a|the) (?:chat )?form|fills in (?:a|the) (?:chat )?form', 'form'],
  ['come in again|comes in again|ring in again', 'arrival'],
];

/** Something that is waited for: "when they reply within two days", "once they join Newsletter". */
export function readEvent(clause: Clause, find: Find): { at: At; side: 'yes' | null } | null {
  const mark = clause.mark();
  const event = readWhat(clause, find);
  if (!event) {
    clause.back(mark);
    return null;
  }
  const within = clause.eat(words(`(?:within|in) (${SPAN})`));
  if (within) event.within = spanOf(clause, within[1]!);
  return { at: event, side: 'yes' };
}

function readWhat(clause: Clause, find: Find): Extract<At, { kind: 'event' }> | null {
  if (!clause.eat(words(`${WHEN} ${THEY}`)) && !clause.eat(words(`${WHEN} their deal`))) return null;
  const event = (more: Parameters<typeof ofEvent>[0]) => ofEvent(more) as Extract<At, { kind: 'event' }>;
  const replied = clause.eat(
    words(
      `(?:have |has )?(?:replied|reply|replies|answered|answer|answers|write back|writes back|respond|responds)(?: with)?(?: (${NAMED}(?: or ${NAMED})*|(?:yes|no|ok|okay|stop|\\d+)(?: or (?:yes|no|ok|okay|stop|\\d+))*))?`,
    ),
  );
  if (replied) {
    const said = (replied[1] ?? '')
      .split(/\sor\s/)
      .map((one) => one.trim())
      .filter(Boolean);
    const plain = said.map((one) =>
      one.length === 1 && one >= '\uE000' && one <= '\uF3FF' ? clause.token(one).text : one,
    );
    return event({ event: 'reply', words: plain.join('\n') });
  }
  for (const [pattern, what] of EVENTS) if (clause.eat(words(pattern))) return event({ event: what });
  const mark = clause.mark();
  const joined = clause.eat(words(`(?:join|joins)(?: the)?(?: list)? (${NAMED})`));
  const list = joined && find(joined[1]!, 'list');
  if (list) return event({ event: 'list', list: list.id });
  clause.back(mark);
  const tagged = clause.eat(words(`(?:get|gets|have|has)(?: the)?(?: tag)? (${NAMED})`));
  const tag = tagged && find(tagged[1]!, 'tag');
  if (tag) return event({ event: 'tag', tag: tag.id });
  clause.back(mark);
  const moved = clause.eat(words(`(?:comes to|reaches|is moved to|is in|gets to)(?: the)?(?: stage)? (${NAMED})`));
  const stage = moved && find(moved[1]!, 'stage');
  if (stage) return event({ event: 'stage', stage: stage.id });
  clause.back(mark);
  const came = clause.eat(
    words(
      `(?:come|comes|came) in(?: again)? by (${NAMED})|(?:book|books|order|orders)(?: something| an appointment| again)?(?: (?:in|at|by|with) (${NAMED}))`,
    ),
  );
  const source = came && find((came[1] ?? came[2])!, 'source');
  if (source) return event({ event: 'arrival', sources: [source.id] });
  clause.back(mark);
  return null;
}

/** Also what has not happened for so long: "or after two days". */
export const readOrAfter = (clause: Clause): Span | null => {
  const read = clause.eat(words(`or after (${SPAN})`));
  return read ? spanOf(clause, read[1]!) : null;
};

/** "within two days", behind what was waited for. */
export const readWithin = (clause: Clause): Span | null => {
  const read = clause.eat(words(`(?:within|for|after|in) (${SPAN})`));
  return read ? spanOf(clause, read[1]!) : null;
};
