import { z } from 'zod';
import { type Field, storableText } from '../../core/fields/field.ts';
import { FormPage, settleWordings } from '../../core/form/form-page.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { findWhereFrom, whereFromUrl } from '../../core/source/where-from.ts';
import { readBodyAs } from '../body/read-body-as.ts';

const Settings = z.object({ page: FormPage });
export type FormPageSettings = z.infer<typeof Settings>;

/** What our own page hands in, after its answers were checked. */
export const Submission = z.object({
  /** The same when the same page is sent in twice. */
  id: z.string(),
  answers: z.record(z.string(), z.string()),
  consent: z.object({ given: z.boolean(), wording: z.string(), version: z.number() }).nullable(),
  /** `device` is missing of what came before it was told. */
  visit: z.object({ address: z.string(), referrer: z.string(), device: z.string().max(20).optional() }),
  /** The visitor's network address, part of the proof of a consent. */
  from: z.string(),
  /** Set when it was caught by the spam trap, with what gave it away. */
  trap: z.string().nullable(),
});
export type Submission = z.infer<typeof Submission>;

/** An opt-in page built here. */
export const formPage: SourceKind<FormPageSettings> = {
  kind: 'form-page',
  label: 'Own form page',
  about: 'A page with questions that you build here, to link to or to put on your site.',
  icon: 'file-pen-line',
  settings: Settings,
  brings: 'people',
  comesBy: 'page',
  changeable: ['page'],
  contentType: 'application/json',
  settle: (before, after, now) => ({ ...after, page: settleWordings(before.page, after.page, now) }),
  signedBy: () => ({ way: 'nobody' }),
  read: async (raw, settings): Promise<SourceReading> => {
    const read = await readBodyAs(raw, Submission, 'what the form page sends');
    if (!read.ok) return read;
    const { id, answers, consent, visit, from, trap } = read.data;
    const labels = new Map(
      settings.page.screens.flatMap((screen) => screen.fields).map((field) => [field.key, field.label]),
    );
    const fields: Field[] = Object.entries(answers).map(([key, value]) => ({
      key,
      label: labels.get(key) ?? key,
      value: storableText(value),
    }));
    if (consent)
      fields.push(
        { key: 'consent', label: 'Consent', value: consent.given ? 'true' : 'false' },
        { key: 'consent_wording', label: 'Consent wording', value: storableText(consent.wording) },
      );
    return {
      ok: true,
      entries: [
        {
          externalId: id,
          fields,
          whereFrom: {
            ...findWhereFrom(fields),
            ...whereFromUrl(visit.address),
            ...(visit.referrer ? { referrer: storableText(visit.referrer).slice(0, 500) } : {}),
            ...(visit.device ? { device: visit.device } : {}),
            form: settings.page.title,
          },
          ...(consent ? { consentProof: { version: String(consent.version), address: from } } : {}),
          ...(trap === null ? {} : { aside: `Caught by the spam trap: ${trap}` }),
        },
      ],
    };
  },
};
