import type { PlanInput } from '../../core/workflow/step-kind.ts';
import { planChatTemplate } from '../../steps/plan-chat-template.ts';

/** Something made beforehand that can be sent in chat by hand. */
export interface ReadyAnswer {
  kind: 'template' | 'form';
  id: string;
  name: string;
  /** A template as this person would read it; for a form, what stands on the button that opens it. */
  text: string;
  /** What can be tapped below a template. */
  offers: string[];
  /** Why it cannot be sent to them, as a sentence without its full stop; empty when it can. */
  cannot: string;
}

/** Templates the network has approved, as they would reach this person now, and the forms it has of ours. */
export function readyAnswers(about: PlanInput): ReadyAnswer[] {
  const { chatTemplates, chatForms } = about.catalogue;
  const templates = chatTemplates.flatMap(({ id, name, approved }): ReadyAnswer[] => {
    if (!approved) return [];
    const plan = planChatTemplate({ template: id, needsConsent: false }, about);
    if (plan.does === 'send' && plan.message.channel === 'chat') {
      const { text, buttons = [], form } = plan.message;
      return [{ kind: 'template', id, name, text, offers: [...buttons, ...(form ? [form.open] : [])], cannot: '' }];
    }
    const cannot = 'why' in plan ? plan.why.text : 'It cannot be sent now';
    return [{ kind: 'template', id, name, text: approved.content.text, offers: approved.content.buttons, cannot }];
  });
  const forms = chatForms.flatMap(({ id, name, live }): ReadyAnswer[] =>
    live ? [{ kind: 'form', id, name, text: live.content.open, offers: [], cannot: '' }] : [],
  );
  return [...templates, ...forms];
}
