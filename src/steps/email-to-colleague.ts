import { emailHtml, headerText } from '../core/template/email-html.ts';
import type { EmailMessage } from '../core/workflow/plan.ts';
import type { Catalogue } from '../core/workflow/step-kind.ts';

/** What a colleague is told by email, from the business's own sender. */
export const emailToColleague = (
  sender: NonNullable<Catalogue['email']>,
  who: { name: string; email: string },
  subject: string,
  text: string,
): EmailMessage => ({
  channel: 'email',
  audience: 'team',
  to: who.email,
  toName: who.name,
  from: { name: sender.fromName, address: sender.fromAddress },
  replyTo: null,
  subject: headerText(subject),
  text,
  html: emailHtml(text),
});
