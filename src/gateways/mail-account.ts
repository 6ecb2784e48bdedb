import { ImapFlow, type SearchObject } from 'imapflow';
import { type AddressGuard, AddressRefused } from './address-guard.ts';
import { believing, certificateWords } from './http.ts';

/** A mailbox somebody has already, reached by IMAP (RFC 9051). */
export interface MailAccount {
  /** imaps://host:port, or imap://host:port with STARTTLS. */
  address: string;
  user: string;
  password: string;
  /** A token instead of the password, where somebody has allowed access (RFC 7628). */
  token?: string | undefined;
  /** PEM; an authority of the business's own that is believed besides. */
  authority?: string | undefined;
}
export type MailAnswer<T> = { ok: true; value: T } | { ok: false; refused: boolean; problem: string };

export interface MailFolder {
  path: string;
  /** How many mails are in it. */
  mails: number;
}
/** Which mails of a folder are meant: each empty for any, else what must stand in it (IMAP SEARCH: as a part, whatever the case). */
export interface MailWanted {
  folder: string;
  sender: string;
  subject: string;
  text: string;
}
/** How far a folder has been read. Its mails are numbered upwards, until the folder is made anew: then `validity` is another (RFC 9051 §2.3.1.1). */
export interface MailPlace {
  validity: string;
  uid: number;
  /** The day of that look, in UTC: "2026-12-02". */
  day: string;
}
export interface FoundMail {
  uid: number;
  bytes: Buffer;
}

const CONNECT_MS = 10_000;
const QUIET_MS = 20_000;
/** A watched mailbox is asked anew so often: RFC 2177 has servers that end it after half an hour. */
const IDLE_MS = 10 * 60_000;
/** Nobody listens in on the machine itself. */
const LOOPBACK = /^(127(\.\d+){3}|::1|localhost)$/;
const DAY_MS = 86_400_000;

/** Reads mailboxes elsewhere. Nothing is changed there unless that is asked for: folders are opened to be read only. */
export class MailAccounts {
  constructor(private readonly guard: AddressGuard) {}

  /** The folders that hold mails. */
  folders(account: MailAccount): Promise<MailAnswer<MailFolder[]>> {
    return this.inside(account, async (client) => {
      const all = await client.list({ statusQuery: { messages: true } });
      return all
        .filter(({ flags }) => !flags.has('\\Noselect') && !flags.has('\\NonExistent'))
        .map(({ path, status }) => ({ path, mails: status?.messages ?? 0 }));
    });
  }

  /** Where a folder ends now: what comes after it is new. */
  end(account: MailAccount, folder: string, now: number): Promise<MailAnswer<MailPlace>> {
    return this.inside(account, async (client) => {
      const opened = await client.mailboxOpen(folder, { readOnly: true });
      return { validity: String(opened.uidValidity), uid: opened.uidNext - 1, day: dayOf(now) };
    });
  }

  /**
   * The next mails behind a place that are wanted, in the order of their numbers, `most` of them and of each so many bytes. A folder that was made anew is
   * looked at from the day before the last look on: what came in before is known by its Message-ID.
   */
  mails(
    account: MailAccount,
    wanted: MailWanted,
    after: MailPlace | null,
    { most, mostBytes, now }: { most: number; mostBytes: number; now: number },
  ): Promise<MailAnswer<{ mails: FoundMail[]; place: MailPlace; more: boolean }>> {
    return this.inside(account, async (client) => {
      const opened = await client.mailboxOpen(wanted.folder, { readOnly: true });
      const validity = String(opened.uidValidity);
      const same = after?.validity === validity ? after.uid : 0;
      const query: SearchObject = {
        uid: `${same + 1}:*`,
        ...(after && after.validity !== validity ? { since: new Date(Date.parse(after.day) - DAY_MS) } : {}),
        ...(wanted.sender ? { from: wanted.sender } : {}),
        ...(wanted.subject ? { subject: wanted.subject } : {}),
        ...(wanted.text ? { body: wanted.text } : {}),
      };
      const found = opened.exists === 0 ? [] : (await client.search(query, { uid: true })) || [];
      // "5:*" has the last one in it, whatever its number.
      const fresh = found.filter((uid) => uid > same).sort((a, b) => a - b);
      const uids = fresh.slice(0, most);
      const mails: FoundMail[] = [];
      for (const uid of uids) {
        const one = await client.fetchOne(String(uid), { source: { start: 0, maxLength: mostBytes } }, { uid: true });
        // One that was thrown away meanwhile has nothing to say.
        const bytes = one ? one.source : undefined;
        if (bytes) mails.push({ uid, bytes });
      }
      const more = fresh.length > uids.length;
      const last = uids.at(-1) ?? 0;
      const uid = more ? last : Math.max(last, opened.uidNext - 1, same);
      return { mails, place: { validity, uid, day: dayOf(now) }, more };
    });
  }

  /** The newest mail that is wanted; null where there is none. */
  newest(account: MailAccount, wanted: MailWanted, mostBytes: number): Promise<MailAnswer<FoundMail | null>> {
    return this.inside(account, async (client) => {
      const opened = await client.mailboxOpen(wanted.folder, { readOnly: true });
      if (opened.exists === 0) return null;
      const { sender, subject, text } = wanted;
      const query: SearchObject = {
        ...(sender ? { from: sender } : {}),
        ...(subject ? { subject } : {}),
        ...(text ? { body: text } : {}),
      };
      const all = (await client.search(Object.keys(query).length > 0 ? query : { all: true }, { uid: true })) || [];
      const uid = all.length === 0 ? null : Math.max(...all);
      if (uid === null) return null;
      const one = await client.fetchOne(String(uid), { source: { start: 0, maxLength: mostBytes } }, { uid: true });
      const bytes = one ? one.source : undefined;
      return bytes ? { uid, bytes } : null;
    });
  }

  /** Marks mails as read, or moves them to another folder, which is made where there is none. Done a second time, it changes nothing. */
  tidy(
    account: MailAccount,
    folder: string,
    validity: string,
    uids: readonly number[],
    way: { read: true } | { moveTo: string },
  ): Promise<MailAnswer<void>> {
    return this.inside(account, async (client) => {
      const opened = await client.mailboxOpen(folder, { readOnly: false });
      if (uids.length === 0 || String(opened.uidValidity) !== validity) return;
      const range = uids.join(',');
      if ('read' in way) await client.messageFlagsAdd(range, ['\\Seen'], { uid: true });
      else {
        await client.mailboxCreate(way.moveTo).catch(() => {});
        await client.messageMove(range, way.moveTo, { uid: true });
      }
    });
  }

  /**
   * Tells when mails come into a folder, as the server says so (IDLE, RFC 2177).
   *
   * @param told something has come in
   * @param gone the connection is no more; nothing is told afterwards
   * @returns ends it
   */
  async watch(account: MailAccount, folder: string, told: () => void, gone: () => void): Promise<() => void> {
    const client = this.client(account, IDLE_MS);
    let over = false;
    const end = () => {
      if (over) return;
      over = true;
      client.close();
      gone();
    };
    client.on('exists', told);
    client.on('close', end);
    client.on('error', end);
    try {
      await client.connect();
      await client.mailboxOpen(folder, { readOnly: true });
    } catch (error) {
      end();
      throw error;
    }
    return end;
  }

  private client(account: MailAccount, maxIdleTime?: number): ImapFlow {
    const url = new URL(account.address);
    this.guard.check(url);
    const secure = url.protocol === 'imaps:';
    const host = url.hostname.replace(/^\[|\]$/g, '');
    return new ImapFlow({
      ...{ host, port: Number(url.port || (secure ? 993 : 143)), secure },
      // A password goes out in no clear text, but on the machine itself (RFC 8314 §3.2).
      ...(secure || LOOPBACK.test(host) ? {} : { doSTARTTLS: true }),
      auth: account.token
        ? { user: account.user, accessToken: account.token }
        : { user: account.user, pass: account.password },
      // Judged by where the name leads at the moment of connecting.
      tls: { ...(this.guard.lookup ? { lookup: this.guard.lookup } : {}), ...believing(account.authority) } as object,
      logger: false,
      connectionTimeout: CONNECT_MS,
      greetingTimeout: CONNECT_MS,
      ...(maxIdleTime ? { maxIdleTime } : { disableAutoIdle: true, socketTimeout: QUIET_MS }),
    });
  }

  private async inside<T>(account: MailAccount, work: (client: ImapFlow) => Promise<T>): Promise<MailAnswer<T>> {
    let client: ImapFlow | null = null;
    try {
      client = this.client(account);
      let broke: Error | null = null;
      client.on('error', (error: Error) => {
        broke ??= error;
      });
      await client.connect();
      const value = await work(client);
      if (broke) throw broke;
      await client.logout().catch(() => {});
      return { ok: true, value };
    } catch (error) {
      client?.close();
      return { ok: false, ...wordsOf(error) };
    }
  }
}

const dayOf = (now: number) => new Date(now).toISOString().slice(0, 10);

function wordsOf(error: unknown): { refused: boolean; problem: string } {
  const {
    code = '',
    message = String(error),
    authenticationFailed,
    tlsFailed,
    mailboxMissing,
    responseText,
  } = error as {
    code?: string;
    message?: string;
    authenticationFailed?: boolean;
    tlsFailed?: boolean;
    mailboxMissing?: boolean;
    responseText?: string;
  };
  if (error instanceof AddressRefused) return { refused: true, problem: `The mailbox is not asked: ${message}.` };
  if (code === 'ERR_INVALID_URL') return { refused: true, problem: 'Write the address as imaps://mail.example:993.' };
  if (authenticationFailed)
    return { refused: true, problem: 'The mail server does not accept this user and password.' };
  if (mailboxMissing) return { refused: true, problem: 'There is no folder of this name any more. Choose another.' };
  const certificate = certificateWords(`${code} ${message}`);
  if (certificate) return { refused: false, problem: certificate.replace('Its', 'The mail server’s') };
  if (tlsFailed)
    return {
      refused: true,
      problem: 'The mail server offers no encryption (STARTTLS), and the password would go out in the clear.',
    };
  if (
    ['ECONNREFUSED', 'ENOTFOUND', 'EAI_AGAIN', 'ECONNRESET', 'ETIMEDOUT', 'EHOSTUNREACH', 'NoConnection'].includes(
      code,
    ) ||
    /TIMEOUT/i.test(code)
  )
    return { refused: false, problem: 'The mail server does not answer.' };
  return { refused: false, problem: `The mail server says: ${(responseText ?? message).slice(0, 200)}.` };
}
