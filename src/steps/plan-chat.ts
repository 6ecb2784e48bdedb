import { CHAT_WINDOW_MS } from '../core/message/chat-window.ts';
import { linksIn } from '../core/message/counted-links.ts';
import { renderTemplate } from '../core/template/template.ts';
import { momentWords } from '../core/words/instant.ts';
import type { Plan } from '../core/workflow/plan.ts';
import { messageScope, typedValues } from '../core/workflow/run-context.ts';
import type { PlanInput } from '../core/workflow/step-kind.ts';
import { chatNumbers, formToSend } from './chat-number.ts';
import type { ByConsent } from './may-write.ts';

export interface ChatParts extends ByConsent {
  /** These three are templates. */
  message: string;
  heading?: string;
  closing?: string;
  buttons?: readonly string[];
  /** A chat form it opens, by id; empty for none. */
  form?: string;
}

/** A free message in chat to the lead's number, ready to go. Whether the window is open is not asked here. */
export function planChat(settings: ChatParts, input: PlanInput): Plan {
  const numbers = chatNumbers(settings, input);
  if ('does' in numbers) return numbers;
  const { context, catalogue, now } = input;
  const scope = messageScope(context, now);
  let wrong: string | null = null;
  const fill = (source = '') => {
    const rendered = renderTemplate(source, scope);
    if (!rendered.ok) wrong ??= rendered.problem.text;
    return rendered.ok ? rendered.text.trim() : '';
  };
  const [heading, text, closing] = [fill(settings.heading), fill(settings.message), fill(settings.closing)];
  if (wrong !== null) return { does: 'ask', why: { code: 'template', text: wrong } };
  if (text === '') return { does: 'nothing', why: { code: 'empty', text: 'The message came out empty' } };
  const uncounted = linksIn(typedValues(context)).filter((link) => text.includes(link));
  const form = settings.form ? formToSend(catalogue, settings.form) : null;
  if (settings.form && !form)
    return { does: 'ask', why: { code: 'gone', text: 'The chat form of this step is not live', channel: 'chat' } };
  const until = input.context.lastChatAt === null ? null : input.context.lastChatAt + CHAT_WINDOW_MS;
  return {
    does: 'send',
    message: {
      ...{ channel: 'chat', audience: 'lead', ...numbers, text, countLinks: true },
      ...(uncounted.length > 0 ? { uncounted } : {}),
      ...(heading ? { heading } : {}),
      ...(closing ? { closing } : {}),
      ...(settings.buttons?.length ? { buttons: [...settings.buttons] } : {}),
      ...(form ? { form } : {}),
      ...(settings.purpose === 'marketing' ? { purpose: 'marketing' } : {}),
    },
    ...(until !== null && until > input.now
      ? { note: `The reply window is open until ${momentWords(until, context.business.timeZone, 'en-GB')}` }
      : {}),
  };
}

/** Whether somebody who last wrote then may be answered freely now; both in milliseconds. */
export const windowOpen = (lastChatAt: number | null, now: number): boolean =>
  lastChatAt !== null && now < lastChatAt + CHAT_WINDOW_MS;
