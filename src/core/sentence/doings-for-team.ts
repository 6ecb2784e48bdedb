import type { Clause } from './clause.ts';
import { type DoingPattern, doingsIn, idOf, OWNER, step, THEM } from './doing-words.ts';
import type { Doing } from './draft.ts';
import { CLOCK, NAMED, SPAN } from './mask.ts';
import { minutesOf } from './spans.ts';

/** What colleagues are to do. */
export const FOR_TEAM: DoingPattern[] = [];
const doing = doingsIn(FOR_TEAM);

doing(
  `(?:have|let|get|ask|remind) (?:the )?(${NAMED}|${OWNER}) (?:to )?(?:call|ring|phone)(?: ${THEM})?(?: back| up)?(?: (?:within|in) (${SPAN}))?|(?:the )?(${NAMED}) (?:should|must|has to|is to|shall) (?:call|ring|phone)(?: ${THEM})?(?: back| up)?(?: (?:within|in) (${SPAN}))?|(?:the )?(${NAMED}) (?:calls|rings|phones)(?: ${THEM})?(?: back| up)?(?: (?:within|in) (${SPAN}))?`,
  (read, clause, reading, from) => {
    const who = read[1] ?? read[3] ?? read[5];
    return [
      task(
        who && new RegExp(`^(?:${OWNER})$`).test(who)
          ? 'owner'
          : idOf('colleague', who, undefined, clause, reading, from),
        read[2] ?? read[4] ?? read[6],
        clause,
      ),
    ];
  },
);
doing(
  `set(?: up)? (?:a|the) (?:call )?(?:task|reminder)(?: for (?:(${OWNER})|(?:the )?(${NAMED})|the desk|somebody|someone|us))?(?: to (?:call|ring|phone) ${THEM}(?: back)?)?(?:\u201A? due)?(?: (?:within|in) (${SPAN}))?|(?:call|ring|phone) ${THEM}(?: back)?(?: (?:within|in) (${SPAN}))?`,
  (read, clause, reading, from) => {
    const who = read[1] ? 'owner' : read[2] ? idOf('colleague', read[2], undefined, clause, reading, from) : '';
    return [task(who, read[3] ?? read[4], clause)];
  },
);
doing(
  `(?:hold|keep|block|reserve) (${SPAN}) (?:for|with|in the calendar of|in) (?:the )?(${NAMED})(?:'s calendar)?(?: at (${CLOCK}))?(?:\u201A?(?: on)?(?: the)? (next|soonest|same) (working day|day))?(?: at (${CLOCK}))?`,
  (read, clause, reading, from) => {
    const span = clause.token(read[1]!);
    const clock = read[3] ?? read[6];
    const token = clock ? clause.token(clock) : null;
    const minutes = span.is === 'span' ? minutesOf(span.span) : null;
    if (minutes === null || minutes < 5 || minutes > 480) return null;
    return [
      step('hold-time', 'team', {
        colleague: idOf('colleague', read[2], undefined, clause, reading, from),
        title: 'Call {{ lead.full_name }}',
        minutes,
        time: token?.is === 'clock' ? token.clock : '09:00',
        day: (read[4] ?? 'next') === 'next' ? 'next_day' : 'soonest',
        workingDays: read[4] === undefined || read[5] === 'working day',
      }),
    ];
  },
);

function task(colleague: string, letter: string | undefined, clause: Clause): Doing {
  const token = letter ? clause.token(letter) : null;
  return step('task', 'team', {
    colleague,
    title: 'Call {{ lead.full_name }}',
    within: token?.is === 'span' ? token.span : { amount: 1, unit: 'hours' },
  });
}
