import type { Known } from '../condition/evaluate.ts';
import { isCallable, isLink } from '../people/name.ts';
import type { LeadDraft } from '../source/lead-draft.ts';
import {
  isTouchGroup,
  NO_TOUCHES,
  TOUCH_KEYS,
  type Touches,
  type TouchValues,
  touchFields,
} from '../source/touches.ts';
import { isWhereKey, type WhereFrom, whereWords } from '../source/where-from.ts';
import { readReference } from '../template/field-reference.ts';
import type { Surroundings } from '../template/filters/filter.ts';
import { READER, SURROUNDINGS, type TemplateScope } from '../template/template.ts';
import type { Channel } from './channel.ts';

/** `doubted`: they wrote something that may mean no more, and nobody has read it yet. */
export type ConsentState = 'unknown' | 'given' | 'withdrawn' | 'doubted';

export interface RunPerson {
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
}

/** Who looks after the lead. */
export interface Owner {
  id: string;
  name: string;
  email: string;
}

/** What is known of every channel, from what is on record. */
export const allConsents = (known: Partial<Record<Channel, ConsentState>> = {}): Record<Channel, ConsentState> => ({
  text: 'unknown',
  email: 'unknown',
  chat: 'unknown',
  ...known,
});

/** Everything a step may look at while it plans. Values are text; an empty one is "". */
export interface RunContext {
  person: RunPerson;
  answers: Record<string, string>;
  /** The lead's own fields, which the business has given them. */
  own: Record<string, string>;
  /** Fields they have on lists, by "list id.key". */
  member: Record<string, string>;
  /** Lists that came with the arrival, like order lines, by the key of their field. */
  lists: Record<string, Record<string, string>[]>;
  where: WhereFrom;
  /** The person's touches. Looked up where a sheet names one; otherwise empty. */
  touches: Touches;
  business: { name: string; country: string; timeZone: string; holidays: string[]; locale?: string };
  /** The clock the lead lives by, an IANA name; null where only the business's is known. */
  zone: string | null;
  source: { name: string };
  consent: Record<Channel, ConsentState>;
  /** Whether they agreed to news and offers; `consent` is about what they asked for. */
  marketing: Record<Channel, ConsentState>;
  /** When they last wrote in chat, milliseconds; null when never. For 24 hours after it we may answer freely. */
  lastChatAt: number | null;
  /** Ids of the lead's tags. */
  tags: string[];
  /** Ids of the lists they are on. */
  memberOf: string[];
  owner: Owner | null;
  /** Whose turn it is, by step, for steps that go through several colleagues in turn. */
  turns: Record<string, string>;
  /** The item in hand, for a step that goes through a list. */
  item: Record<string, string>;
  /** What earlier steps found, by "name.field". */
  found: Record<string, string>;
  /** What a moment waited for: `it` is "yes" or "no", with the text of a reply and the like. */
  happened: Record<string, string>;
  /** Answers to questions only the database can answer (core/condition/evaluate.ts, factKey). */
  facts: Record<string, boolean>;
}

const FRESH = {
  marketing: { text: 'unknown', email: 'unknown', chat: 'unknown' } as Record<Channel, ConsentState>,
  lastChatAt: null,
  lists: {},
  touches: NO_TOUCHES,
  own: {},
  member: {},
  zone: null,
  tags: [],
  memberOf: [],
  owner: null,
  turns: {},
  item: {},
  found: {},
  happened: {},
  facts: {},
};

/** The context a run starts with: this arrival's own values, and what was known before where it says nothing. */
export function startContext(
  draft: Pick<LeadDraft, 'person' | 'answers'> & Partial<Pick<LeadDraft, 'lists' | 'member'>>,
  known: RunPerson,
  rest: Pick<RunContext, 'where' | 'business' | 'source' | 'consent'> & Partial<RunContext>,
): RunContext {
  const person = {
    first_name: draft.person.first_name || known.first_name,
    last_name: draft.person.last_name || known.last_name,
    email: draft.person.email || known.email,
    phone: draft.person.phone || known.phone,
  };
  const { answers, lists = {}, member = {} } = draft;
  return { ...structuredClone(FRESH), member, ...rest, person, answers, lists };
}

/** Stands for the address by which a reader leaves, until the message is made. */
export const LEAVE_PLACE = 'https://leave.invalid/';

/** The context as a message sees it. */
export function templateScope(context: RunContext): TemplateScope {
  const { person } = context;
  return {
    lead: {
      ...person,
      // Nobody is greeted by "&" or "Mr.": empty, so that the word for that case is used.
      first_name: isCallable(person.first_name) ? person.first_name : '',
      full_name: [person.first_name, person.last_name]
        .filter((one) => !isLink(one))
        .join(' ')
        .trim(),
      last_name: isLink(person.last_name) ? '' : person.last_name,
      // Whoever hands the message over knows the way out, and puts it in.
      leave_link: LEAVE_PLACE,
    },
    answers: context.answers,
    where: Object.fromEntries(whereWords(context.where).map(([key, , value]) => [key, value])),
    first_touch: touchFields(context.touches.first_touch),
    last_touch: touchFields(context.touches.last_touch),
    booking_touch: touchFields(context.touches.booking_touch),
    business: { name: context.business.name },
    source: context.source,
    owner: { name: context.owner?.name ?? '', email: context.owner?.email ?? '' },
    found: context.found,
    happened: context.happened,
    item: context.item,
    own: context.own,
    member: context.member,
    // Of whole leads and not of one run: asked for segments only.
    record: {},
    // Of connection descriptions: a message never reaches what stands in an account.
    given: {},
    account: {},
  };
}

/** Longest name and longest other value put into a message, in UTF-16 code units: no more is anybody called, and one field is not a letter. */
const LONGEST = { name: 60, value: 500 };
const clip = (text: string, most: number): string =>
  text.length <= most ? text : `${text.slice(0, most - 3).trimEnd()}...`;
const clipped = (values: Record<string, string>, most: number): Record<string, string> =>
  Object.fromEntries(Object.entries(values).map(([key, value]) => [key, clip(String(value), most)]));

/** What they typed themselves, or others about them: links in it are theirs and not ours. */
export const typedValues = ({ person, answers, own, happened }: RunContext): string[] =>
  [person, answers, own, happened].flatMap((values) => Object.values(values).map(String));

/** The same, for what is written for machines: into sheets, fields and calls. Numbers and dates are read as the business's country writes them. */
export const machineScope = (context: RunContext, now: number): TemplateScope => ({
  ...templateScope(context),
  [SURROUNDINGS]: surroundingsOf(context, now),
});

/** The same, for what people read: dates as they write them, in the business's language and by the lead's clock. `now` in milliseconds. */
export const readingScope = (context: RunContext, now: number): TemplateScope => ({
  ...machineScope(context, now),
  [READER]: byClock(context, now),
});

/** How the business's country writes numbers and dates, by the lead's clock. */
export const surroundingsOf = (context: RunContext, now: number): Surroundings => ({
  ...byClock(context, now),
  country: context.business.country,
});

const byClock = ({ business, zone }: RunContext, now: number) => ({
  locale: business.locale ?? 'en-GB',
  timeZone: zone ?? business.timeZone,
  now,
});

/**
 * The same, for a message to a lead: no value longer than it has any reason to be. `most` is that in UTF-16 code units. What colleagues are told is
 * never cut.
 */
export const messageScope = (context: RunContext, now: number, most = LONGEST.value): TemplateScope => {
  const scope = readingScope(context, now);
  return {
    ...scope,
    lead: { ...clipped(scope.lead, LONGEST.name), email: scope.lead.email!, leave_link: LEAVE_PLACE },
    answers: clipped(scope.answers, most),
    own: clipped(scope.own, most),
    happened: clipped(scope.happened, most),
  };
};

/** The value of a field by its reference; null when there is none of that name. */
export function fieldValue(context: RunContext, reference: string): string | null {
  const read = readReference(reference);
  if (!read) return null;
  return templateScope(context)[read.group][read.key] ?? null;
}

/** What a condition is asked of. `now` in milliseconds. */
export function knownOf(context: RunContext, now: number): Known {
  const scope = templateScope(context);
  return {
    value: (reference) => {
      const read = readReference(reference);
      return read ? (scope[read.group][read.key] ?? null) : null;
    },
    country: context.business.country,
    timeZone: context.business.timeZone,
    now,
    tags: context.tags,
    memberOf: context.memberOf,
    consent: context.consent,
    facts: context.facts,
  };
}

/** The sample with some of its values changed, by reference: "lead.phone", "answers.instrument". */
export function withValues(context: RunContext, values: Record<string, string>): RunContext {
  const person = { ...context.person };
  const answers = { ...context.answers };
  const own = { ...context.own };
  const member = { ...context.member };
  const found = { ...context.found };
  const where = { ...context.where };
  const touches = structuredClone(context.touches);
  for (const [reference, value] of Object.entries(values)) {
    const read = readReference(reference);
    if (read?.group === 'lead' && Object.hasOwn(person, read.key)) person[read.key as keyof typeof person] = value;
    if (read?.group === 'answers') answers[read.key] = value;
    if (read?.group === 'own') own[read.key] = value;
    if (read?.group === 'member') member[read.key] = value;
    if (read?.group === 'found') found[read.key] = value;
    if (read?.group === 'where' && isWhereKey(read.key)) where[read.key] = value;
    if (read && isTouchGroup(read.group) && Object.hasOwn(TOUCH_KEYS, read.key))
      touches[read.group][read.key as keyof TouchValues] = value;
  }
  return { ...context, person, answers, own, member, found, where, touches };
}
