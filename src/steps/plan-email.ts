import { linksIn } from '../core/message/counted-links.ts';
import { EMAIL_PROBLEMS, readEmail } from '../core/message/email-address.ts';
import { emailHtml, headerText, withPreheader } from '../core/template/email-html.ts';
import { renderTemplate } from '../core/template/template.ts';
import type { Attachment, Plan } from '../core/workflow/plan.ts';
import { messageScope, readingScope, typedValues } from '../core/workflow/run-context.ts';
import type { PlanInput } from '../core/workflow/step-kind.ts';
import { type ByConsent, mayNotWrite } from './may-write.ts';

/** What an email is made of; all but the consent are templates. Lists of addresses have commas between them. */
export interface EmailParts extends ByConsent {
  subject: string;
  message: string;
  fromName?: string;
  replyTo?: string;
  cc?: string;
  bcc?: string;
  preheader?: string;
  /** An email laid out beforehand, by id; empty for the message as it is. */
  template?: string;
  attachments?: readonly Attachment[];
  countLinks?: boolean;
  /** What stands in its fields is ours: news of a feed, and nobody's answers. */
  ownFields?: boolean;
  countOpens?: boolean;
  draft?: boolean;
}

/** An email to the lead, ready to go. */
export function planEmail(settings: EmailParts, { context, catalogue, now }: PlanInput): Plan {
  const stopped = mayNotWrite(context, 'email', settings);
  if (stopped) return { does: 'nothing', why: stopped };
  if (!catalogue.email) return { does: 'ask', why: { code: 'no_sender', text: 'No mail server is connected' } };
  const { person } = context;
  if (person.email.trim() === '')
    return { does: 'nothing', why: { code: 'no_address', text: 'No email address was given', channel: 'email' } };
  const address = readEmail(person.email);
  if (!address.ok)
    return {
      does: 'ask',
      why: { code: 'bad_address', text: `No email: ${EMAIL_PROBLEMS[address.problem]}`, channel: 'email' },
    };
  const scope = emailScope(settings.ownFields, context, now);
  const subject = renderTemplate(settings.subject, scope);
  if (!subject.ok) return { does: 'ask', why: { code: 'template', text: subject.problem.text } };
  let wrong: string | null = null;
  const fill = (source = '') => {
    const rendered = renderTemplate(source, scope);
    if (!rendered.ok) wrong ??= rendered.problem.text;
    return rendered.ok ? rendered.text.trim() : '';
  };
  const addresses = (source = '') =>
    fill(source)
      .split(/[,;]/)
      .map((one) => one.trim())
      .filter(Boolean)
      .flatMap((one) => {
        const read = readEmail(one);
        if (!read.ok) wrong ??= `“${one.slice(0, 80)}” is not an email address`;
        return read.ok ? [read.address] : [];
      });
  const [replyTo] = addresses(settings.replyTo);
  const [cc, bcc] = [addresses(settings.cc), addresses(settings.bcc)];
  const fromName = headerText(fill(settings.fromName)) || catalogue.email.fromName;
  const preheader = headerText(fill(settings.preheader));
  const attachments = (settings.attachments ?? []).map((attachment) =>
    attachment.from === 'address' ? { ...attachment, url: fill(attachment.url) } : attachment,
  );
  if (wrong !== null)
    return { does: 'ask', why: { code: 'bad_address', text: `No email: ${wrong}`, channel: 'email' } };
  const body = emailBody(settings, preheader, context, catalogue, now);
  if ('does' in body) return body;
  const uncounted = settings.ownFields ? [] : linksIn(typedValues(context)).filter((link) => body.text.includes(link));
  return {
    does: 'send',
    message: {
      channel: 'email',
      audience: 'lead',
      to: address.address,
      toName: headerText(`${person.first_name} ${person.last_name}`),
      from: { name: fromName, address: catalogue.email.fromAddress },
      replyTo: replyTo ?? null,
      ...(cc.length > 0 ? { cc } : {}),
      ...(bcc.length > 0 ? { bcc } : {}),
      subject: headerText(subject.text),
      ...body,
      ...(attachments.length > 0 ? { attachments } : {}),
      ...(uncounted.length > 0 ? { uncounted } : {}),
      ...(settings.countLinks && catalogue.counting.links !== null ? { countLinks: true } : {}),
      ...(settings.countOpens && catalogue.counting.opens ? { countOpens: true } : {}),
      ...(settings.purpose === 'marketing' ? { purpose: 'marketing' } : {}),
    },
    ...(settings.draft ? { draft: true } : {}),
  };
}

/** Longest value in an email, in UTF-16 code units: it costs nothing by its length, but nobody needs a book in a field. */
const LONGEST_VALUE = 5000;

/** What is ours, as the words of a feed, is never cut. */
const emailScope = (ownFields: boolean | undefined, context: PlanInput['context'], now: number) =>
  ownFields ? readingScope(context, now) : messageScope(context, now, LONGEST_VALUE);

/** The two parts of an email: of its template, or of the message as it was written. */
function emailBody(
  { template, message, ownFields }: EmailParts,
  preheader: string,
  context: PlanInput['context'],
  catalogue: PlanInput['catalogue'],
  now: number,
): { text: string; html: string; laidOut?: boolean } | Plan {
  const scope = emailScope(ownFields, context, now);
  if (!template) {
    const text = renderTemplate(message, scope);
    if (!text.ok) return { does: 'ask', why: { code: 'template', text: text.problem.text } };
    if (text.text.trim() === '') return { does: 'nothing', why: { code: 'empty', text: 'The message came out empty' } };
    return { text: text.text, html: emailHtml(text.text, preheader) };
  }
  const laidOut = catalogue.emailTemplates.find((emailTemplate) => emailTemplate.id === template);
  if (!laidOut) return { does: 'ask', why: { code: 'gone', text: 'The template of this email is no longer there' } };
  const text = renderTemplate(laidOut.text, scope);
  const html = renderTemplate(laidOut.html, scope, 'html');
  if (!text.ok) return { does: 'ask', why: { code: 'template', text: text.problem.text } };
  if (!html.ok) return { does: 'ask', why: { code: 'template', text: html.problem.text } };
  return { text: text.text, html: withPreheader(html.text, preheader), laidOut: true };
}
