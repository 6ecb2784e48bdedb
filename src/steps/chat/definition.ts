import { z } from 'zod';
import type { Plan } from '../../core/workflow/plan.ts';
import { PURPOSES } from '../../core/workflow/purpose.ts';
import type { PlanInput, StepKind } from '../../core/workflow/step-kind.ts';
import { formGives, formProblem } from '../chat-number.ts';
import { planChat, windowOpen } from '../plan-chat.ts';
import { planChatTemplate } from '../plan-chat-template.ts';
import { planEmail } from '../plan-email.ts';
import { planText } from '../plan-text.ts';

/** Longest parts of a free message, in characters: docs/gateways.md. */
export const CHAT_MOST = { heading: 60, message: 4096, closing: 60, button: 20, buttons: 3 } as const;
/** What is done when they have not written within 24 hours. */
export const WHEN_SHUT = {
  template: 'A chat template is sent instead',
  text: 'A text of the same words is sent instead',
  email: 'An email of the same words is sent instead',
  skip: 'Nothing is sent',
} as const;
export type WhenShut = keyof typeof WHEN_SHUT;

const Settings = z.object({
  heading: z.string().max(CHAT_MOST.heading).default(''),
  message: z.string().max(CHAT_MOST.message),
  closing: z.string().max(CHAT_MOST.closing).default(''),
  buttons: z.array(z.string().trim().max(CHAT_MOST.button)).max(CHAT_MOST.buttons).default([]),
  /** A chat form it opens; empty for none. */
  form: z.string().max(60).default(''),
  needsConsent: z.boolean(),
  purpose: z.enum(PURPOSES).default('service'),
  whenShut: z.enum(Object.keys(WHEN_SHUT) as [WhenShut, ...WhenShut[]]).optional(),
  /** The chat template that is sent instead. */
  template: z.string().max(60).default(''),
  /** The subject of the email that is sent instead. */
  subject: z.string().max(300).default(''),
});
export type ChatSettings = z.infer<typeof Settings>;

/** What happens when the window is shut; sheets from before it was asked say it by their template. */
export const whenShutOf = ({ whenShut, template }: Pick<ChatSettings, 'whenShut' | 'template'>): WhenShut =>
  whenShut ?? (template ? 'template' : 'text');

const SHUT = 'They have not written in chat within 24 hours';

/** What goes instead of a free message, or nothing. */
function planShut(settings: ChatSettings, input: PlanInput): Plan {
  const { message, needsConsent, purpose } = settings;
  const by = { needsConsent, purpose };
  const noted = (plan: Plan, what: string): Plan =>
    plan.does === 'send' ? { ...plan, note: `${SHUT}, so ${what} goes instead` } : plan;
  switch (whenShutOf(settings)) {
    case 'template':
      return noted(planChatTemplate({ ...by, template: settings.template }, input), 'the template');
    case 'text':
      return noted(planText({ ...by, message, countLinks: true }, input), 'a text');
    case 'email': {
      const subject = settings.subject || 'A message from {{ business.name }}';
      return noted(planEmail({ ...by, subject, message }, input), 'an email');
    }
    case 'skip':
      return {
        does: 'nothing',
        why: { code: 'window_shut', text: `Left out: ${SHUT.toLowerCase()}`, channel: 'chat' },
      };
  }
}

/** A message in chat, to somebody who has written there within the last 24 hours. */
export const chat: StepKind<ChatSettings> = {
  kind: 'chat',
  label: 'Write in chat',
  icon: 'messages-square',
  places: ['lead'],
  settings: Settings,
  blank: () => Settings.parse({ message: '', needsConsent: false, whenShut: 'text' }),
  card: ({ message, form }, catalogue) => ({
    title: form
      ? `Chat, with ${catalogue.chatForms.find((chatForm) => chatForm.id === form)?.name ?? 'a form'}`
      : 'Chat',
    line: message,
  }),
  aloud: ({ form }, catalogue) => {
    const name = catalogue.chatForms.find((chatForm) => chatForm.id === form)?.name;
    return name ? `send them the form “${name}” in chat` : 'write to them in chat';
  },
  check: (settings, { catalogue, sample, consentAsked, onArrival }) => {
    const found: ReturnType<StepKind['check']> = [];
    const must = (code: string, text: string, field?: string) =>
      found.push({ weight: 'must', code, text: `Chat: ${text}`, ...(field ? { field } : {}) });
    if (settings.message.trim() === '') must('empty', 'the message is empty.', 'message');
    if (!catalogue.chat) must('no-sender', 'no chat network is connected yet.');
    if (settings.buttons.some((button) => button === '')) must('empty', 'a button says nothing.', 'buttons');
    const wrongForm = formProblem(catalogue, settings.form);
    if (wrongForm) must('no-form', wrongForm, 'form');
    const shut = whenShutOf(settings);
    const instead = catalogue.chatTemplates.find((chatTemplate) => chatTemplate.id === settings.template);
    if (shut === 'template' && !instead?.approved) {
      const why = instead ? 'is not approved' : settings.template === '' ? 'is not chosen' : 'is no longer there';
      must('not-approved', `the template sent instead ${why}.`, 'template');
    }
    if (onArrival && sample?.lastChatAt === null)
      found.push({
        weight: 'look',
        code: 'window-shut',
        text: `Chat: the sample lead has never written in chat, so the reply window is shut when they come in. ${WHEN_SHUT[shut]}.`,
        field: 'whenShut',
      });
    if (settings.form !== '' && (shut === 'text' || shut === 'email'))
      found.push({
        weight: 'look',
        code: 'form-lost',
        text: `Chat: ${shut === 'text' ? 'a text' : 'an email'} sent instead cannot open the form.`,
        field: 'whenShut',
      });
    if (settings.purpose === 'marketing' && !consentAsked)
      found.push({
        weight: 'look',
        code: 'consent-never-asked',
        text: 'Chat: news and offers go only to those who agreed, and no source asks for it.',
        field: 'purpose',
      });
    return found;
  },
  templates: ({ heading, message, closing, subject }) => [
    { field: 'message', source: message },
    ...Object.entries({ heading, closing, subject })
      .filter(([, source]) => source !== '')
      .map(([field, source]) => ({ field, source })),
  ],
  gives: ({ form }, catalogue) => formGives(catalogue, form),
  plan: (settings, input) =>
    windowOpen(input.context.lastChatAt, input.now) ? planChat(settings, input) : planShut(settings, input),
  instead: (settings, input) => {
    const plan = planShut(settings, input);
    // Asked to do something else, a step that would leave it out still has its words: they go by text.
    return plan.does === 'nothing' && plan.why.code === 'window_shut'
      ? planText({ message: settings.message, needsConsent: settings.needsConsent, countLinks: true }, input)
      : plan;
  },
  shut: planShut,
};
