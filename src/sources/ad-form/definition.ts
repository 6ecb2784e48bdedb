import { z } from 'zod';
import { FIELD_LIMITS, type Field, labelFromKey, storableText } from '../../core/fields/field.ts';
import { flatten } from '../../core/fields/flatten.ts';
import { readAs } from '../../core/read-as.ts';
import { doneAt } from '../../core/source/done-at.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import type { WhereFrom, WhereKey } from '../../core/source/where-from.ts';
import { readBody } from '../body/read-body.ts';

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
  /** The ad platform's id of our subscription, so that it can be ended. */
  subscriptionId: z.string().nullable(),
});
export type AdFormSettings = z.infer<typeof Settings>;

/** A form entry as the ad platform pushes it, and as it is fetched; written down in docs/gateways.md. */
const Entry = z.object({
  type: z.literal('form.entry'),
  entry: z.object({
    id: z.string().min(1).max(200),
    submittedAt: z.string().max(60).optional(),
    form: z.object({ id: z.string(), name: z.string() }),
    page: z.object({ id: z.string().optional(), name: z.string() }).optional(),
    answers: z
      .array(z.object({ key: z.string().min(1).max(200), label: z.string().max(500).optional(), value: z.unknown() }))
      .max(FIELD_LIMITS.count),
    ad: z.object({ campaign: z.string(), adSet: z.string(), ad: z.string() }).partial().optional(),
    hidden: z.record(z.string(), z.string()).optional(),
  }),
});

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
  signedBy: () => ({ way: 'standard-webhooks' }),
  read: async (raw, settings): Promise<SourceReading> => {
    const body = await readBody(raw);
    if (!body.ok) return body;
    const read = readAs(Entry, body.value);
    if (!read.success) {
      const issue = read.error.issues[0];
      return {
        ok: false,
        code: 'shape',
        problem: `This is not a form entry: ${issue?.path.join('.') || 'the body'} ${issue?.message ?? ''}`.trim(),
      };
    }
    const { entry } = read.data;
    if (settings.scope === 'page' && entry.page?.id !== settings.pageId)
      return { ok: false, code: 'other-form', problem: 'This entry belongs to a form of another page.' };
    if (settings.scope === 'form' && settings.formId !== '' && entry.form.id !== settings.formId)
      return {
        ok: false,
        code: 'other-form',
        problem: `This entry belongs to another form ("${storableText(entry.form.name).slice(0, 80)}").`,
      };
    const fields: Field[] = entry.answers.map((answer) => {
      const flat = flatten(answer.value);
      const value = flat.ok ? flat.fields.map((field) => field.value).join(', ') : '';
      return {
        key: storableText(answer.key),
        label: storableText(answer.label ?? '') || labelFromKey(answer.key),
        value,
      };
    });
    return {
      ok: true,
      entries: [{ externalId: entry.id, fields, whereFrom: whereFrom(entry), ...doneAt(entry.submittedAt) }],
    };
  },
};

function whereFrom(entry: z.infer<typeof Entry>['entry']): WhereFrom {
  const hidden = entry.hidden ?? {};
  const found: Partial<Record<WhereKey, string | undefined>> = {
    utm_source: hidden.utm_source,
    utm_medium: hidden.utm_medium,
    utm_campaign: hidden.utm_campaign,
    utm_term: hidden.utm_term,
    utm_content: hidden.utm_content,
    utm_id: hidden.utm_id,
    click_id: hidden.click_id,
    campaign: entry.ad?.campaign,
    ad_set: entry.ad?.adSet,
    ad: entry.ad?.ad,
    form: entry.form.name,
    page: entry.page?.name,
  };
  return Object.fromEntries(
    Object.entries(found).flatMap(([key, value]) => (value ? [[key, storableText(value).slice(0, 500)]] : [])),
  );
}
