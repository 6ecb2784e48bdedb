import { type Condition, partsOf } from '../../src/core/condition/condition.ts';
import type { KnownThing } from '../../src/core/sentence/known.ts';
import { spanWords } from '../../src/core/time/span.ts';
import type { At } from '../../src/core/workflow/at.ts';
import { type Definition, LANES, lanesOf, type Moment, type Step } from '../../src/core/workflow/definition.ts';

const id = (n: number) => `00000000-0000-7000-8000-${String(n).padStart(12, '0')}`;
const all: Omit<KnownThing, 'id'>[] = [
  { kind: 'source', name: 'Summer camp form', sourceKind: 'ad-form' },
  { kind: 'source', name: 'Trial lesson form', sourceKind: 'ad-form' },
  { kind: 'source', name: 'Open day sign-in', sourceKind: 'form-page' },
  { kind: 'source', name: 'Website enquiries', sourceKind: 'mailbox' },
  { kind: 'source', name: 'Bookings', sourceKind: 'booking-calendar' },
  { kind: 'source', name: 'Instrument shop', sourceKind: 'shop' },
  { kind: 'source', name: 'Front desk sheet', sourceKind: 'sheet' },
  { kind: 'source', name: 'The Wrenfield Hour', sourceKind: 'content-feed' },
  { kind: 'source', name: 'Planner, opt-in page', sourceKind: 'funnel' },
  { kind: 'source', name: 'Missed calls', sourceKind: 'webhook' },
  { kind: 'source', name: 'First contact in chat', sourceKind: 'chat-message' },
  { kind: 'list', name: 'Newsletter' },
  { kind: 'list', name: 'Practice tips' },
  { kind: 'tag', name: 'Hot' },
  { kind: 'tag', name: 'Called back' },
  { kind: 'colleague', name: 'Tomas Arden' },
  { kind: 'colleague', name: 'Oona Prentice' },
  { kind: 'colleague', name: 'Piano desk' },
  {
    kind: 'tab',
    name: 'All leads',
    columns: [
      { id: 'c1', name: 'Name' },
      { id: 'c2', name: 'Mobile' },
      { id: 'c3', name: 'Instrument' },
    ],
  },
  { kind: 'tab', name: 'Trial bookings', columns: [] },
  { kind: 'stage', name: 'New enquiry' },
  { kind: 'stage', name: 'Trial booked' },
  { kind: 'stage', name: 'Won' },
  { kind: 'template', name: 'Welcome letter' },
  { kind: 'form', name: 'Which instrument' },
];
const fields: KnownThing[] = [
  { kind: 'field', id: 'answers.instrument', name: 'Instrument' },
  { kind: 'field', id: 'answers.budget', name: 'Budget' },
  { kind: 'field', id: 'answers.city', name: 'City' },
  { kind: 'field', id: 'answers["appointment.start"]', name: 'Appointment start' },
  { kind: 'field', id: 'lead.first_name', name: 'First name' },
];
/** A made-up business, as the sentences of the corpus know it. */
export const KNOWN: KnownThing[] = [...all.map((one, i) => ({ ...one, id: id(i + 1) })), ...fields];

const nameOf = (found: unknown): string =>
  found === 'owner' ? 'owner' : (KNOWN.find((one) => one.id === found)?.name ?? (found === '' ? '?' : String(found)));

/** A run sheet in short, for comparing: "by Summer camp form | text; list+ Newsletter | reply 2 days: no{email}". */
export function inShort({ sources, moments, rules }: Definition): string {
  const parts = [`by ${sources.map(nameOf).join(' & ') || '?'}`, ...moments.map(momentInShort)];
  const { endsWhen, hours, samePerson } = rules;
  const more = [
    ...(endsWhen.length > 0 ? [`ends ${endsWhen.join(' ')}`] : []),
    ...(hours.text && hours.text.from !== '08:00' ? [`texts ${hours.text.from}-${hours.text.to}`] : []),
    ...(hours.email ? [`emails ${hours.email.from}-${hours.email.to}`] : []),
    ...(samePerson === 'by_source' ? [] : [samePerson]),
  ];
  return [...parts, ...more].join(' | ');
}

function momentInShort(moment: Moment, i: number): string {
  const steps = (list: readonly Step[]) => list.map(stepInShort);
  const lanes = (caseId: string | null) => LANES.flatMap((lane) => steps(lanesOf(moment, caseId)[lane])).join('; ');
  const cases = moment.cases.map((one) => `${'test' in one.when ? one.when.value : '?'}{${lanes(one.id)}}`);
  const rest = lanes(null);
  const said = [steps(moment.first).join('; '), ...cases, rest].filter(Boolean).join('; ');
  return i === 0 ? said || 'nothing' : `${atInShort(moment.at)}: ${said}`;
}

function atInShort(at: At): string {
  if (at.kind === 'later') return `+${spanWords(at.span)}`;
  if (at.kind === 'time_of_day')
    return `${at.day === 'next_day' ? 'next' : 'at'}${at.workingDays ? ' working' : ''} ${at.time}`;
  if (at.kind === 'on_date')
    return `${at.side === 'on' ? 'on' : `${spanWords(at.span)} ${at.side}`} ${nameOf(at.field)}${at.time ? ` ${at.time}` : ''}`;
  if (at.kind === 'event') {
    const what = [
      at.event,
      at.words.replaceAll('\n', '/'),
      ...at.sources.map(nameOf),
      ...[at.tag, at.list, at.stage].filter(Boolean).map(nameOf),
    ];
    return `${what.filter(Boolean).join(' ')} ${spanWords(at.within)}`;
  }
  return 'arrival';
}

const ifInShort = (condition: Condition): string => {
  if (!('test' in condition))
    return partsOf(condition)
      .map(ifInShort)
      .join('all' in condition ? ' & ' : ' or ');
  const { field, test, value } = condition;
  return [
    field === '' ? '' : nameOf(field),
    test,
    KNOWN.some((one) => one.id === value) ? nameOf(value) : value.replaceAll('\n', ', '),
  ]
    .filter(Boolean)
    .join(' ');
};

function stepInShort({ kind, settings, onlyIf, ifFails }: Step): string {
  // biome-ignore lint/suspicious/noExplicitAny: settings of any kind of step, each read by its own line.
  const s = settings as Record<string, any>;
  const words: Record<string, () => string> = {
    list: () => `list${s.action === 'add' ? '+' : '-'} ${nameOf(s.list)}`,
    tag: () => `tag${s.action === 'add' ? '+' : '-'} ${nameOf(s.tag)}`,
    tell: () =>
      `tell ${s.colleague === 'rota' ? (s.among as string[]).map(nameOf).join(' in turn ') : nameOf(s.colleague)}${s.by === 'text' ? ' by text' : ''}`,
    task: () => `task ${s.colleague === '' ? 'desk' : nameOf(s.colleague)} ${spanWords(s.within)}`,
    assign: () => `assign ${(s.among as string[]).map(nameOf).join(', ')}`,
    'hold-time': () =>
      `hold ${s.minutes} ${nameOf(s.colleague)} ${s.day === 'next_day' ? 'next' : 'soonest'}${s.workingDays ? ' working' : ''} ${s.time}`,
    'sheet-row': () => `row ${nameOf(s.tab)}`,
    deal: () => `deal ${nameOf(s.stage)}`,
    text: () => (s.draft ? 'text draft' : 'text'),
    email: () => `email${s.template ? ` ${nameOf(s.template)}` : ''}${s.draft ? ' draft' : ''}`,
    chat: () => `chat${s.form ? ` ${nameOf(s.form)}` : ''}`,
    tidy: () =>
      `tidy${['names', 'email', 'phone']
        .filter((one) => !s[one])
        .map((one) => ` -${one}`)
        .join('')}`,
  };
  const guard = onlyIf ? ` if ${ifInShort(onlyIf)}` : '';
  return `${words[kind]?.() ?? kind}${guard}${ifFails.after === 'other_channel' ? ' or other' : ''}`;
}
