import type { Clause } from './clause.ts';
import {
  type DoingPattern,
  doingsIn,
  idOf,
  messageOf,
  quoted,
  type Reading,
  step,
  THEM,
  THING,
} from './doing-words.ts';
import type { Doing } from './draft.ts';
import { fold } from './known.ts';
import { NAMED, QUOTE } from './mask.ts';

/** What is kept of them. */
export const ON_RECORD: DoingPattern[] = [];
const doing = doingsIn(ON_RECORD);

doing(
  `(?:put|add|enrol|enroll|subscribe|sign)(?: ${THEM})?(?: up)? (?:on|onto|to|in|into|for) (?:(?:the|our|a) )?(?:(list|mailing list|sheet|table) )?${THING}(?: list)?`,
  (read, clause, reading, from) => {
    const tab = read[2] ? reading.find(read[2], 'tab') : null;
    const list = read[2] ? reading.find(read[2], 'list') : null;
    if ((tab && !list) || /sheet|table/.test(read[1] ?? '')) return row(read[2], read[3], clause, reading, from);
    return [
      step('list', 'record', {
        action: 'add',
        list: idOf('list', read[2], read[3], clause, reading, from),
      }),
    ];
  },
);
doing(
  `(?:take|remove|unsubscribe|drop) ${THEM} (?:off|from|of) (?:(?:the|our) )?(?:list )?${THING}(?: list)?`,
  (read, clause, reading, from) => [
    step('list', 'record', { action: 'remove', list: idOf('list', read[1], read[2], clause, reading, from) }),
  ],
);
doing(
  `(?:tag|label|mark) ${THEM}(?: (?:as|with))?(?: the tag)? ${THING}|give ${THEM}(?: (?:the|a))? (?:tag|label) ${THING}`,
  (read, clause, reading, from) => [
    step('tag', 'record', {
      action: 'add',
      tag: idOf('tag', read[1] ?? read[3], read[2] ?? read[4], clause, reading, from),
    }),
  ],
);
doing(
  `take (?:off )?the tag (${NAMED})(?: off)?(?: ${THEM})?|remove the tag (${NAMED})(?: from ${THEM})?|untag ${THEM} (${NAMED})`,
  (read, clause, reading, from) => [
    step('tag', 'record', {
      action: 'remove',
      tag: idOf('tag', read[1] ?? read[2] ?? read[3], undefined, clause, reading, from),
    }),
  ],
);
doing(
  `(?:add|write|put|append|enter|save|record|make)(?: (?:a|one))?(?: new)? (?:row|line|entry)(?: for ${THEM})? (?:to|in|into|on) (?:(?:the|our) )?(?:(?:sheet|table) )?${THING}(?: sheet| table)?|(?:write|record|save|log|note|enter|keep) (?:${THEM}|it|this) (?:down )?(?:in|into|to|on) (?:(?:the|our) )?(?:(?:sheet|table) )?${THING}(?: sheet| table)?`,
  (read, clause, reading, from) => row(read[1] ?? read[3], read[2] ?? read[4], clause, reading, from),
);
doing(
  `(?:open|make|create|start)(?: ${THEM})? a deal(?: for ${THEM})?(?: (?:in|at|under|on|as)(?: the)?(?: stage| pipeline)? (${NAMED}))?|(?:move|put|bring) (?:their|the) deal (?:to|in|into|on)(?: the)?(?: stage)? (${NAMED})`,
  (read, clause, reading, from) => [
    step('deal', 'record', {
      stage: idOf('stage', read[1] ?? read[2], undefined, clause, reading, from),
      title: '{{ lead.full_name }}',
    }),
  ],
);
doing(
  `(?:add|write|leave|make|keep) a note(?: (?:on their page|about it|for the team))?(?: (?:saying|that says))?:? ?(${QUOTE})?`,
  (read, clause, reading) => [
    step('note', 'record', {
      text: read[1] ? messageOf(quoted(clause, read[1]), reading.fields) : 'Came in by {{ source.name }}.',
    }),
  ],
);

/** What columns of a sheet are filled with: those called like something we know. */
const CELLS: Record<string, string> = {
  ...{
    name: 'lead.full_name',
    'full name': 'lead.full_name',
    'first name': 'lead.first_name',
    'last name': 'lead.last_name',
  },
  ...{
    surname: 'lead.last_name',
    email: 'lead.email',
    'email address': 'lead.email',
    'e-mail': 'lead.email',
    phone: 'lead.phone',
  },
  ...{
    'phone number': 'lead.phone',
    mobile: 'lead.phone',
    number: 'lead.phone',
    source: 'source.name',
    campaign: 'where.campaign',
  },
};

function row(
  letter: string | undefined,
  said: string | undefined,
  clause: Clause,
  reading: Reading,
  from: number,
): Doing[] {
  const known = letter ? reading.find(letter, 'tab') : null;
  const tab = known?.id ?? idOf('tab', letter, said, clause, reading, from);
  const fields = new Map(reading.fields.map((field) => [fold(field.name), field.id]));
  const cells = (known?.columns ?? []).flatMap((column): [string, string][] => {
    const field = CELLS[fold(column.name)] ?? fields.get(fold(column.name));
    return field ? [[column.id, `{{ ${field} }}`]] : [];
  });
  return [step('sheet-row', 'record', { tab, cells: Object.fromEntries(cells), key: '', whenThere: 'add', each: '' })];
}
