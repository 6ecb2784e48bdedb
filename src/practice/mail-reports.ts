import { randomUUID } from 'node:crypto';
import { createTransport } from 'nodemailer';
import type { Mail } from './world-state.ts';

/** What a mail server or a mailbox reports about a mail later. */
/** `riddle`: a report in words nobody can make anything of. */
export type MailReport = 'no-such-user' | 'full' | 'spam' | 'riddle';

const STATUS = {
  'no-such-user': { status: '5.1.1', diagnostic: '550 5.1.1 No such user here' },
  full: { status: '4.2.2', diagnostic: '452 4.2.2 The mailbox is full' },
} as const;

/** A report as RFC 3464 has it, or as RFC 5965 for a complaint; made by hand, so that each side checks the other. */
export function reportMail(mail: Mail, report: MailReport): string {
  if (report === 'riddle')
    return [
      'From: Post Room <post-room@mail.practice.example>',
      `To: <${mail.returnPath}>`,
      'Subject: About your letter',
      `Message-ID: <${randomUUID()}@mail.practice.example>`,
      `Date: ${new Date().toUTCString()}`,
      '',
      'The pigeon came home with it still in its beak. We thought you should know.',
      '',
    ].join('\r\n');
  const boundary = `report-${randomUUID()}`;
  const id = mail.headers.find((header) => header.name === 'message-id')?.value ?? '';
  const original = mail.headers.map((header) => `${header.name}: ${header.value.replace(/\r?\n/g, ' ')}`).join('\r\n');
  const [type, words, fields] =
    report === 'spam'
      ? [
          'feedback-report',
          'This is a report of abuse from the reader of this mail.',
          `Feedback-Type: abuse\r\nUser-Agent: PracticeDesk/1\r\nVersion: 1\r\nOriginal-Rcpt-To: <${mail.mailbox}>`,
        ]
      : [
          'delivery-status',
          `Your mail to ${mail.mailbox} could not be delivered: ${STATUS[report].diagnostic}`,
          `Reporting-MTA: dns; mail.practice.example\r\n\r\nFinal-Recipient: rfc822; ${mail.mailbox}\r\nAction: ${report === 'full' ? 'delayed' : 'failed'}\r\nStatus: ${STATUS[report].status}\r\nDiagnostic-Code: smtp; ${STATUS[report].diagnostic}`,
        ];
  return [
    'From: Mail Delivery System <MAILER-DAEMON@mail.practice.example>',
    `To: <${mail.returnPath}>`,
    `Subject: ${report === 'spam' ? 'Abuse report' : 'Undelivered Mail Returned to Sender'}`,
    `Message-ID: <${randomUUID()}@mail.practice.example>`,
    `In-Reply-To: ${id}`,
    `Date: ${new Date().toUTCString()}`,
    'MIME-Version: 1.0',
    `Content-Type: multipart/report; report-type=${type}; boundary="${boundary}"`,
    '',
    `--${boundary}`,
    'Content-Type: text/plain; charset=utf-8',
    '',
    words,
    '',
    `--${boundary}`,
    `Content-Type: message/${type}`,
    '',
    fields,
    '',
    `--${boundary}`,
    'Content-Type: text/rfc822-headers',
    '',
    original,
    '',
    `--${boundary}--`,
    '',
  ].join('\r\n');
}

/** Sends it to where the mail came from, with the null reverse-path (RFC 5321 §4.5.5). */
export async function sendReport(listener: string, mail: Mail, report: MailReport): Promise<string> {
  if (!mail.returnPath) return 'This mail has no address to report to.';
  const url = new URL(listener);
  const transport = createTransport({ host: url.hostname, port: Number(url.port), secure: false, ignoreTLS: true });
  try {
    const sent = await transport.sendMail({
      envelope: { from: '', to: [mail.returnPath] },
      raw: reportMail(mail, report),
    });
    return sent.response;
  } catch (error) {
    return (error as Error).message;
  } finally {
    transport.close();
  }
}

/** The button of a mail program (RFC 8058). Gives what was answered. */
export async function pressUnsubscribe(mail: Mail): Promise<string> {
  const header = (name: string) => mail.headers.find((header) => header.name === name)?.value ?? '';
  const address = /<(https?:[^>]+)>/.exec(header('list-unsubscribe').replace(/\s+/g, ''))?.[1];
  if (!address || !/One-Click/.test(header('list-unsubscribe-post'))) return 'This mail has no such button.';
  const answer = await fetch(address, {
    method: 'POST',
    headers: { 'content-type': 'application/x-www-form-urlencoded' },
    body: 'List-Unsubscribe=One-Click',
  });
  return answer.ok ? 'Done' : `Answered ${answer.status}`;
}
