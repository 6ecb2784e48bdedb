import { z } from 'zod';
import { FIELD_KINDS } from './field-kinds.ts';

const Key = z.string().regex(/^[a-z][a-z0-9_]{0,60}$/);
export const FormField = z.object({
  key: Key,
  label: z.string().trim().min(1, 'Every field needs a label').max(200),
  kind: z.enum(FIELD_KINDS),
  required: z.boolean(),
  help: z.string().max(300).default(''),
  choices: z.array(z.string().trim().min(1).max(200)).max(60).default([]),
});
export type FormField = z.infer<typeof FormField>;

export const FormScreen = z.object({ title: z.string().max(200).default(''), fields: z.array(FormField).max(40) });

/** A consent's wording as it once stood on the page, kept for ever: consents point to it by version. */
export const Wording = z.object({ version: z.number().int(), text: z.string(), since: z.string() });

export const FormPage = z
  .object({
    title: z.string().trim().min(1, 'The page needs a title').max(200),
    intro: z.string().max(2000).default(''),
    screens: z.array(FormScreen).min(1, 'The page needs at least one screen').max(10),
    button: z.string().trim().min(1, 'The button needs words').max(60),
    consent: z.object({
      asked: z.boolean(),
      /** Nobody gets on without agreeing. */
      required: z.boolean().default(false),
      text: z.string().trim().max(1000),
      wordings: z.array(Wording).default([]),
    }),
    thanks: z.object({ title: z.string().trim().min(1).max(200), text: z.string().max(2000).default('') }),
  })
  .check((ctx) => {
    const keys = ctx.value.screens.flatMap((screen) => screen.fields.map((field) => field.key));
    const fail = (message: string) => ctx.issues.push({ code: 'custom', message, input: ctx.value, path: ['screens'] });
    if (keys.length === 0) fail('The page needs at least one field');
    if (new Set(keys).size < keys.length) fail('Two fields have the same key');
    for (const field of ctx.value.screens.flatMap((screen) => screen.fields))
      if (field.kind === 'choice' && field.choices.length === 0)
        fail(`"${field.label}" needs something to choose from`);
    if (ctx.value.consent.asked && ctx.value.consent.text === '') fail('Write what people agree to');
  });
export type FormPage = z.infer<typeof FormPage>;

/** A page to begin with: name, email, phone, and a consent. */
export const newFormPage = (title: string, businessName: string): FormPage => ({
  title,
  intro: '',
  screens: [
    {
      title: '',
      fields: [
        { key: 'first_name', label: 'First name', kind: 'short', required: true, help: '', choices: [] },
        { key: 'last_name', label: 'Last name', kind: 'short', required: false, help: '', choices: [] },
        { key: 'email', label: 'Email', kind: 'email', required: true, help: '', choices: [] },
        { key: 'phone', label: 'Phone', kind: 'phone', required: false, help: '', choices: [] },
      ],
    },
  ],
  button: 'Send my details',
  consent: {
    asked: true,
    required: false,
    text: `${businessName} may text and email me. I can stop this at any time.`,
    wordings: [],
  },
  thanks: { title: 'Thank you', text: 'We have your details and will be in touch.' },
});

/** Gives a changed wording its own version; an unchanged one keeps the one it has. `now` is ISO 8601. */
export function settleWordings<Form extends { consent: Pick<FormPage['consent'], 'asked' | 'text' | 'wordings'> }>(
  before: Form | null,
  after: Form,
  now: string,
): Form {
  const kept = before?.consent.wordings ?? [];
  const last = kept.at(-1);
  const { text, asked } = after.consent;
  const wordings =
    !asked || last?.text === text ? kept : [...kept, { version: (last?.version ?? 0) + 1, text, since: now }];
  return { ...after, consent: { ...after.consent, wordings } };
}
