/** What is known of a mail before its text is read. Header names in lower case, values unfolded; the first of each counts. */
export interface MailSigns {
  headers: Readonly<Record<string, string>>;
  /** The SMTP reverse-path; empty for the null one. */
  envelopeFrom: string | null;
  fromAddress: string;
  subject: string;
}

/**
 * Whether a machine answered rather than a person wrote: 'bounce' or 'auto-reply', or null. A mail that a web form's machine
 * made ("auto-generated") is what a mailbox source is for and counts as written.
 *
 * - multipart/report; report-type=delivery-status: RFC 3464 §2, RFC 6522 §3
 * - null reverse-path: RFC 5321 §4.5.5 (notifications use it)
 * - Auto-Submitted: auto-replied: RFC 3834 §5.1
 * - the rest is common practice, no source
 */
export function automaticMail({
  headers,
  envelopeFrom,
  fromAddress,
  subject,
}: MailSigns): 'bounce' | 'auto-reply' | null {
  const type = (headers['content-type'] ?? '').toLowerCase();
  const said = (headers['auto-submitted'] ?? '').toLowerCase().trim();
  if (/^multipart\/report\b/.test(type) && /report-type\s*=\s*"?delivery-status/.test(type)) return 'bounce';
  if (headers['x-failed-recipients'] !== undefined) return 'bounce';
  if (/^(mailer-daemon|postmaster|mail\.?delivery)/i.test(fromAddress.split('@')[0] ?? '')) return 'bounce';
  if (said.startsWith('auto-replied')) return 'auto-reply';
  const returnPath = headers['return-path'];
  if (envelopeFrom === '' || returnPath?.trim() === '<>') return BOUNCE_SUBJECT.test(subject) ? 'bounce' : 'auto-reply';
  if (/^(auto_reply|auto-reply)$/i.test((headers.precedence ?? '').trim())) return 'auto-reply';
  for (const name of ['x-autoreply', 'x-autorespond', 'x-autoresponder', 'x-autoresponse'])
    if (headers[name] !== undefined && !/^(no|false)$/i.test(headers[name].trim())) return 'auto-reply';
  if (BOUNCE_SUBJECT.test(subject)) return 'bounce';
  if (REPLY_SUBJECT.test(subject)) return 'auto-reply';
  return null;
}

const BOUNCE_SUBJECT =
  /^(undeliver(ed|able)( mail)?|returned mail|mail delivery (failed|failure|system|subsystem)|delivery (status notification|failure|has failed)|failure notice|message (not delivered|undeliverable))/i;
const REPLY_SUBJECT =
  /^(out of (the )?office|automatic(ally generated)? reply|auto(matic)?[- ]?(reply|response)\b|automatische antwort|abwesenheit(snotiz)?|absence du bureau|réponse automatique|risposta automatica|respuesta automática)/i;
