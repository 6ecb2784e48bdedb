import { z } from 'zod';
import { PURPOSES } from '../../core/workflow/purpose.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { formGives, formProblem } from '../chat-number.ts';
import { planChatTemplate } from '../plan-chat-template.ts';

const Settings = z.object({
  template: z.string().max(60),
  needsConsent: z.boolean(),
  purpose: z.enum(PURPOSES).default('service'),
});
export type ChatTemplateSettings = z.infer<typeof Settings>;

/** Begins a conversation in chat, with a message the network has approved beforehand. */
export const chatTemplate: StepKind<ChatTemplateSettings> = {
  kind: 'chat-template',
  label: 'Begin in chat',
  icon: 'message-square-plus',
  places: ['lead'],
  settings: Settings,
  blank: () => ({ template: '', needsConsent: true, purpose: 'service' }),
  card: ({ template }, catalogue) => ({
    title: 'Begin in chat',
    line: catalogue.chatTemplates.find((chatTemplate) => chatTemplate.id === template)?.name ?? '',
  }),
  aloud: ({ template }, catalogue) => {
    const name = catalogue.chatTemplates.find((chatTemplate) => chatTemplate.id === template)?.name;
    return name ? `begin in chat with “${name}”` : 'begin in chat';
  },
  check: ({ template }, { catalogue }) => {
    const found: ReturnType<StepKind['check']> = [];
    const must = (code: string, text: string) =>
      found.push({ weight: 'must', code, text: `Begin in chat: ${text}`, field: 'template' });
    const chosen = catalogue.chatTemplates.find((chatTemplate) => chatTemplate.id === template);
    if (template === '') must('empty', 'choose a chat template.');
    else if (!chosen) must('gone', 'its chat template is no longer there.');
    else if (!chosen.approved) must('not-approved', `the network has not approved “${chosen.name}”.`);
    else {
      const wrongForm = formProblem(catalogue, chosen.approved.content.form ?? '');
      if (wrongForm) must('no-form', wrongForm);
    }
    if (!catalogue.chat) must('no-sender', 'no chat network is connected yet.');
    return found;
  },
  templates: () => [],
  gives: ({ template }, catalogue) =>
    formGives(
      catalogue,
      catalogue.chatTemplates.find((chatTemplate) => chatTemplate.id === template)?.approved?.content.form ?? '',
    ),
  plan: planChatTemplate,
};
