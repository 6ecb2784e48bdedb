import { isSupportedCountry } from 'libphonenumber-js/max';
import { z } from 'zod';
import { readEmail } from '../../core/message/email-address.ts';
import { homeCountries } from '../../core/message/may-text.ts';
import { businessColors } from '../../core/people/business-place.ts';
import { readPhone } from '../../core/people/phone.ts';
import { readDate } from '../../core/time/read-date.ts';
import { DATE_LANGUAGES } from '../../core/words/date-languages.ts';
import { CLOCKS, type Clock, clockOf, localeOf } from '../../core/words/locale-of.ts';
import { namesOf } from '../../core/words/names-of.ts';
import { Business, Membership, Person } from '../../db/entities/business.ts';
import { demand, demandOneself } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

const timeZone = z
  .string()
  .refine(
    (zone) => Intl.supportedValuesOf('timeZone').includes(zone) || zone === 'UTC',
    'Choose a time zone from the list',
  );

export const BusinessInput = z.object({
  name: z.string().trim().min(1, 'Give the business a name').max(200, 'The name is too long'),
  country: z.string().refine((code) => isSupportedCountry(code), 'Choose a country from the list'),
  timeZone,
  color: z.enum(businessColors).optional(),
  clock: z.enum(namesOf(CLOCKS)).default('country'),
  /** One day per line, as "2026-12-25". */
  holidays: z
    .string()
    .max(5000)
    .default('')
    .transform((text) => [...new Set(text.split(/[\s,;]+/).filter(Boolean))].sort())
    .refine(
      (days) => days.every((day) => /^\d{4}-\d{2}-\d{2}$/.test(day) && readDate(day, 'GB') !== null),
      'Write each holiday as 2026-12-25, one per line',
    ),
});
export const CountingInput = z.object({ countsLinks: z.boolean(), countsOpens: z.boolean() });
export const MarketingInput = z.object({
  /** 0 for no limit. */
  marketingPerDay: z
    .number('Write a whole number')
    .int('Write a whole number')
    .min(0, 'Write a number from 1 on')
    .max(50, 'At most 50 a day'),
});
export const TextsInput = z.object({
  /** ISO 3166-1 alpha-2, with commas or spaces between them. */
  countries: z
    .string()
    .max(1000)
    .transform((text) => [
      ...new Set(
        text
          .toUpperCase()
          .split(/[^A-Z]+/)
          .filter(Boolean),
      ),
    ])
    .refine((codes) => codes.length > 0, 'Name at least one country that may be texted')
    .refine(
      (codes) => codes.every((code) => isSupportedCountry(code)),
      'Write countries by their two letters, as GB, IE, FR',
    ),
  partsPerDay: z
    .number('Write a whole number of parts')
    .int('Write a whole number of parts')
    .min(1, 'Write a number from 1 on')
    .max(1_000_000, 'At most a million parts a day'),
  partCost: z
    .number('Write what a part costs as a number')
    .min(0, 'A part cannot cost less than nothing')
    .max(100, 'A part costs less than that'),
});
export const TestInput = z.object({
  testEmail: z.string().trim().max(254, 'Your test address is too long').default(''),
  testPhone: z.string().trim().max(60, 'Your test number is too long').default(''),
});

export interface SettingsView {
  name: string;
  country: string;
  timeZone: string;
  color: string;
  holidays: string[];
  /** How hours are shown. */
  clock: Clock;
  testEmail: string;
  testPhone: string;
  /** Their own language of dates; empty for the business's. */
  dates: string;
  countsLinks: boolean;
  countsOpens: boolean;
  marketingPerDay: number;
  textCountries: string[];
  textPartsPerDay: number;
  textPartCost: number;
  /** Parts that have gone out today. */
  textPartsToday: number;
}

export async function getSettings(use: Use): Promise<SettingsView> {
  const { actor, runtime } = use;
  const mine = await use.em.findOneOrFail(Membership, { business: actor.businessId, person: actor.personId });
  const business = await use.em.findOneOrFail(Business, { id: actor.businessId });
  const today = await runtime.pool.query<{ parts: number }>(
    'select parts from text_day where business_id = $1 and day = (now() at time zone $2)::date',
    [actor.businessId, actor.timeZone],
  );
  return {
    name: actor.businessName,
    country: actor.country,
    timeZone: actor.timeZone,
    color: actor.businessColor,
    holidays: actor.holidays,
    clock: clockOf(actor.businessLocale, actor.country),
    testEmail: mine.testEmail,
    testPhone: mine.testPhone,
    dates: mine.locale ?? '',
    countsLinks: business.countsLinks,
    countsOpens: business.countsOpens,
    marketingPerDay: business.marketingPerDay,
    textCountries: business.textCountries ?? homeCountries(business.country),
    textPartsPerDay: business.textPartsPerDay,
    textPartCost: business.textPartCost,
    textPartsToday: today.rows[0]?.parts ?? 0,
  };
}

/** Changes the business itself, which only an owner may; `note` is what the trail calls it. */
async function changeOwn(tx: Write, note: string, input: Record<string, unknown>): Promise<void> {
  demand(tx.actor, 'manage');
  const business = await tx.em.findOneOrFail(Business, { id: tx.actor.businessId });
  const before = Object.fromEntries(Object.keys(input).map((key) => [key, business[key as keyof typeof business]]));
  Object.assign(business, input);
  tx.note(note, business.id, { before, after: input });
  tx.forget();
}

export async function changeBusiness(tx: Write, input: z.infer<typeof BusinessInput>): Promise<void> {
  const { clock, ...own } = input;
  await changeOwn(tx, 'business.change', { ...own, locale: localeOf(own.country, clock) });
}

/** How many news and offers one person gets in a day, whatever workflow, sequence or email to many sends them. */
export async function changeMarketing(tx: Write, input: z.infer<typeof MarketingInput>): Promise<void> {
  await changeOwn(tx, 'business.marketing', input);
}

/** Where texts may go, and how many in a day. */
export async function changeTexts(tx: Write, input: z.infer<typeof TextsInput>): Promise<void> {
  const { countries: textCountries, partsPerDay: textPartsPerDay, partCost: textPartCost } = input;
  await changeOwn(tx, 'business.texts', { textCountries, textPartsPerDay, textPartCost });
}

export const DatesInput = z.object({ dates: z.enum(['', ...DATE_LANGUAGES], 'Choose a language from the list') });

/** In which language dates and numbers are written for whoever asks. What the business sends to others stays in its own. */
export async function changeDates(tx: Write, { dates }: z.infer<typeof DatesInput>): Promise<void> {
  const mine = await tx.em.findOneOrFail(Membership, { business: tx.actor.businessId, person: tx.actor.personId });
  tx.note('person.dates', tx.actor.personId, { before: { dates: mine.locale ?? '' }, after: { dates } });
  mine.locale = dates || null;
}

export const NameInput = z.object({ name: z.string().trim().min(1, 'Say your name').max(200) });

/** What one is called, in every business one belongs to. */
export async function changeMyName(tx: Write, { name }: z.infer<typeof NameInput>): Promise<void> {
  demandOneself(tx);
  await tx.em.nativeUpdate(Person, { id: tx.actor.personId }, { name });
  tx.note('person.name', tx.actor.personId, { before: { name: tx.actor.name }, after: { name } });
  tx.forget();
}

/** Where "send it to me" goes: the coordinator's own phone and inbox. */
export async function changeTestRecipients(tx: Write, input: z.infer<typeof TestInput>): Promise<void> {
  if (input.testEmail && !readEmail(input.testEmail).ok)
    throw new Refusal(422, 'email', 'Your test address is not an email address.');
  const phone = input.testPhone ? readPhone(input.testPhone, tx.actor.country) : null;
  if (phone && !phone.ok)
    throw new Refusal(422, 'phone', 'Your test number is not a phone number that can be dialled.');
  const mine = await tx.em.findOneOrFail(Membership, { business: tx.actor.businessId, person: tx.actor.personId });
  mine.testEmail = input.testEmail;
  mine.testPhone = phone?.ok ? phone.e164 : '';
  tx.note('settings.test', tx.actor.personId);
}

/** Whether followed links and opened emails are counted; holds for what goes out from now on. */
export async function changeCounting(tx: Write, input: z.infer<typeof CountingInput>): Promise<void> {
  await changeOwn(tx, 'business.counting', input);
}
