import { PHONE_PROBLEMS, readPhone } from '../core/people/phone.ts';
import type { Plan, SentForm } from '../core/workflow/plan.ts';
import type { Catalogue, Given, PlanInput } from '../core/workflow/step-kind.ts';
import { type ByConsent, mayNotWrite } from './may-write.ts';

/** The numbers of both sides of a chat message; or why none is sent. */
export function chatNumbers(
  settings: ByConsent,
  { context, catalogue }: Pick<PlanInput, 'context' | 'catalogue'>,
): { to: string; from: string } | Plan {
  const stopped = mayNotWrite(context, 'chat', settings);
  if (stopped) return { does: 'nothing', why: stopped };
  if (!catalogue.chat) return { does: 'ask', why: { code: 'no_sender', text: 'No chat network is connected' } };
  if (context.person.phone.trim() === '')
    return { does: 'nothing', why: { code: 'no_address', text: 'No phone number was given', channel: 'chat' } };
  const phone = readPhone(context.person.phone, context.business.country);
  if (phone.ok) return { to: phone.e164, from: catalogue.chat.from };
  const text = `No chat message: ${PHONE_PROBLEMS[phone.problem]} (${context.person.phone})`;
  return { does: 'ask', why: { code: 'bad_address', text, channel: 'chat' } };
}

/** The form a message opens, in its newest version; null when the network has none of it. */
export function formToSend(catalogue: Catalogue, id: string): SentForm | null {
  const form = catalogue.chatForms.find((chatForm) => chatForm.id === id);
  if (!form?.live) return null;
  const { versionId, remoteId, content } = form.live;
  return { formId: form.id, versionId, remoteId, name: form.name, open: content.open };
}

/** Fields the answers of a form become, for the steps after it. */
export const formGives = (catalogue: Catalogue, id: string): Given[] =>
  (catalogue.chatForms.find((chatForm) => chatForm.id === id)?.live?.content.screens ?? [])
    .flatMap((screen) => screen.fields)
    .filter((field) => !['first_name', 'last_name', 'email'].includes(field.key))
    .map((field) => ({ group: 'answers', key: field.key, label: field.label }));

/** What is wrong with the form a step is to send, as its check tells it; null when nothing is. */
export function formProblem(catalogue: Catalogue, id: string): string | null {
  if (id === '') return null;
  const form = catalogue.chatForms.find((chatForm) => chatForm.id === id);
  if (!form) return 'its chat form is no longer there.';
  return form.live ? null : `the form “${form.name}” has not been put live.`;
}
