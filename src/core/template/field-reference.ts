import { labelFromKey } from '../fields/field.ts';
import { LEAD_FIELD_LABELS } from '../source/lead-card.ts';
import { isTouchGroup, TOUCH_KEYS, TOUCH_WORDS, type TouchGroup } from '../source/touches.ts';
import { WHERE_KEYS } from '../source/where-from.ts';

/**
 * A field as a message names it: a group and a key. In Liquid it is written `lead.first_name`, or with brackets where the
 * key is not a plain word: `answers["contact.city"]`.
 */
export interface FieldReference {
  group:
    | 'lead'
    | 'answers'
    | 'where'
    | TouchGroup
    | 'business'
    | 'source'
    | 'owner'
    | 'found'
    | 'happened'
    | 'item'
    | 'record'
    | 'member'
    | 'own'
    /** In connection descriptions only: what a call is given, and what the business filled in. */
    | 'given'
    | 'account';
  key: string;
}

export const GROUP_LABELS: Record<FieldReference['group'], string> = {
  lead: 'Lead',
  answers: 'Answers of the source',
  where: 'Where from',
  ...TOUCH_WORDS,
  business: 'Business',
  source: 'Source',
  owner: 'Owner',
  found: 'Found by steps',
  happened: 'What happened',
  item: 'Of each in the list',
  record: 'On record',
  member: 'On a list',
  own: 'Own fields of the lead',
  given: 'Given to the call',
  account: 'Of the account',
};

/** What a moment that waited knows afterwards. */
export const HAPPENED_LABELS: Record<string, string> = {
  it: 'It happened',
  text: 'Their reply',
  answer: 'Their answer',
  url: 'The link they clicked',
};

/** What is on record about a lead as a whole: asked for segments, where there is no run. */
export const RECORD_LABELS = {
  since: 'Day they became a lead',
  last_heard: 'Last arrival',
  last_reply: 'Last reply',
  last_written: 'Last written to',
  last_opened: 'Last opened an email',
  last_followed: 'Last clicked a link',
  stage: 'Deal stage',
  deal_value: 'Deal value',
} as const;
export type RecordKey = keyof typeof RECORD_LABELS;

const PLAIN = /^[A-Za-z_]\w*$/;

export function writeReference({ group, key }: FieldReference): string {
  return PLAIN.test(key) ? `${group}.${key}` : `${group}["${key.replaceAll('"', '')}"]`;
}

export function readReference(text: string): FieldReference | null {
  const m =
    /^(lead|answers|where|first_touch|last_touch|booking_touch|business|source|owner|found|happened|item|record|member|own|given|account)(?:\.([A-Za-z_]\w*)|\["([^"]+)"\]|\['([^']+)'\])$/.exec(
      text.trim(),
    );
  const key = m?.[2] ?? m?.[3] ?? m?.[4];
  return m && key !== undefined ? { group: m[1] as FieldReference['group'], key } : null;
}

/** The name on a chip: "First name", "Campaign", "Instrument". */
export function referenceLabel({ group, key }: FieldReference, labels?: ReadonlyMap<string, string>): string {
  if (group === 'lead') return (LEAD_FIELD_LABELS as Record<string, string>)[key] ?? labelFromKey(key);
  if (group === 'where') return (WHERE_KEYS as Record<string, string>)[key] ?? labelFromKey(key);
  if (isTouchGroup(group)) return `${TOUCH_WORDS[group]}: ${(TOUCH_KEYS[key] ?? labelFromKey(key)).toLowerCase()}`;
  if (group === 'business') return key === 'name' ? 'Business name' : labelFromKey(key);
  if (group === 'source') return key === 'name' ? 'Source name' : labelFromKey(key);
  if (group === 'owner') return key === 'name' ? 'Owner' : `Owner ${labelFromKey(key).toLowerCase()}`;
  if (group === 'record') return (RECORD_LABELS as Record<string, string>)[key] ?? labelFromKey(key);
  if (group === 'happened') return HAPPENED_LABELS[key] ?? labelFromKey(key);
  return labels?.get(key) ?? labelFromKey(key);
}
