import type { Socket } from 'node:net';
import nodemailer, { type Transporter } from 'nodemailer';
import { type Answer, noAnswer, sortSmtpReply } from '../core/delivery/answer.ts';
import { OURS } from '../core/mail/ours.ts';
import type { EmailMessage } from '../core/workflow/plan.ts';
import { type AddressGuard, AddressRefused } from './address-guard.ts';
import type { TokenAsk } from './described/token-service.ts';
import { type Grants, NO_GRANTS, type Token } from './described/tokens.ts';
import { guardedSocket } from './guarded-socket.ts';
import { believing, certificateWords } from './http.ts';

export interface MailAccount {
  /** smtp://host:port or smtps://host:port. */
  address: string;
  user: string | null;
  /** Where somebody has allowed access instead of a password: the connection, and what its tokens are asked for with. */
  access?: { connectionId: string; ask: TokenAsk } | undefined;
  /** PEM; an authority of the business's own that is believed besides. */
  authority?: string | undefined;
  password: string | null;
  /** Where the mail server reports that it could not deliver the message of this key; the sender's address when not said. */
  returnPath?: (key: string) => string;
  /** Where answers to the message of this key go, when it says nothing itself. */
  replyTo?: (key: string) => string;
  /** Signs what is sent for this domain (DKIM, RFC 6376); `key` is a private key as PEM. */
  signing?: { domain: string; selector: string; key: string };
  /** For what is one of many: it has connections of its own, so that nothing else waits behind it. */
  forMany?: boolean;
}

/** A file that goes with an email. */
export interface AttachedFile {
  name: string;
  /** Media type (RFC 2046). */
  type: string;
  content: Buffer;
}

interface SmtpError {
  code?: string;
  responseCode?: number;
  response?: string;
  message?: string;
}

/** Nobody listens in on the machine itself. */
const LOOPBACK = /^(127(\.\d+){3}|\[::1\]|localhost)$/;

/** Hands emails to mail servers by SMTP (RFC 5321). One pool of connections per account. */
export class MailSender {
  /** By account; with a token, the one it was opened with. */
  private readonly pools = new Map<string, { pool: Transporter; token: string | undefined }>();

  constructor(
    private readonly guard: AddressGuard,
    private readonly grants: Grants = NO_GRANTS,
  ) {}

  /** The Message-ID is made from `key`, so that a mail sent again after a crash can be told to be the same one. */
  async send(
    account: MailAccount,
    message: EmailMessage,
    key: string,
    files: readonly AttachedFile[] = [],
  ): Promise<Answer> {
    let url: URL;
    try {
      url = new URL(account.address);
      this.guard.check(url);
    } catch (error) {
      return {
        kind: 'refused',
        code: 'bad-address',
        detail: `The mail server cannot be used: ${(error as Error).message}`,
      };
    }
    const access = await this.tokenFor(account);
    if (!access.ok) return { ...noAnswer('token', `The mail server cannot be signed in to. ${access.detail}`) };
    const replyTo = message.replyTo ?? (message.audience === 'lead' ? account.replyTo?.(key) : undefined);
    try {
      const sent = await this.poolFor(account, url, access.token).sendMail({
        messageId: messageId(key, message.from.address),
        from: { name: message.from.name, address: message.from.address },
        to: [{ name: message.toName, address: message.to }],
        ...(replyTo ? { replyTo } : {}),
        ...(message.cc?.length ? { cc: message.cc } : {}),
        // The envelope is our own: nothing that stands in a name or header can add a recipient.
        envelope: {
          from: account.returnPath?.(key) ?? message.from.address,
          to: [message.to, ...(message.cc ?? []), ...(message.bcc ?? [])],
        },
        headers: { ...message.headers, [OURS]: 'sent' },
        subject: message.subject,
        text: message.text,
        html: message.html,
        ...(files.length > 0
          ? { attachments: files.map(({ name, type, content }) => ({ filename: name, contentType: type, content })) }
          : {}),
        ...signedFor(account, message.from.address),
        disableFileAccess: true,
        disableUrlAccess: true,
      });
      return {
        kind: 'accepted',
        code: 'smtp-250',
        detail: 'Accepted by the mail server',
        remoteId: String(sent.messageId ?? ''),
      };
    } catch (error) {
      return sortError(error as SmtpError);
    }
  }

  /** Goes in and out again without a message: whether the server answers, and takes the user and password. */
  async lookIn(account: MailAccount): Promise<{ ok: true } | { ok: false; refused: boolean; detail: string }> {
    try {
      const url = new URL(account.address);
      this.guard.check(url);
      const access = await this.tokenFor(account);
      if (!access.ok) return { ok: false, refused: access.refused, detail: access.detail.replace(/\.$/, '') };
      await this.poolFor(account, url, access.token).verify();
      return { ok: true };
    } catch (error) {
      const { code, responseCode, response } = error as SmtpError;
      // EAUTH is what nodemailer calls a 5xx to AUTH (RFC 4954 §6).
      return {
        ok: false,
        refused: code === 'EAUTH' || (responseCode ?? 0) >= 500,
        detail: ((responseCode && response) || wordsOf(error as SmtpError)).replace(/\.$/, ''),
      };
    }
  }

  private async tokenFor({
    access,
  }: MailAccount): Promise<{ ok: true; token?: string } | Extract<Token, { ok: false }>> {
    return access ? this.grants.token(access.connectionId, access.ask) : { ok: true };
  }

  private poolFor(account: MailAccount, url: URL, token: string | undefined): Transporter {
    const key = JSON.stringify([account.address, account.user, account.password, account.forMany, account.authority]);
    const kept = this.pools.get(key);
    if (kept && kept.token === token) return kept.pool;
    // What was opened with a token that has been renewed finishes what it has in hand.
    kept?.pool.close();
    const secure = url.protocol === 'smtps:';
    const port = Number(url.port || (secure ? 465 : 587));
    const made = nodemailer.createTransport({
      pool: true,
      maxConnections: 5,
      maxMessages: 200,
      host: url.hostname,
      port,
      secure,
      // Judged by where the name leads at the moment of connecting, in whichever notation it is written.
      ...(this.guard.lookup ? { getSocket: socketFor(this.guard, url.hostname.replace(/^\[|\]$/g, ''), port) } : {}),
      ...(account.user
        ? {
            auth: token
              ? { type: 'OAuth2' as const, user: account.user, accessToken: token }
              : { user: account.user, pass: account.password ?? '' },
          }
        : {}),
      // A password goes out in no clear text, but on the machine itself (RFC 8314 §3.3).
      requireTLS: !secure && account.user !== null && !LOOPBACK.test(url.hostname),
      tls: believing(account.authority),
      connectionTimeout: 10_000,
      greetingTimeout: 10_000,
      socketTimeout: 20_000,
    });
    const pool = made as unknown as Transporter;
    this.pools.set(key, { pool, token });
    return pool;
  }

  close(): void {
    for (const { pool } of this.pools.values()) pool.close();
    this.pools.clear();
  }
}

/** A signature counts for the domain the mail says it is from (DMARC, RFC 7489 §3.1): for any other there is none. */
function signedFor({ signing }: MailAccount, from: string) {
  if (!signing || from.split('@').at(-1)?.toLowerCase() !== signing.domain) return {};
  return { dkim: { domainName: signing.domain, keySelector: signing.selector, privateKey: signing.key } };
}

/** RFC 5322 §3.6.4: unique left part, our domain on the right. */
export const messageId = (key: string, fromAddress: string): string =>
  `<${key}@${fromAddress.split('@').at(-1) || 'localhost'}>`;

/** A connection made past the guard, for nodemailer to speak SMTP on. */
const socketFor =
  (guard: AddressGuard, host: string, port: number) =>
  (_: unknown, callback: (error: Error | null, opened?: { connection: Socket }) => void): void => {
    guardedSocket(guard, { host, port, secure: false }).then(
      (connection) => callback(null, { connection }),
      (error: Error & { code?: string }) =>
        callback(
          error instanceof AddressRefused || error.code === 'ETIMEDOUT'
            ? error
            : Object.assign(error, { code: 'ECONNECTION' }),
        ),
    );
  };

/** What went wrong in words of ours: what answers at the address may be no mail server, and what it says is nobody's business. */
function wordsOf({ code, message }: SmtpError & { message?: string }): string {
  if (code === 'address-refused') return message ?? 'Its address is not a public one';
  if (code === 'EPROTOCOL') return 'What answers there is not a mail server';
  const certificate = certificateWords(message ?? '');
  if (certificate) return certificate.slice(0, -1);
  if (code === 'ETLS') return 'It offers no encryption (STARTTLS), and the password would go out in the clear';
  if (code === 'ETIMEDOUT') return 'It did not answer in time';
  return 'It does not answer';
}

function sortError(error: SmtpError): Answer {
  if (error.code === 'address-refused')
    return { kind: 'refused', code: 'address-refused', detail: `The mail server cannot be used: ${error.message}` };
  if (error.code === 'EPROTOCOL')
    return { kind: 'refused', code: 'not-a-mail-server', detail: 'What answers at this address is not a mail server.' };
  if (error.responseCode)
    return sortSmtpReply(
      error.responseCode,
      `The mail server said: ${(error.response ?? error.message ?? '').slice(0, 300)}`,
    );
  if (error.code === 'ETLS' || certificateWords(error.message ?? ''))
    return noAnswer('encryption', `The mail server cannot be sent to safely. ${wordsOf(error)}.`);
  if (error.code === 'EAUTH')
    return { kind: 'refused', code: 'sign-in', detail: 'The mail server does not accept the user name and password.' };
  if (error.code === 'EENVELOPE')
    return { kind: 'refused', code: 'address', detail: 'The mail server does not accept this address.' };
  if (error.code === 'ETIMEDOUT') return noAnswer('timeout', 'The mail server did not answer in time.');
  if (
    error.code === 'ESOCKET' ||
    error.code === 'ECONNECTION' ||
    error.code === 'ECONNREFUSED' ||
    error.code === 'EDNS'
  )
    return noAnswer('no-connection', 'The mail server does not answer.');
  return noAnswer(
    error.code?.toLowerCase() ?? 'failed',
    (error.message ?? 'The mail could not be handed over.').slice(0, 300),
  );
}
