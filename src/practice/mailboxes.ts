import { randomUUID } from 'node:crypto';
import { simpleParser } from 'mailparser';
import { createTransport } from 'nodemailer';
import { SMTPServer } from 'smtp-server';
import type { World } from './world.ts';
import type { Mail } from './world-state.ts';

class SmtpRefusal extends Error {
  constructor(
    readonly responseCode: number,
    message: string,
  ) {
    super(message);
  }
}

/** A real SMTP server with a mailbox for every address. */
export function mailServer(world: World): SMTPServer {
  const greylisted = new Map<string, number>();
  return new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    logger: false,
    size: 10_000_000,
    onConnect(_session, callback) {
      callback(
        world.state.trouble.mailDown
          ? new SmtpRefusal(421, '4.3.2 The practice mail server is down for a while')
          : null,
      );
    },
    onRcptTo(address, session, callback) {
      const { trouble } = world.state;
      const to = address.address.toLowerCase();
      if (trouble.mailFull.includes(to)) return callback(new SmtpRefusal(552, '5.2.2 Mailbox full'));
      const sender = session.envelope.mailFrom;
      const key = `${sender ? sender.address : ''}>${to}`;
      const since = greylisted.get(key);
      if (trouble.mailGreylists && (since === undefined || Date.now() - since < 5000)) {
        if (since === undefined) greylisted.set(key, Date.now());
        return callback(new SmtpRefusal(451, '4.7.1 Greylisted, come back in a moment'));
      }
      callback();
    },
    onData(stream, session, callback) {
      // Before the callback: the session's envelope is emptied after it.
      const returnPath = session.envelope.mailFrom ? session.envelope.mailFrom.address : '';
      const mailboxes = session.envelope.rcptTo.map((to) => to.address.toLowerCase());
      simpleParser(stream)
        .then((mail) => {
          for (const mailbox of mailboxes)
            world.state.mails.push({
              id: randomUUID(),
              at: new Date().toISOString(),
              mailbox,
              returnPath,
              from: mail.from?.text ?? '',
              subject: mail.subject ?? '',
              text: mail.text ?? '',
              html: typeof mail.html === 'string' ? mail.html : '',
              attachments: mail.attachments.map(({ filename = '', contentType, size }) => ({
                name: filename,
                type: contentType,
                bytes: size,
              })),
              headers: mail.headerLines.map((line) => ({
                name: line.key,
                value: line.line.slice(line.line.indexOf(':') + 1).trim(),
              })),
            });
          world.changed();
          callback();
        })
        .catch((error: Error) => callback(error));
    },
  });
}

/** Somebody writes a mail to Pine Bell. Gives what its mail listener answered. */
export async function writeMail(
  listener: string,
  mail: { from: string; to: string; subject: string; text: string; automatic?: boolean; inReplyTo?: string },
): Promise<string> {
  const url = new URL(listener);
  const transport = createTransport({ host: url.hostname, port: Number(url.port), secure: false, ignoreTLS: true });
  try {
    const sent = await transport.sendMail({
      from: mail.from,
      to: mail.to,
      subject: mail.subject,
      text: mail.text,
      ...(mail.inReplyTo ? { inReplyTo: mail.inReplyTo, references: mail.inReplyTo } : {}),
      headers: mail.automatic ? { 'Auto-Submitted': 'auto-replied' } : {},
    });
    return sent.response;
  } catch (error) {
    return (error as Error).message;
  } finally {
    transport.close();
  }
}

/** The owner of a mailbox answers a mail, with the mail quoted below as mail programs do. */
export function replyTo(listener: string, mail: Mail, text: string, automatic: boolean): Promise<string> {
  const header = (name: string) => mail.headers.find((header) => header.name === name)?.value ?? '';
  const quoted = mail.text
    .split('\n')
    .map((line) => `> ${line}`)
    .join('\n');
  return writeMail(listener, {
    from: mail.mailbox,
    to: header('reply-to') || mail.from,
    subject: `${automatic ? 'Out of office: ' : 'Re: '}${mail.subject}`,
    text: `${text}\n\nOn ${new Date(mail.at).toUTCString()}, ${mail.from} wrote:\n${quoted}\n`,
    automatic,
    inReplyTo: header('message-id'),
  });
}
