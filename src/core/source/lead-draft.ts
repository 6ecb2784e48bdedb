import type { Field } from '../fields/field.ts';
import { type Identity, identitiesOf } from '../people/identity.ts';
import { splitName } from '../people/name.ts';
import { type LeadCard, type LeadField, saysYes } from './lead-card.ts';

/** What one arrival says about a person, before any tidying. */
export interface LeadDraft {
  person: { first_name: string; last_name: string; email: string; phone: string };
  identities: Identity[];
  consent: { state: 'given' | 'unticked'; wording: string } | null;
  /** Every field that is not on the card, by key. */
  answers: Record<string, string>;
  /** Fields they have on a list, by "list id.key". */
  member: Record<string, string>;
  /** Fields that are lists, row by row. */
  lists: Record<string, Record<string, string>[]>;
}

/** Reads the fields of an arrival by the source's lead card. `country` is the business's, for phone numbers. */
export function draftLead(fields: readonly Field[], card: LeadCard, country: string): LeadDraft {
  const byKey = new Map(fields.map((field) => [field.key, field.value]));
  const typedAs = (as: LeadField) => {
    const key = card.fields[as];
    return key === undefined ? '' : (byKey.get(key) ?? '').trim();
  };
  const whole = typedAs('full_name');
  const split = whole ? splitName(whole) : { first: '', last: '' };
  const person = {
    first_name: typedAs('first_name') || split.first,
    last_name: typedAs('last_name') || split.last,
    email: typedAs('email'),
    phone: typedAs('phone'),
  };
  const consentKeys = card.consent.kind === 'field' ? [card.consent.key, card.consent.wordingKey ?? ''] : [];
  const onCard = new Set<string>([...Object.values(card.fields), ...consentKeys]);
  const answers = Object.fromEntries(
    fields.filter((field) => !field.of && !onCard.has(field.key)).map((f) => [f.key, f.value]),
  );
  const member = Object.fromEntries(fields.filter((field) => field.of === 'list').map((f) => [f.key, f.value]));
  const lists = Object.fromEntries(fields.flatMap((field) => (field.rows ? [[field.key, field.rows]] : [])));
  return { person, identities: identitiesOf(person, country), consent: consentOf(card, byKey), answers, member, lists };
}

function consentOf(card: LeadCard, byKey: Map<string, string>): LeadDraft['consent'] {
  const { consent } = card;
  if (consent.kind === 'not_asked') return null;
  if (consent.kind === 'asked_elsewhere') return { state: 'given', wording: consent.wording };
  const wording = consent.wordingKey === null ? '' : (byKey.get(consent.wordingKey) ?? '');
  return { state: saysYes(byKey.get(consent.key) ?? '') ? 'given' : 'unticked', wording };
}
