import type { Answer } from '../core/delivery/answer.ts';
import type { Call } from '../core/described/description.ts';
import { mayRepeat } from '../core/described/outcome.ts';
import type { ChatMessage, TextMessage } from '../core/workflow/plan.ts';
import type { DescribedAccount, DescribedCaller } from '../gateways/described/described-caller.ts';

/** An account that takes messages, and where it reports what became of them. */
export interface MessageAccount {
  service: DescribedAccount;
  reportTo: string;
}
type Message = TextMessage | ChatMessage;

const callFor = (message: Message): string =>
  message.channel === 'chat' && message.template ? 'send_template' : 'send';

/** What the call that sends a message is given: core/described/works.ts has the names. `key` is the idempotency key. */
function givenBy({ reportTo }: MessageAccount, message: Message, key: string): Record<string, unknown> {
  const { to, from, text } = message;
  const all = { to, from, text, reference: key, report_to: reportTo };
  if (message.channel === 'text') return all;
  const { template, heading, closing, buttons, form } = message;
  const opened = form ? { form: form.remoteId, form_token: form.token } : {};
  return template
    ? { ...all, template: template.id, fields: template.fields, ...opened }
    : { ...all, heading, closing, buttons, ...opened };
}

/** Hands one message over as its service is described. */
export async function sendDescribed(
  services: DescribedCaller,
  account: MessageAccount,
  message: Message,
  key: string,
): Promise<Answer> {
  const { answer } = await services.call(account.service, callFor(message), givenBy(account, message, key));
  return answer;
}

/** Whether the message can be handed over again whatever became of it the first time. */
export const safeToRepeat = ({ service }: MessageAccount, message: Message): boolean => {
  const call: Call | undefined = service.description.calls[callFor(message)];
  return call === undefined || mayRepeat(call);
};

/** What the service says about a message of which nobody knows whether it was taken. */
export type Looked =
  | { is: 'taken'; remoteId: string | null }
  | { is: 'never came' }
  | { is: 'unknown'; afterMs: number | null }
  | { is: 'cannot be asked' };

/** Asks the service whether it took a message. */
export async function lookForMessage(
  services: DescribedCaller,
  account: MessageAccount,
  message: Message,
  key: string,
): Promise<Looked> {
  const { calls } = account.service.description;
  if (calls[callFor(message)]?.again !== 'ask' || !calls.look) return { is: 'cannot be asked' };
  const { answer, values, items, data } = await services.call(account.service, 'look', givenBy(account, message, key));
  if (answer.kind === 'accepted') {
    if (!data?.ok) return { is: 'unknown', afterMs: null };
    const id = String((calls.look.items === '' ? values.id : items[0]?.id) ?? '');
    return id === '' ? { is: 'never came' } : { is: 'taken', remoteId: id };
  }
  // Not found is an answer; anything else is none.
  if (answer.kind === 'refused' && answer.code === 'http-404') return { is: 'never came' };
  return { is: 'unknown', afterMs: answer.kind === 'again' ? answer.afterMs : null };
}
