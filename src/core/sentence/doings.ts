import { type Clause, words } from './clause.ts';
import type { Doing } from './draft.ts';
import { fold, type KnownKind, type KnownThing } from './known.ts';
import { CLOCK, NAMED, QUOTE, SPAN } from './mask.ts';
import { minutesOf } from './spans.ts';

/** What a doing is about and is not known by that name: somebody has to say. */
export interface Missing {
  kind: KnownKind;
  /** As it was said; "" where nothing was. */
  said: string;
  /** Kinds of source by which what was said can be. */
  kinds?: readonly string[];
  from: number;
  to: number;
}

export interface Reading {
  /** The thing of a kind that a letter stands for; null where it is none, or several and nobody has said which. */
  find(letter: string, kind: KnownKind): KnownThing | null;
  /** The id somebody has given for what was not understood; notes the question and gives "" where nobody has. */
  ask(missing: Missing): string;
  fields: readonly KnownThing[];
}

const THEM = '(?:them|him|her|everybody|everyone|the (?:lead|customer|person))';
const SAYING = `(?:(?: message)?(?: (?:saying|that says|with the words|with|which says))?:? ?(${QUOTE}))?`;
const MAIL = 'e-?mail';
const UNKNOWN = "([\\p{L}\\p{N}][\\p{L}\\p{N}' -]*?)";
/** A name of ours, or words that are none. */
const THING = `(?:(${NAMED})|${UNKNOWN}(?= (?:if|only|when|after|within|in two|later)|\\s*$))`;
const NAMES = `(?:the |our )?((?:${NAMED})(?:(?:\u201A| \u2014\u2014\u2014| or)? ?(?:the )?${NAMED})*)`;
const OWNER = '(?:the|their) owner|whoever (?:owns|looks after) them';

/** What the texts say when nobody says what: polite, true whatever is asked for, and to be read before they go live. */
const WRITES = {
  text: 'Hi {{ lead.first_name | default: "there" }}, thank you for getting in touch. We will be with you shortly. {{ business.name }}',
  subject: 'Thank you for getting in touch',
  email:
    'Hello {{ lead.first_name | default: "there" }},\n\nthank you for getting in touch. If you have a question, just reply to this email.\n\nKind regards\n{{ business.name }}',
  told: '{{ lead.full_name }}, by {{ source.name }}.\n\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\n',
} as const;

/** Quoted words as a message: what stands in braces or brackets by the name of a field is that field. */
export function messageOf(text: string, fields: readonly KnownThing[]): string {
  const byName = new Map(fields.map((field) => [fold(field.name), field.id]));
  return text.replace(/(?<![{[])[{[]([^{}[\]]{1,60})[}\]](?![}\]])/g, (whole, name: string) => {
    const field = byName.get(fold(name.trim()));
    return field ? `{{ ${field} }}` : whole;
  });
}

type Make = (read: RegExpExecArray, clause: Clause, reading: Reading, from: number) => Doing[] | null;
const DOINGS: [RegExp, Make][] = [];
const doing = (pattern: string, make: Make) => DOINGS.push([words(pattern), make]);

const quoted = (clause: Clause, letter: string | undefined): string => (letter ? clause.token(letter).text : '');
const letters = (names: string): string[] => [...names].filter((letter) => letter >= '\uE000' && letter <= '\uEBFF');
const step = (kind: string, place: Doing['place'], settings: Record<string, unknown>): Doing => ({
  kind,
  place,
  settings,
});

/** The id of what was named, asked for where it is not known. */
function idOf(
  kind: KnownKind,
  letter: string | undefined,
  said: string | undefined,
  clause: Clause,
  reading: Reading,
  from: number,
): string {
  const found = letter ? reading.find(letter, kind) : null;
  if (found) return found.id;
  const { from: begin, to } = clause.since(from);
  return reading.ask({ kind, said: letter ? quoted(clause, letter) : (said ?? '').trim(), from: begin, to });
}

/* To colleagues: before what is done to the lead, as "text Tomas" begins as "text them" does. */
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

/* To the lead. */
doing(`draft an? (text|${MAIL}) for one of us to send`, ([, what]) => [
  what === 'text'
    ? step('text', 'lead', { message: WRITES.text, draft: true })
    : step('email', 'lead', { subject: WRITES.subject, message: WRITES.email, draft: true }),
]);
doing(
  `(?:send (?:${THEM} )?|${MAIL} ${THEM} )(?:the )?(?:${MAIL} )?(?:template )?(${NAMED})`,
  (read, _clause, reading) => {
    const template = reading.find(read[1]!, 'template');
    return template
      ? [step('email', 'lead', { subject: WRITES.subject, message: WRITES.email, template: template.id })]
      : null;
  },
);
doing(`thank ${THEM} (?:by|with an?) (text|${MAIL})`, ([, what]) => [
  what === 'text'
    ? step('text', 'lead', { message: WRITES.text })
    : step('email', 'lead', { subject: WRITES.subject, message: WRITES.email }),
]);
doing(`send ${THEM} the form (${NAMED})(?: in chat)?`, (read, clause, reading, from) => [
  step('chat', 'lead', {
    message: 'Please fill in this short form.',
    form: idOf('form', read[1], undefined, clause, reading, from),
  }),
]);
doing(
  `(?:write (?:to )?${THEM} in chat|chat with ${THEM}|message ${THEM}(?: in chat)?|send (?:${THEM} )?a chat(?: message)?)${SAYING}`,
  (read, clause, reading) => [
    step('chat', 'lead', { message: read[1] ? messageOf(quoted(clause, read[1]), reading.fields) : WRITES.text }),
  ],
);
doing(
  `(?:text ${THEM}|send (?:${THEM} )?(?:a|an|another|one more|the)(?: short| friendly| welcome| reminder)? (?:text|sms)|(?:a|another) text goes? out|a text(?= (?:saying|with)|\\s*$))(?: message)?(?: (?:to say thank you|to say thanks|again|back|at once|immediately|a reminder|a welcome))?${SAYING}`,
  (read, clause, reading) => [
    step('text', 'lead', { message: read[1] ? messageOf(quoted(clause, read[1]), reading.fields) : WRITES.text }),
  ],
);
doing(
  `(?:${MAIL} ${THEM}|send (?:${THEM} )?(?:an?|another|one more|the)(?: short| friendly| welcome| personal| thank-you| reminder)? ${MAIL}|write (?:to )?${THEM} (?:an ${MAIL}|by ${MAIL})|write ${THEM}(?! (?:in|into|down|to|on)(?:[^\\p{L}]|$))|an? ${MAIL}(?= (?:saying|with)|\\s*$))(?: (?:to say thank you|to say thanks|again|back|at once|immediately|a reminder|a welcome))?(?: (?:with|using|by|from)(?: the)?(?: template)? (${NAMED}))?(?: with the subject (${QUOTE}))?${SAYING}`,
  (read, clause, reading, from) => {
    // Words in quotes behind "with" are what it says; a name there is its template.
    const template = read[1] ? reading.find(read[1], 'template') : null;
    if (read[1] && !template && clause.token(read[1]).is === 'name')
      return [
        step('email', 'lead', {
          subject: WRITES.subject,
          message: WRITES.email,
          template: idOf('template', read[1], undefined, clause, reading, from),
        }),
      ];
    const said = read[1] && !template ? quoted(clause, read[1]) : quoted(clause, read[3]);
    return [
      step('email', 'lead', {
        subject: read[2] ? messageOf(quoted(clause, read[2]), reading.fields) : WRITES.subject,
        message: said ? messageOf(said, reading.fields) : WRITES.email,
        ...(template ? { template: template.id } : {}),
      }),
    ];
  },
);
doing(`ask ${THEM}(?: by text| (in chat))?(?: something)?:? ?(${QUOTE})?`, (read, clause, reading) => [
  step('ask', 'lead', {
    by: read[1] ? 'chat' : 'text',
    message: read[2] ? messageOf(quoted(clause, read[2]), reading.fields) : '',
    saveAs: 'answers.answer',
  }),
]);

/* On record. */
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

/* For the team. */
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

/* First. */
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

function task(colleague: string, letter: string | undefined, clause: Clause): Doing {
  const token = letter ? clause.token(letter) : null;
  return step('task', 'team', {
    colleague,
    title: 'Call {{ lead.full_name }}',
    within: token?.is === 'span' ? token.span : { amount: 1, unit: 'hours' },
  });
}

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

/** Reads one doing at the front of a clause; null where there is none. */
export function readDoing(clause: Clause, reading: Reading): Doing[] | null {
  for (const [pattern, make] of DOINGS) {
    const mark = clause.mark();
    const read = clause.eat(pattern);
    const made = read && make(read, clause, reading, mark);
    if (made) return made;
    clause.back(mark);
  }
  return null;
}

/** "Tell Tomas and Oona", "put them on Newsletter and Practice tips": a name by itself goes on with the doing before it. */
export function goOn(clause: Clause, last: Doing | null, reading: Reading): Doing[] | null {
  if (!last) return null;
  const mark = clause.mark();
  const read = clause.eat(words(`(?:to |on |onto |with )?(?:the )?(?:tag |list )?(${NAMED})`));
  const find = (kind: KnownKind) => (read ? (reading.find(read[1]!, kind)?.id ?? null) : null);
  const more: Record<string, [KnownKind, string]> = {
    tell: ['colleague', 'colleague'],
    list: ['list', 'list'],
    tag: ['tag', 'tag'],
  };
  const of = more[last.kind];
  const id = of && find(of[0]);
  if (of && id) return [{ ...last, settings: { ...last.settings, [of[1]]: id } }];
  clause.back(mark);
  return null;
}
