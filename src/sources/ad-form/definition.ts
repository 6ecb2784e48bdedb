import { z } from 'zod';
import { SHIPPED } from '../../core/described/shipped/registry.ts';
import { FIELD_LIMITS, type Field, labelFromKey, storableText } from '../../core/fields/field.ts';
import { readAs } from '../../core/read-as.ts';
import { doneAt } from '../../core/source/done-at.ts';
import type { SourceEntry, SourceKind, SourceProblem, SourceReading } from '../../core/source/source-kind.ts';
import type { WhereFrom, WhereKey } from '../../core/source/where-from.ts';
import { readBodyAs } from '../body/read-body-as.ts';
import { otherForm, plainText, readEvents, signedAsDescribed } from '../body/read-events.ts';
import { shapeProblem } from '../body/shape-problem.ts';

const Settings = z.object({
  connectionId: z.string(),
  /** Entries are pushed to us as they come, or fetched on a schedule. */
  how: z.enum(['push', 'pull']).default('push'),
  /** One form, or every form of a page, later ones too. */
  scope: z.enum(['form', 'page']).default('form'),
  formId: z.string(),
  formName: z.string(),
  pageId: z.string().default(''),
  pageName: z.string().default(''),
  /** Nobody could be asked to tell us: somebody enters the address there by hand. */
  byHand: z.boolean().default(false),
});
export type AdFormSettings = z.infer<typeof Settings>;

const Answer = z.object({
  key: z.string().min(1).max(200),
  label: z.string().max(500).default(''),
  value: z.string().default(''),
});
/** What the description of an ad platform reads of an entry; core/described/works.ts has the words. */
const Entry = z.object({
  id: z.string().min(1).max(200),
  at: z.string().max(60).optional(),
  form: z.string().default(''),
  form_name: z.string().default(''),
  page: z.string().default(''),
  page_name: z.string().default(''),
  /** A list of answers, or each under its name. */
  answers: z.union([z.array(Answer).max(FIELD_LIMITS.count), z.record(z.string().min(1).max(200), z.unknown())]),
  campaign: z.string().default(''),
  ad_set: z.string().default(''),
  ad: z.string().default(''),
  hidden: z.record(z.string(), z.unknown()).default({}),
});
type Entry = z.infer<typeof Entry>;

/** An entry that was fetched: what the description reads of it, and the whole of it. */
export const FETCHED = 'fetched-entry';
const Fetched = z.object({ kind: z.literal(FETCHED), values: z.record(z.string(), z.unknown()), item: z.unknown() });

const HIDDEN = ['utm_source', 'utm_medium', 'utm_campaign', 'utm_term', 'utm_content', 'utm_id', 'click_id'] as const;
const WHAT = 'a form entry';

/** A form shown with an ad, pushed by the ad platform the moment it is filled in. */
export const adForm: SourceKind<AdFormSettings> = {
  kind: 'ad-form',
  label: 'Ad form',
  about: 'A form people fill in right under your ad. Every entry rings in at once, or is fetched every few minutes.',
  icon: 'clipboard-list',
  settings: Settings,
  brings: 'people',
  comesBy: 'hook',
  changeable: [],
  contentType: 'application/json',
  describedAs: 'ad_platform',
  signedBy: (_, hears = SHIPPED.ad_platform.hears) => signedAsDescribed(hears),
  read: async (raw, settings, hears = SHIPPED.ad_platform.hears): Promise<SourceReading> => {
    // What is pushed says what it is written in; what was fetched has no headers.
    const mayBeFetched = settings.how === 'pull' || raw.headers['content-type'] === undefined;
    const fetched = mayBeFetched ? await readBodyAs(raw, Fetched, WHAT) : null;
    if (!fetched?.ok) return readEvents(raw, hears, WHAT, Entry, ['entry'], (_, entry) => entryOf(entry, settings));
    const there = Object.entries(fetched.data.values).filter(([, value]) => value !== '' && value !== null);
    const read = readAs(Entry, Object.fromEntries(there));
    if (!read.success) return shapeProblem(WHAT, read.error);
    const made = entryOf(read.data, settings);
    return 'ok' in made ? made : { ok: true, entries: [{ externalId: read.data.id, ...made }] };
  },
};

function entryOf(entry: Entry, settings: AdFormSettings): Omit<SourceEntry, 'externalId'> | SourceProblem {
  if (settings.scope === 'page' && entry.page !== settings.pageId)
    return otherForm('This entry belongs to a form of another page.');
  if (settings.scope === 'form' && settings.formId !== '' && entry.form !== '' && entry.form !== settings.formId)
    return otherForm(`This entry belongs to another form ("${entry.form_name.slice(0, 80)}").`);
  const answers = Array.isArray(entry.answers)
    ? entry.answers
    : Object.entries(entry.answers).map(([key, value]) => ({ key, label: '', value: plainText(value) }));
  const fields: Field[] = answers.map(({ key, label, value }) => ({
    key: storableText(key),
    label: label || labelFromKey(key),
    value,
  }));
  return { fields, whereFrom: whereFrom(entry), ...doneAt(entry.at) };
}

function whereFrom({ hidden, ...entry }: Entry): WhereFrom {
  const { campaign, ad_set, ad } = entry;
  const found: Partial<Record<WhereKey, string>> = {
    campaign,
    ad_set,
    ad,
    form: entry.form_name,
    page: entry.page_name,
  };
  for (const key of HIDDEN) found[key] = plainText(hidden[key]);
  return Object.fromEntries(
    Object.entries(found).flatMap(([key, value]) => (value ? [[key, storableText(value).slice(0, 500)]] : [])),
  );
}
