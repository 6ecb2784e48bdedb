import { z } from 'zod';
import type { SaidBy } from '../consent/precedence.ts';
import type { Field } from '../fields/field.ts';
import { readEmail } from '../message/email-address.ts';
import { readPhone } from '../people/phone.ts';
import { namesOf } from '../words/names-of.ts';
import { CHANNELS, type Channel } from '../workflow/channel.ts';
import { PURPOSES, type Purpose } from '../workflow/purpose.ts';

/** The lead's own fields a source can fill. */
export type LeadField = keyof typeof LEAD_FIELD_LABELS;
export const LEAD_FIELD_LABELS = {
  first_name: 'First name',
  last_name: 'Last name',
  full_name: 'Full name',
  email: 'Email',
  phone: 'Phone',
};

/** What a consent is about and by which channels, where the card says it; else for all messages by text and email. */
const Scope = {
  about: z.enum(['all', ...PURPOSES]).optional(),
  channels: z.array(z.enum(CHANNELS)).min(1, 'Say which messages they agree to').optional(),
};

export const LEAD_FIELDS = namesOf(LEAD_FIELD_LABELS);

/** The lead card: which incoming field (by key) is which lead field, and how consent is asked at this source. */
export const LeadCard = z.object({
  fields: z.partialRecord(z.enum(LEAD_FIELDS), z.string()),
  consent: z.discriminatedUnion('kind', [
    /** A tick or answer in the entry. `wordingKey` names the field that holds the wording shown beside it. */
    z.object({ kind: z.literal('field'), key: z.string(), wordingKey: z.string().nullable(), ...Scope }),
    /**
     * Asked outside, for instance on paper: `note` says where, `wording` with which words. Said of every lead of the source, and outweighed
     * by whatever one of them says themselves (core/consent/precedence.ts).
     */
    z.object({
      kind: z.literal('asked_elsewhere'),
      note: z.string().max(500),
      wording: z.string().max(2000).default(''),
      ...Scope,
    }),
    z.object({ kind: z.literal('not_asked') }),
  ]),
});
export type LeadCard = z.infer<typeof LeadCard>;

/** Whose word a consent at this source is: `byColleagues` where its rows are typed or read in by somebody else than the lead. */
export function consentSaidBy({ consent }: Pick<LeadCard, 'consent'>, byColleagues: boolean): SaidBy {
  if (consent.kind === 'asked_elsewhere') return 'standing';
  return byColleagues ? 'reported' : 'themselves';
}

/** What is missing before a card may be used; null when nothing is. */
export function cardProblem({ consent }: Pick<LeadCard, 'consent'>): string | null {
  if (consent.kind !== 'asked_elsewhere') return null;
  if (consent.note.trim() === '')
    return 'Say where they are asked, for instance “on the paper form at the front desk”.';
  return consent.wording.trim() === ''
    ? 'Write down the words they agree to, as they stand there: they are the proof.'
    : null;
}

/** What a yes at this source allows. `purpose` is null for all messages. */
export function consentScope({ consent }: Pick<LeadCard, 'consent'>): { purpose: Purpose | null; channels: Channel[] } {
  if (consent.kind === 'not_asked') return { purpose: null, channels: [] };
  const about = consent.about ?? 'all';
  return { purpose: about === 'all' ? null : about, channels: consent.channels ?? ['text', 'email'] };
}

export const EMPTY_CARD: LeadCard = { fields: {}, consent: { kind: 'not_asked' } };

const NAMES: Record<LeadField, RegExp> = {
  first_name: /^(first ?name|given ?name|fore ?name|f ?name|vorname|pr[eé]nom|nome)$/,
  last_name: /^(last ?name|family ?name|sur ?name|l ?name|nachname|nom|cognome|apellidos?)$/,
  full_name: /^((full|your|customer|contact|lead|client|student) ?name|name( of .*)?)$/,
  email: /^((your |contact |customer |work )?e ?mail( ?address)?|correo)$/,
  phone:
    /^((your |contact |mobile |cell |work )?(tele)?phone( ?(number|no))?|mobile( ?(number|no))?|cell|contact ?(number|no)|whats ?app|tel|cellulare|telefono|handy)$/,
};

const plain = (text: string) =>
  text
    .replace(/([\p{Ll}\p{N}])(\p{Lu})/gu, '$1 $2')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();
/** Whether a name says that this of a person stands there: "Contact number" is the phone. */
export const looksLikeLeadField = (as: LeadField, name: string): boolean => NAMES[as].test(plain(name));

/** Several values in one ("work, nadia@example.org, true") are no address and no number, whatever they are called. */
const isOne = (as: LeadField, value: string): boolean => {
  if (value === '' || (as !== 'email' && as !== 'phone')) return true;
  return as === 'email' ? !/[\s,;]/.test(value.trim()) : !/[,;]/.test(value) && !/\p{L}{4}/u.test(value);
};
const lastPart = (key: string) => key.split('.').at(-1) ?? key;
const YES = /^(true|yes|y|on|1|ja|oui|s[ií]|agreed|accepted|checked|ticked)$/i;

/** Whether the answer to a consent question means yes. */
export const saysYes = (value: string): boolean => YES.test(value.trim());

/**
 * Guesses a card from names first and values second: a field called "Contact number" is the phone, and one that holds an
 * email address is the email whatever it is called. The coordinator corrects what is wrong.
 */
export function guessCard(fields: readonly Field[], country: string): LeadCard {
  const card: LeadCard = { fields: {}, consent: { kind: 'not_asked' } };
  const taken = new Set<string>();
  const take = (as: LeadField, field: Field | undefined) => {
    if (!field || card.fields[as]) return;
    card.fields[as] = field.key;
    taken.add(field.key);
  };
  for (const as of LEAD_FIELDS) {
    const named = fields.filter(
      (f) =>
        !taken.has(f.key) && [f.label, lastPart(f.key)].some((n) => looksLikeLeadField(as, n)) && isOne(as, f.value),
    );
    take(as, named.find((f) => f.value !== '') ?? named[0]);
  }
  take(
    'email',
    fields.find((f) => !taken.has(f.key) && readEmail(f.value).ok),
  );
  take(
    'phone',
    fields.find((f) => !taken.has(f.key) && /^[+(0][\d\s().-]{7,20}$/.test(f.value) && readPhone(f.value, country).ok),
  );
  // Either the two parts or the whole, never both.
  if (card.fields.first_name) delete card.fields.full_name;
  const tick = fields.find(
    (f) => /consent|opt ?in|agree|permission|gdpr/.test(plain(`${f.label} ${f.key}`)) && f.value.length < 20,
  );
  if (tick) {
    const wording = fields.find(
      (f) => f !== tick && /wording|consent|agree/.test(plain(`${f.label} ${f.key}`)) && f.value.length >= 20,
    );
    card.consent = { kind: 'field', key: tick.key, wordingKey: wording?.key ?? null };
  }
  return card;
}
