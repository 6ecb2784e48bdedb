import { z } from 'zod';
import { CHANNELS } from '../workflow/channel.ts';
import { PURPOSES } from '../workflow/purpose.ts';
import { CHAT_FIELD_KINDS } from './field-kinds.ts';
import { FormField, Wording } from './form-page.ts';

/** Longest parts a chat network takes, in characters: docs/gateways.md. */
export const CHAT_FORM_MOST = { open: 20, heading: 60, screens: 6, fields: 8, thanks: 300, days: 30 } as const;

const ChatField = FormField.refine((field) => (CHAT_FIELD_KINDS as readonly string[]).includes(field.kind), {
  error: 'A form in chat cannot ask for this kind of answer',
});

/** A form that is filled in inside the chat: a few short screens and, where it is asked, a consent. */
export const ChatForm = z
  .object({
    heading: z.string().trim().min(1, 'The form needs a heading').max(CHAT_FORM_MOST.heading),
    /** On the button that opens it. */
    open: z.string().trim().min(1, 'Say what is on the button').max(CHAT_FORM_MOST.open),
    screens: z
      .array(
        z.object({
          title: z.string().trim().max(CHAT_FORM_MOST.heading).default(''),
          fields: z
            .array(ChatField)
            .max(CHAT_FORM_MOST.fields, `A screen has at most ${CHAT_FORM_MOST.fields} questions`),
        }),
      )
      .min(1, 'The form needs at least one screen')
      .max(CHAT_FORM_MOST.screens, `A form has at most ${CHAT_FORM_MOST.screens} screens`),
    consent: z.object({
      asked: z.boolean(),
      /** Nobody gets on without agreeing. */
      required: z.boolean(),
      text: z.string().trim().max(1000),
      /** What a tick allows. */
      channels: z.array(z.enum(CHANNELS)),
      purposes: z.array(z.enum(PURPOSES)),
      wordings: z.array(Wording).default([]),
    }),
    /** Read on the phone once it is sent. */
    thanks: z.string().trim().min(1, 'Say what is read when it is sent').max(CHAT_FORM_MOST.thanks),
  })
  .check((ctx) => {
    const { screens, consent } = ctx.value;
    const fail = (message: string) => ctx.issues.push({ code: 'custom', message, input: ctx.value, path: ['screens'] });
    const fields = screens.flatMap((screen) => screen.fields);
    if (fields.length === 0) fail('The form needs at least one question');
    if (screens.some((screen) => screen.fields.length === 0)) fail('A screen has no question: remove it');
    if (new Set(fields.map((field) => field.key)).size < fields.length) fail('Two questions have the same key');
    if (fields.some((field) => field.key === 'consent')) fail('The key "consent" is taken by the consent tick');
    for (const field of fields)
      if (field.kind === 'choice' && field.choices.length === 0)
        fail(`"${field.label}" needs something to choose from`);
    if (consent.asked && consent.text === '') fail('Write what people agree to');
    if (consent.asked && (consent.channels.length === 0 || consent.purposes.length === 0))
      fail('Say what the consent is for: which channels, and which messages');
  });
export type ChatForm = z.infer<typeof ChatForm>;

/** A form to begin with: who they are, and whether they agree. */
export const newChatForm = (heading: string, businessName: string): ChatForm => ({
  heading,
  open: 'Tell us who you are',
  screens: [
    {
      title: 'Who are you?',
      fields: [
        { key: 'first_name', label: 'First name', kind: 'short', required: true, help: '', choices: [] },
        { key: 'last_name', label: 'Last name', kind: 'short', required: false, help: '', choices: [] },
        { key: 'email', label: 'Email', kind: 'email', required: true, help: '', choices: [] },
      ],
    },
  ],
  consent: {
    asked: true,
    required: false,
    text: `${businessName} may write to me in chat and by email. I can stop this at any time.`,
    channels: ['chat', 'email'],
    purposes: ['service', 'marketing'],
    wordings: [],
  },
  thanks: 'Thank you, we have it.',
});

/** A form as the chat network is given it: docs/gateways.md. */
export const networkForm = (name: string, { heading, open, screens, consent, thanks }: ChatForm) => ({
  name,
  heading,
  open,
  thanks,
  screens,
  consent: consent.asked ? { text: consent.text, required: consent.required } : null,
});

/** What of the answers is who they are; the number they write from is not changed by a form. */
const OF_THE_PERSON = ['first_name', 'last_name', 'email'] as const;

/** The answers of a form, parted: what is known of the person by it, and the rest by key. */
export function partedAnswers(answers: Readonly<Record<string, string>>): {
  person: Partial<Record<(typeof OF_THE_PERSON)[number], string>>;
  rest: Record<string, string>;
} {
  const person: Partial<Record<(typeof OF_THE_PERSON)[number], string>> = {};
  const rest: Record<string, string> = {};
  for (const [key, value] of Object.entries(answers)) {
    const own = OF_THE_PERSON.find((one) => one === key);
    if (!own) rest[key] = value;
    else if (value !== '') person[own] = value;
  }
  return { person, rest };
}

/** The answers in a line, as they stand in the conversation: "First name: Ayla, Email: ayla@example.org". */
export const answersInWords = (form: ChatForm, answers: Readonly<Record<string, string>>): string =>
  form.screens
    .flatMap((screen) => screen.fields)
    .filter((field) => (answers[field.key] ?? '') !== '')
    .map((field) => `${field.label}: ${answers[field.key]}`)
    .join('\n');
