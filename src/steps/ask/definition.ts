import { z } from 'zod';
import { labelFromKey } from '../../core/fields/field.ts';
import { ANSWER_HINTS, ANSWER_KINDS, type AnswerKind } from '../../core/message/check-answer.ts';
import { readReference } from '../../core/template/field-reference.ts';
import { templateWords } from '../../core/template/template.ts';
import type { Question } from '../../core/workflow/plan.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { CHAT_MOST } from '../chat/definition.ts';
import { planChat, windowOpen } from '../plan-chat.ts';
import { planText } from '../plan-text.ts';

const Settings = z.object({
  /** In chat only while the reply window is open; then by text. */
  by: z.enum(['text', 'chat']).default('text'),
  /** The question: a template. */
  message: z.string().max(1000),
  kind: z.enum(Object.keys(ANSWER_KINDS) as [AnswerKind, ...AnswerKind[]]),
  /** For a choice: one per line, listed under the question with their numbers. */
  choices: z.string().max(2000),
  /** Where the answer goes: a reference as in a message. */
  saveAs: z.string().max(200),
  /** Sent when an answer does not fit. */
  hint: z.string().max(500),
  most: z.number().int().min(1).max(5),
  forDays: z.number().int().min(1).max(30),
  needsConsent: z.boolean(),
});
export type AskSettings = z.infer<typeof Settings>;

export const choicesOf = ({ choices }: Pick<AskSettings, 'choices'>): string[] =>
  choices
    .split('\n')
    .map((one) => one.trim())
    .filter(Boolean)
    .slice(0, 9);

/** Asks the lead something by text or in chat; the answer becomes a field, and a moment can wait for it. */
export const ask: StepKind<AskSettings> = {
  kind: 'ask',
  label: 'Ask a question',
  icon: 'message-circle-question',
  places: ['lead'],
  settings: Settings,
  blank: () => ({
    by: 'text',
    message: '',
    kind: 'choice',
    choices: '',
    saveAs: '',
    hint: ANSWER_HINTS.choice,
    most: 3,
    forDays: 3,
    needsConsent: true,
  }),
  card: ({ message }) => ({ title: 'Ask', line: message }),
  aloud: ({ message }) => (message.trim() ? `ask them “${templateWords(message)}”` : 'ask them something'),
  check: (settings, { catalogue, consentAsked }) => {
    const found: ReturnType<StepKind['check']> = [];
    const must = (text: string, field: string) => found.push({ weight: 'must', code: 'empty', text, field });
    if (settings.message.trim() === '') must('Ask: the question is empty.', 'message');
    if (settings.kind === 'choice' && choicesOf(settings).length < 2)
      must('Ask: give at least two answers to choose from.', 'choices');
    if (!ANSWERED.includes(readReference(settings.saveAs)?.group ?? ''))
      must('Ask: say where the answer is kept.', 'saveAs');
    if (settings.most > 1 && settings.hint.trim() === '') must('Ask: say what is sent when it does not fit.', 'hint');
    if (!catalogue.text && settings.by === 'text')
      found.push({ weight: 'must', code: 'no-sender', text: 'Ask: no text carrier is connected yet.' });
    if (!catalogue.chat && settings.by === 'chat')
      found.push({ weight: 'must', code: 'no-sender', text: 'Ask: no chat network is connected yet.' });
    if (settings.needsConsent && !consentAsked)
      found.push({
        weight: 'look',
        code: 'consent-never-asked',
        text: 'Ask: only sent with consent, but no source asks for it, so nobody would be asked.',
        field: 'needsConsent',
      });
    return found;
  },
  templates: ({ message }) => [{ field: 'message', source: message }],
  gives: ({ saveAs }) => {
    const read = readReference(saveAs);
    return read?.group === 'answers' ? [{ group: 'answers', key: read.key, label: labelFromKey(read.key) }] : [];
  },
  plan: (settings, input) => {
    const choices = settings.kind === 'choice' ? choicesOf(settings) : [];
    const below = choices.map((choice, i) => `\n${i + 1} ${choice}`).join('');
    const { message, needsConsent } = settings;
    const inChat = settings.by === 'chat' && windowOpen(input.context.lastChatAt, input.now);
    // What can be tapped need not be numbered.
    const taps = choices.length <= CHAT_MOST.buttons && choices.every((choice) => choice.length <= CHAT_MOST.button);
    const plan = inChat
      ? planChat({ message: taps ? message : message + below, buttons: taps ? choices : [], needsConsent }, input)
      : planText({ message, needsConsent, below }, input);
    if (plan.does !== 'send') return plan;
    const { kind, saveAs, hint, most, forDays } = settings;
    return { ...plan, question: { kind, choices, saveAs, hint, most, forDays } satisfies Question };
  },
};

/** Groups of fields an answer can be kept in. */
const ANSWERED: readonly string[] = ['answers', 'lead'];
