import { SMTPServer, type SMTPServerDataStream, type SMTPServerSession } from 'smtp-server';
import { bouncedDelivery } from '../engine/inbound/bounces.ts';
import { repliedDelivery } from '../engine/inbound/email-replies.ts';
import { MOST_MAIL_BYTES } from '../engine/intake/intake.ts';
import type { Runtime } from '../runtime.ts';
import { sourceKinds } from '../sources/registry.ts';

/** Most recipients of one mail that are ours: a form or a bounce has one. */
const MOST_RECIPIENTS = 10;

/** An answer of ours in the words of SMTP (RFC 5321 §4.2, RFC 3463). */
class SmtpAnswer extends Error {
  constructor(
    readonly responseCode: number,
    message: string,
  ) {
    super(message);
  }
}

const localPart = (address: string, domain: string): string | null => {
  const at = address.lastIndexOf('@');
  return at > 0 && address.slice(at + 1).toLowerCase() === domain ? address.slice(0, at).toLowerCase() : null;
};

/**
 * Receives mail for mailbox sources, mail of ours that came back, and what people answer to ours. A mail is answered 250 only once it is
 * stored: a sender that hears anything else keeps it and comes again. Nothing is ever relayed: only the addresses of mailbox sources are known.
 */
export function mailListener(runtime: Runtime): SMTPServer {
  const { mailDomain } = runtime.settings;
  const sourceOf = async (address: string) => {
    const key = localPart(address, mailDomain);
    const source = key === null ? null : await runtime.settingsCache.sourceByKey(key);
    return source && sourceKinds.get(source.kind)?.comesBy === 'mail' ? source : null;
  };
  /** The mail of ours that this address belongs to: one that came back, or one that is answered. */
  const ours = (address: string, read: (local: string) => string | null) => {
    const local = localPart(address, mailDomain);
    return local === null ? null : read(local);
  };
  const server = new SMTPServer({
    name: mailDomain,
    banner: 'Pine Bell',
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    logger: false,
    size: MOST_MAIL_BYTES,
    maxClients: 100,
    socketTimeout: 60_000,
    onRcptTo(address, session, callback) {
      if (session.envelope.rcptTo.length >= MOST_RECIPIENTS)
        return callback(new SmtpAnswer(452, '4.5.3 Too many recipients'));
      const delivery = ours(address.address, bouncedDelivery) ?? ours(address.address, repliedDelivery);
      if (delivery !== null) {
        runtime.bounces.knows(delivery).then(
          (known) => callback(known ? null : new SmtpAnswer(550, '5.1.1 No mail of ours has this address')),
          () => callback(new SmtpAnswer(451, '4.3.0 Cannot look just now, come again')),
        );
        return;
      }
      sourceOf(address.address).then(
        (source) => callback(source ? null : new SmtpAnswer(550, '5.1.1 No source has this address')),
        () => callback(new SmtpAnswer(451, '4.3.0 Cannot look just now, come again')),
      );
    },
    onData(stream, session, callback) {
      // The envelope is emptied once the callback has been called.
      const { mailFrom, rcptTo } = session.envelope;
      const to = rcptTo.map((address) => address.address);
      takeMail(stream, mailFrom ? mailFrom.address : '', to, session).then(
        () => callback(null, '2.6.0 Stored' as never),
        (error: Error) =>
          callback(error instanceof SmtpAnswer ? error : new SmtpAnswer(451, '4.3.0 Not stored, come again')),
      );
    },
  });
  async function takeMail(stream: SMTPServerDataStream, from: string, to: string[], session: SMTPServerSession) {
    const chunks: Buffer[] = [];
    for await (const chunk of stream as AsyncIterable<Buffer>) if (!stream.sizeExceeded) chunks.push(chunk);
    if (stream.sizeExceeded) throw new SmtpAnswer(552, '5.3.4 A mail may have 12 MiB at most');
    const body = Buffer.concat(chunks);
    for (const address of to) {
      const bounced = ours(address, bouncedDelivery);
      if (bounced !== null) await runtime.bounces.take(bounced, body, from);
      const replied = ours(address, repliedDelivery);
      if (replied !== null) await runtime.replies.take(replied, body, from);
      const source = await sourceOf(address);
      if (!source) continue;
      const headers = { 'envelope-from': from, 'envelope-to': address, 'sender-host': session.clientHostname };
      const reply = await runtime.intake.take(source, { headers, contentType: 'message/rfc822', body });
      if (reply.status === 429) throw new SmtpAnswer(450, '4.7.1 Too many mails at once, come again in a minute');
    }
  }
  return server;
}
