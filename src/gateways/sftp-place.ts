import { createHash } from 'node:crypto';
import SftpClient from 'ssh2-sftp-client';
import { type AddressGuard, AddressRefused } from './address-guard.ts';
import {
  decoded,
  type FileAnswer,
  type FileMark,
  type FilePlaceAccount,
  type PlacedFile,
  type PlacesReached,
} from './file-place.ts';
import { guardedSocket } from './guarded-socket.ts';

const READY_MS = 15_000;
/** Longest any one thing may take, milliseconds. */
const WORK_MS = 30_000;
const SETTLED_MS = 3000;

/** Files on a server that is reached by SSH (RFC 4251) and its file transfer (SFTP). A password or key is shown to the server of the one fingerprint only. */
export class SftpPlaces implements PlacesReached {
  constructor(private readonly guard: AddressGuard) {}

  list(account: FilePlaceAccount, folder: string): Promise<FileAnswer<PlacedFile[]>> {
    return this.inside(account, folder, async (client, at) => {
      const found = await client.list(at);
      const before = folder === '' ? '' : `${folder}/`;
      return found
        .filter(({ type }) => type === '-' || type === 'd' || type === 'l')
        .map(({ name, type }) => ({ path: before + name, folder: type === 'd' }))
        .sort((a, b) => (a.path < b.path ? -1 : 1));
    });
  }

  fetch(
    account: FilePlaceAccount,
    path: string,
    known: FileMark | null,
    mostBytes: number,
  ): Promise<FileAnswer<{ mark: FileMark; bytes: Buffer | null }>> {
    return this.inside(account, path, async (client, at) => {
      const { size, modifyTime, isFile } = await client.stat(at);
      if (!isFile) throw new Trouble(true, 'There is no file at this path, but a folder.');
      if (size > mostBytes)
        throw new Trouble(
          true,
          `The file is larger than ${Math.floor(mostBytes / (1024 * 1024))} MB. Split it, or leave out what is not needed.`,
        );
      // Times are told in seconds: what has just been changed may be changed once more within the same.
      const etag = Date.now() - modifyTime < SETTLED_MS ? null : `${size}-${modifyTime}`;
      if (known && etag !== null && known.etag === etag) return { mark: known, bytes: null };
      const bytes = (await client.get(at)) as Buffer;
      const hash = createHash('sha256').update(bytes).digest('hex');
      return { mark: { etag, modified: null, hash }, bytes: hash === known?.hash ? null : bytes };
    });
  }

  private async inside<T>(
    account: FilePlaceAccount,
    path: string,
    work: (client: SftpClient, at: string) => Promise<T>,
  ): Promise<FileAnswer<T>> {
    const client = new SftpClient();
    let shown = '';
    let limit: NodeJS.Timeout | undefined;
    try {
      const url = new URL(account.address);
      this.guard.check(url);
      const at = pathBelow(url, path);
      if (at === null) throw new Trouble(true, 'Write a path below the folder of the connection.');
      const sock = await guardedSocket(this.guard, {
        ...{ host: url.hostname.replace(/^\[|\]$/g, ''), port: Number(url.port || 22), secure: false },
      });
      const late = new Promise<never>((_, reject) => {
        limit = setTimeout(() => reject(new Trouble(false, 'The server did not answer in time.')), WORK_MS);
      });
      // Of what ends after it has failed already nobody need hear.
      late.catch(() => {});
      const working = (async () => {
        await client.connect({
          sock,
          username: account.user,
          ...(account.password.startsWith('-----BEGIN')
            ? { privateKey: account.password }
            : { password: account.password }),
          readyTimeout: READY_MS,
          hostVerifier: (key: Buffer) => {
            shown = fingerprint(key);
            return shown === account.hostKey;
          },
        });
        return work(client, at);
      })();
      working.catch(() => {});
      return { ok: true, value: await Promise.race([working, late]) };
    } catch (error) {
      if (shown !== '' && shown !== account.hostKey)
        return { ok: false, refused: true, problem: notTheSame(account, shown) };
      return { ok: false, ...wordsOf(error as Error & { code?: string | number; level?: string }) };
    } finally {
      clearTimeout(limit);
      await client.end().catch(() => {});
    }
  }
}

class Trouble extends Error {
  constructor(
    readonly refused: boolean,
    message: string,
  ) {
    super(message);
  }
}

/** As ssh-keygen shows it: "SHA256:…". */
export const fingerprint = (key: Uint8Array): string =>
  `SHA256:${createHash('sha256').update(key).digest('base64').replace(/=$/, '')}`;

const notTheSame = ({ hostKey }: FilePlaceAccount, shown: string): string =>
  hostKey
    ? `The server shows another key than before: ${shown}. Ask whoever runs it; nothing was sent.`
    : `The server shows the key ${shown}. If that is the one whoever runs it names, put it under “Fingerprint of the server’s key”.`;

/** A path below the folder of an address; null for one that leads out of it. */
function pathBelow(url: URL, path: string): string | null {
  const parts = path.split('/').filter(Boolean);
  if (parts.some((part) => part === '.' || part === '..' || part.includes('\0'))) return null;
  const folder = decoded(url.pathname)?.split('/').filter(Boolean);
  if (!folder) return null;
  // Without a path it is where the server puts us.
  return [...(folder.length === 0 ? ['.'] : ['', ...folder]), ...parts].join('/');
}

function wordsOf(error: Error & { code?: string | number; level?: string }): { refused: boolean; problem: string } {
  if (error instanceof Trouble) return { refused: error.refused, problem: error.message };
  if (error instanceof AddressRefused) return { refused: true, problem: `The server is not asked: ${error.message}.` };
  const { message } = error;
  if (/authentication methods failed/i.test(message))
    return { refused: true, problem: 'The server does not accept this user with this password or key.' };
  if (/Cannot parse privateKey/i.test(message))
    return { refused: true, problem: 'The private key cannot be read. Paste it whole, without a passphrase.' };
  if (/No such file/i.test(message))
    return { refused: true, problem: 'There is no file at this path. Look at the path and at capital letters.' };
  if (/Permission denied/i.test(message)) return { refused: true, problem: 'This user may not read that.' };
  return { refused: false, problem: 'The server does not answer, or not as one for files (SFTP).' };
}
