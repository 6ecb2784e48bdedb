import { createCipheriv, createDecipheriv, createHmac, randomBytes } from 'node:crypto';
import { constants, copyFileSync, existsSync, linkSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';

/** Seals secrets at rest with AES-256-GCM (NIST SP 800-38D): version, 12-byte nonce, 16-byte tag, ciphertext, in base64url. */
export class SecretBox {
  constructor(private readonly key: Buffer) {
    if (key.length !== 32) throw new Error('The secret key must be 32 bytes, written in base64 or hex.');
  }

  seal(plain: string): string {
    const nonce = randomBytes(12);
    const cipher = createCipheriv('aes-256-gcm', this.key, nonce);
    const sealed = Buffer.concat([cipher.update(plain, 'utf8'), cipher.final()]);
    return `1.${Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString('base64url')}`;
  }

  open(sealed: string): string {
    if (!sealed.startsWith('1.')) throw new Error('This secret was sealed in a way this version does not know.');
    const bytes = Buffer.from(sealed.slice(2), 'base64url');
    const decipher = createDecipheriv('aes-256-gcm', this.key, bytes.subarray(0, 12));
    decipher.setAuthTag(bytes.subarray(12, 28));
    return Buffer.concat([decipher.update(bytes.subarray(28)), decipher.final()]).toString('utf8');
  }

  /** A key for another purpose, derived from this one. */
  derive(purpose: string): Buffer {
    return createHmac('sha256', this.key).update(`pine-bell:${purpose}`).digest();
  }
}

/** The key from PINEBELL_KEY, or from a file that is made on first start, readable by its owner only. */
export function openSecretBox(fromEnvironment: string | undefined, file: string): SecretBox {
  if (fromEnvironment) {
    const hex = /^[0-9a-f]{64}$/i.test(fromEnvironment);
    return new SecretBox(Buffer.from(fromEnvironment, hex ? 'hex' : 'base64'));
  }
  if (!existsSync(file)) {
    mkdirSync(dirname(file), { recursive: true });
    // Two processes of a first start come here at once: each makes a whole file, and whichever is named first is everybody's key.
    const made = `${file}.${process.pid}.new`;
    writeFileSync(made, randomBytes(32).toString('base64'), { mode: 0o600, flag: 'w' });
    try {
      linkSync(made, file);
    } catch (error) {
      // Where there are no links a copy that overwrites nothing has to do.
      if ((error as NodeJS.ErrnoException).code !== 'EEXIST' && !existsSync(file))
        copyFileSync(made, file, constants.COPYFILE_EXCL);
    } finally {
      rmSync(made, { force: true });
    }
  }
  return new SecretBox(Buffer.from(readFileSync(file, 'utf8').trim(), 'base64'));
}
