import { createHash } from 'node:crypto';
import SftpClient from 'ssh2-sftp-client';
import { type AddressGuard, AddressRefused } from './address-guard.ts';
import {
  decoded,
  type FileAnswer,
  type FileMark,
  type FilePlaceAccount,
  type FilePut,
  type PlacedFile,
  type PlacesReached,
} from './file-place.ts';
import { guardedSocket } from './guarded-socket.ts';

const READY_MS = 15_000;
/** Longest any one thing may take, milliseconds. */
const WORK_MS = 30_000;
const SETTLED_MS = 3000;
/** No file takes so long to be written. */
const LEFT_BEHIND_MS = 120_000;

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
      const hash = sha256(bytes);
      return { mark: { etag, modified: null, hash }, bytes: hash === known?.hash ? null : bytes };
    });
  }

  put(account: FilePlaceAccount, path: string, bytes: Buffer, was: FileMark | null): Promise<FileAnswer<FilePut>> {
    return this.inside(account, path, async (client, at) => {
      const there = await client.exists(at);
      if (there === 'd') throw new Trouble(true, 'There is no file at this path, but a folder.');
      if ((await client.exists(at.slice(0, at.lastIndexOf('/')) || '/')) !== 'd')
        throw new Trouble(true, 'The folder of this file is not there. Make it, or write another path.');
      // What is put beside it is also the lock: only one can make it.
      const beside = `${at}.part`;
      if (!(await begun(client, beside))) return 'changed';
      try {
        const mode = there ? (await client.stat(at)).mode & 0o777 : 0o640;
        await client.put(bytes, beside);
        await client.chmod(beside, mode);
        if (!(await isAnother(client, at, was))) {
          // In one step: whoever reads it has the old or the new, never half.
          await client.posixRename(beside, at);
          return 'written';
        }
        await client.delete(beside);
        return 'changed';
      } catch (error) {
        await client.delete(beside, true).catch(() => {});
        throw error;
      }
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

/** Makes an empty file where there is none; false where another is writing it. One that was left behind by a process that died is taken over. */
async function begun(client: SftpClient, path: string): Promise<boolean> {
  if (await client.exists(path)) {
    const age = Date.now() - (await client.stat(path)).modifyTime;
    if (Math.abs(age) < LEFT_BEHIND_MS) return false;
    await client.delete(path, true);
  }
  try {
    // Its types do not know this flag, which SFTP has (SSH_FXF_EXCL).
    await client.put(Buffer.alloc(0), path, { writeStreamOptions: { flags: 'wx' as 'w' } });
    return true;
  } catch (error) {
    if (await client.exists(path)) return false;
    throw error;
  }
}

/** Whether what lies there is not what was fetched: by its content, since its time is told in seconds only. */
async function isAnother(client: SftpClient, at: string, was: FileMark | null): Promise<boolean> {
  if (!(await client.exists(at))) return was !== null;
  return sha256((await client.get(at)) as Buffer) !== was?.hash;
}

const sha256 = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');

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

function wordsOf(error: Error & { code?: string | number; level?: string }): {
  refused: boolean;
  problem: string;
  missing?: true;
} {
  if (error instanceof Trouble) return { refused: error.refused, problem: error.message };
  if (error instanceof AddressRefused) return { refused: true, problem: `The server is not asked: ${error.message}.` };
  const { message } = error;
  if (/authentication methods failed/i.test(message))
    return { refused: true, problem: 'The server does not accept this user with this password or key.' };
  if (/Cannot parse privateKey/i.test(message))
    return { refused: true, problem: 'The private key cannot be read. Paste it whole, without a passphrase.' };
  if (/No such file/i.test(message))
    return {
      refused: true,
      missing: true,
      problem: 'There is no file at this path. Look at the path and at capital letters.',
    };
  if (/Permission denied/i.test(message)) return { refused: true, problem: 'This user may not read or write that.' };
  return { refused: false, problem: 'The server does not answer, or not as one for files (SFTP).' };
}
