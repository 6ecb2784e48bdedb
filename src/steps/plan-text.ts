import { asCounted, linksIn } from '../core/message/counted-links.ts';
import { mayNotText } from '../core/message/may-text.ts';
import { measureText } from '../core/message/text-segments.ts';
import { PHONE_PROBLEMS, readPhone } from '../core/people/phone.ts';
import { renderTemplate } from '../core/template/template.ts';
import type { Plan } from '../core/workflow/plan.ts';
import { messageScope, typedValues } from '../core/workflow/run-context.ts';
import type { PlanInput } from '../core/workflow/step-kind.ts';
import { type ByConsent, mayNotWrite } from './may-write.ts';

export interface TextParts extends ByConsent {
  /** A template. */
  message: string;
  /** One of the carrier's senders; empty for its first. */
  from?: string;
  countLinks?: boolean;
  draft?: boolean;
  /** What stands below the message as it is. */
  below?: string;
}

/** A text to the lead's phone, ready to go. */
export function planText(settings: TextParts, { context, catalogue, now }: PlanInput): Plan {
  const stopped = mayNotWrite(context, 'text', settings);
  if (stopped) return { does: 'nothing', why: stopped };
  if (!catalogue.text) return { does: 'ask', why: { code: 'no_sender', text: 'No text carrier is connected' } };
  if (context.person.phone.trim() === '')
    return { does: 'nothing', why: { code: 'no_address', text: 'No phone number was given', channel: 'text' } };
  const phone = readPhone(context.person.phone, context.business.country);
  if (!phone.ok)
    return {
      does: 'ask',
      why: {
        code: 'bad_address',
        text: `No text: ${PHONE_PROBLEMS[phone.problem]} (${context.person.phone})`,
        channel: 'text',
      },
    };
  const barred = mayNotText(phone, catalogue.textCountries);
  // Another country is for a person: allowed, it is taken up from there. The others nobody can allow.
  if (barred) return { does: barred.code === 'other_country' ? 'ask' : 'nothing', why: { ...barred, channel: 'text' } };
  const rendered = renderTemplate(settings.message, messageScope(context, now));
  if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
  const message = rendered.text.trim() + (settings.below ?? '');
  if (message === '') return { does: 'nothing', why: { code: 'empty', text: 'The message came out empty' } };
  const uncounted = linksIn(typedValues(context)).filter((link) => message.includes(link));
  const counted = settings.countLinks === true && catalogue.counting.links !== null;
  return {
    does: 'send',
    message: {
      channel: 'text',
      audience: 'lead',
      to: phone.e164,
      from: settings.from && catalogue.text.senders.includes(settings.from) ? settings.from : catalogue.text.from,
      text: message,
      parts: measureText(counted ? asCounted(message, catalogue.counting.links) : message).parts,
      ...(counted ? { countLinks: true } : {}),
      ...(uncounted.length > 0 ? { uncounted } : {}),
      ...(settings.purpose === 'marketing' ? { purpose: 'marketing' } : {}),
    },
    ...(settings.draft ? { draft: true } : {}),
  };
}
