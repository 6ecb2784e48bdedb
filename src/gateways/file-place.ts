import { createHash } from 'node:crypto';
import { decodeXml, xmlDanger } from '../core/xml/xml.ts';
import { BrokenXml, ownText, readXmlTree, type XmlElement } from '../core/xml/xml-tree.ts';
import type { HttpCaller } from './http.ts';

/** A place files lie at: a folder on a web server, one reached by WebDAV (RFC 4918), or by SFTP. */
export interface FilePlaceAccount {
  /** https://files.example/shared/, or sftp://files.example/shared/ */
  address: string;
  /** Empty where it wants none. */
  user: string;
  /** By SFTP a private key may stand instead of it. */
  password: string;
  /** By SFTP: the fingerprint of the server's key, as ssh-keygen shows it. Nothing is sent to any other. */
  hostKey?: string | undefined;
  /** PEM; an authority of the business's own that is believed besides. */
  authority?: string | undefined;
}
export type FileAnswer<T> =
  | { ok: true; value: T }
  /** `missing`: there is nothing at this path. */
  | { ok: false; refused: boolean; problem: string; missing?: true };

/** By what a file is known to be the same as at the last look (RFC 9110 §8.8). */
export interface FileMark {
  etag: string | null;
  modified: string | null;
  /** SHA-256 of the file, hexadecimal. */
  hash: string;
}
export interface PlacedFile {
  /** Below the place, decoded: "camp/entries.csv". */
  path: string;
  folder: boolean;
}

const MOST_LISTED = 4 * 1024 * 1024;
const ASKED =
  '<?xml version="1.0" encoding="utf-8"?><propfind xmlns="DAV:"><prop><resourcetype/><getlastmodified/></prop></propfind>';

/** One way to reach files: what lies in a folder, and one of them unless it is the same as at the last look. */
export interface PlacesReached {
  list(account: FilePlaceAccount, folder: string): Promise<FileAnswer<PlacedFile[]>>;
  fetch(
    account: FilePlaceAccount,
    path: string,
    known: FileMark | null,
    mostBytes: number,
  ): Promise<FileAnswer<{ mark: FileMark; bytes: Buffer | null }>>;
  /** Puts a file there in place of the one that was fetched, `was`; null where there was none. "changed" when it is another by now: nothing is written over. */
  put(account: FilePlaceAccount, path: string, bytes: Buffer, was: FileMark | null): Promise<FileAnswer<FilePut>>;
}
export type FilePut = 'written' | 'changed';

/** Fetches files that lie elsewhere, and lists them where the server can. */
export class FilePlaces implements PlacesReached {
  constructor(
    private readonly http: Pick<HttpCaller, 'call'>,
    private readonly sftp: PlacesReached,
  ) {}

  /** What lies in a folder of the place. `folder` is empty for the place itself. */
  async list(account: FilePlaceAccount, folder: string): Promise<FileAnswer<PlacedFile[]>> {
    if (bySftp(account)) return this.sftp.list(account, folder);
    const at = whereIs(account.address, folder === '' ? '' : `${folder}/`);
    if (!at) return NO_ADDRESS;
    const outcome = await this.http.call(
      'PROPFIND',
      at.href,
      { ...signedIn(account), depth: '1', 'content-type': 'application/xml; charset=utf-8' },
      ASKED,
      MOST_LISTED,
      { authority: account.authority },
    );
    if (!outcome.ok) return { ok: false, refused: outcome.code === 'address-refused', problem: outcome.detail };
    const { status, bytes } = outcome.reply;
    if ([400, 404, 405, 501].includes(status) && folder === '')
      return { ok: false, refused: false, problem: 'The server does not list its files. Write the path of the file.' };
    if (status !== 207) return refusal(status, outcome.reply.headers.location);
    const root = whereIs(account.address, '')!;
    const files = readListing(bytes).flatMap(({ href, folder: isFolder }) => {
      const found = URL.canParse(href, at) ? new URL(href, at) : null;
      if (found?.origin !== root.origin || !found.pathname.startsWith(root.pathname)) return [];
      const path = decoded(found.pathname.slice(root.pathname.length).replace(/\/$/, ''));
      return path === null || path === '' || path === folder ? [] : [{ path, folder: isFolder }];
    });
    return { ok: true, value: files.sort((a, b) => (a.path < b.path ? -1 : 1)) };
  }

  /** A file, unless it is the same as at the last look: then `bytes` is null. */
  async fetch(
    account: FilePlaceAccount,
    path: string,
    known: FileMark | null,
    mostBytes: number,
  ): Promise<FileAnswer<{ mark: FileMark; bytes: Buffer | null }>> {
    if (bySftp(account)) return this.sftp.fetch(account, path, known, mostBytes);
    const at = whereIs(account.address, path);
    if (!at) return NO_ADDRESS;
    const headers = {
      ...signedIn(account),
      accept: '*/*',
      ...(known?.etag ? { 'if-none-match': known.etag } : {}),
      ...(known?.modified && !known.etag ? { 'if-modified-since': known.modified } : {}),
    };
    const outcome = await this.http.call('GET', at.href, headers, undefined, mostBytes, {
      authority: account.authority,
    });
    if (!outcome.ok) return { ok: false, refused: outcome.code === 'address-refused', problem: outcome.detail };
    const { status, bytes, cut, headers: said } = outcome.reply;
    if (status === 304 && known) return { ok: true, value: { mark: known, bytes: null } };
    if (status !== 200) return refusal(status, said.location);
    if (cut)
      return {
        ok: false,
        refused: true,
        problem: `The file is larger than ${Math.floor(mostBytes / (1024 * 1024))} MB. Split it, or leave out what is not needed.`,
      };
    const hash = createHash('sha256').update(bytes).digest('hex');
    const mark = { etag: said.etag ?? null, modified: said['last-modified'] ?? null, hash };
    // A server without marks, or one that makes new ones for the same.
    return { ok: true, value: { mark, bytes: hash === known?.hash ? null : bytes } };
  }

  async put(
    account: FilePlaceAccount,
    path: string,
    bytes: Buffer,
    was: FileMark | null,
  ): Promise<FileAnswer<FilePut>> {
    if (bySftp(account)) return this.sftp.put(account, path, bytes, was);
    const at = whereIs(account.address, path);
    if (!at) return NO_ADDRESS;
    const call = (method: 'LOCK' | 'PUT' | 'UNLOCK', more: Record<string, string>, body?: string | Buffer) =>
      this.http.call(method, at.href, { ...signedIn(account), ...more }, body, undefined, {
        authority: account.authority,
      });
    // Between looking at a mark and writing a server may take another's: not while it is locked. What is not there cannot be.
    const locked = was === null ? null : await call('LOCK', LOCKING, LOCKED);
    if (locked?.ok && locked.reply.status === 423) return { ok: false, ...PUT_REFUSALS[423]! };
    const token = locked?.ok && locked.reply.status < 300 ? (locked.reply.headers['lock-token'] ?? null) : null;
    const outcome = await call(
      'PUT',
      {
        'content-type': 'text/csv; charset=utf-8',
        ...onlyIf(was),
        ...(token === null ? {} : { if: `(${token})` }),
      },
      bytes,
    );
    // One that is not let go ends by itself.
    if (token !== null) await call('UNLOCK', { 'lock-token': token });
    if (!outcome.ok) return { ok: false, refused: outcome.code === 'address-refused', problem: outcome.detail };
    const { status, headers: said } = outcome.reply;
    if (status === 412) return { ok: true, value: 'changed' };
    if (status >= 200 && status < 300) return { ok: true, value: 'written' };
    const known = PUT_REFUSALS[status];
    return known ? { ok: false, ...known } : refusal(status, said.location);
  }
}

/** RFC 4918 §9.10: alone, for a minute at most. */
const LOCKING = { 'content-type': 'application/xml; charset=utf-8', depth: '0', timeout: 'Second-60' };
const LOCKED =
  '<?xml version="1.0" encoding="utf-8"?><lockinfo xmlns="DAV:"><lockscope><exclusive/></lockscope><locktype><write/></locktype></lockinfo>';

/** Only in place of what was fetched (RFC 9110 §13). A weak mark fits nothing there: then by the time it was changed. */
function onlyIf(was: FileMark | null): Record<string, string> {
  if (was === null) return { 'if-none-match': '*' };
  if (was.etag !== null && !isWeak(was)) return { 'if-match': was.etag };
  return was.modified === null ? {} : { 'if-unmodified-since': was.modified };
}

/** A mark that two different files can have, if one is written soon after the other. */
export const isWeak = ({ etag }: FileMark): boolean => etag?.startsWith('W/') ?? false;

/** What a server says of a file it does not take (RFC 4918 §9.7, §11). */
const PUT_REFUSALS: Record<number, { refused: boolean; problem: string }> = {
  405: { refused: true, problem: 'The server takes no files at this address: it is read only, or no WebDAV.' },
  409: { refused: true, problem: 'The folder of this file is not there. Make it, or write another path.' },
  413: { refused: true, problem: 'The file has become too large for the server.' },
  423: { refused: false, problem: 'Somebody has the file open and holds it for themselves.' },
  501: { refused: true, problem: 'The server takes no files at this address: it is read only, or no WebDAV.' },
  507: { refused: false, problem: 'There is no room left on the server.' },
};

const bySftp = ({ address }: FilePlaceAccount) => /^sftp:/i.test(address);

const NO_ADDRESS = {
  ...{ ok: false, refused: true },
  problem: 'Write the address as https://files.example/shared/, and the path below it.',
} as const satisfies { ok: false; refused: boolean; problem: string };

/** A path below a place; null for one that leads out of it. */
function whereIs(address: string, path: string): URL | null {
  const base = address.endsWith('/') ? address : `${address}/`;
  if (!/^https?:\/\//i.test(base) || !URL.canParse(base)) return null;
  const parts = path.replace(/^\/+/, '').split('/');
  if (parts.some((part) => part === '.' || part === '..')) return null;
  const url = new URL(parts.map(encodeURIComponent).join('/'), base);
  return url.href.startsWith(new URL(base).href) ? url : null;
}

const signedIn = ({ user, password }: FilePlaceAccount): Record<string, string> =>
  // RFC 7617.
  user === '' ? {} : { authorization: `Basic ${Buffer.from(`${user}:${password}`, 'utf8').toString('base64')}` };

function refusal(status: number, location: string | undefined): Extract<FileAnswer<never>, { ok: false }> {
  if (status === 401 || status === 403)
    return {
      ok: false,
      refused: true,
      problem: 'The server does not accept this user and password, or not for this file.',
    };
  if (status === 404 || status === 410)
    return {
      ok: false,
      refused: true,
      missing: true,
      problem: 'There is no file at this path. Look at the path and at capital letters.',
    };
  if (status >= 300 && status < 400)
    return {
      ok: false,
      refused: true,
      problem: `The file has moved${location ? ` to ${location.slice(0, 200)}` : ''}. Write where it lies now.`,
    };
  return { ok: false, refused: false, problem: `The server answered ${status}.` };
}

/** Null where what is percent-encoded is no text. */
export const decoded = (text: string): string | null => {
  try {
    return decodeURIComponent(text);
  } catch {
    return null;
  }
};
/** Without its prefix: each server chooses its own. */
const local = ({ name }: XmlElement) => name.slice(name.indexOf(':') + 1);
const within = (element: XmlElement, name: string): XmlElement[] =>
  element.children.filter((child): child is XmlElement => typeof child !== 'string' && local(child) === name);

/** A multistatus (RFC 4918 §13); what is none lists nothing. */
function readListing(bytes: Uint8Array): { href: string; folder: boolean }[] {
  const text = decodeXml(bytes);
  if (text === null || xmlDanger(text)) return [];
  try {
    return within({ name: '', attributes: {}, children: [readXmlTree(text)], inner: '' }, 'multistatus')
      .flatMap((all) => within(all, 'response'))
      .map((response) => ({
        href: ownText(within(response, 'href')[0]),
        folder: within(response, 'propstat')
          .flatMap((one) => within(one, 'prop'))
          .flatMap((one) => within(one, 'resourcetype'))
          .some((one) => within(one, 'collection').length > 0),
      }));
  } catch (error) {
    if (error instanceof BrokenXml) return [];
    throw error;
  }
}
