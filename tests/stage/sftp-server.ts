import { execFileSync, spawn } from 'node:child_process';
import { chmodSync, mkdirSync, mkdtempSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../../scripts/setup/ports.mjs';
import { until } from './stage.ts';

/** A file server nobody here wrote, on loopback: Debian's OpenSSH, which lets one key in and nothing but files. */
export interface SftpServer {
  /** sftp://127.0.0.1:port/…/files */
  address: string;
  user: string;
  /** PEM. */
  key: string;
  /** Of a pair it does not let in. */
  otherKey: string;
  /** Of the server, as ssh-keygen shows it. */
  hostKey: string;
  /** `at` is when it was changed last, milliseconds; now where it is left out. */
  put(path: string, content: string | Buffer, at?: number): void;
  read(path: string): string;
  close(): Promise<void>;
}

export async function openSftpServer(): Promise<SftpServer> {
  const at = mkdtempSync(join(tmpdir(), 'sftp-'));
  chmodSync(at, 0o755);
  const files = join(at, 'files');
  mkdirSync(join(files, 'camp'), { recursive: true });
  for (const name of ['host', 'user', 'other'])
    execFileSync('ssh-keygen', ['-q', '-t', 'ed25519', '-N', '', '-C', name, '-f', join(at, name)]);
  const port = await freePort();
  // Where the server keeps what it needs to part its rights.
  mkdirSync('/run/sshd', { recursive: true });
  writeFileSync(
    join(at, 'config'),
    `Port ${port}
ListenAddress 127.0.0.1
HostKey ${at}/host
PidFile none
AuthorizedKeysFile ${at}/user.pub
StrictModes no
UsePAM no
PasswordAuthentication no
PermitRootLogin yes
ForceCommand internal-sftp
Subsystem sftp internal-sftp
`,
  );
  const child = spawn('/usr/sbin/sshd', ['-D', '-e', '-f', join(at, 'config')], {
    stdio: ['ignore', 'ignore', 'pipe'],
  });
  let said = '';
  child.stderr.on('data', (some) => {
    said += some;
  });
  await until('the file server', () => {
    if (child.exitCode !== null) throw new Error(said);
    return new Promise<boolean>((resolve) => {
      const socket = connect(port, '127.0.0.1', () => {
        socket.destroy();
        resolve(true);
      });
      socket.once('error', () => resolve(false));
    });
  });
  const shown = execFileSync('ssh-keygen', ['-l', '-f', join(at, 'host.pub')], { encoding: 'utf8' });
  return {
    address: `sftp://127.0.0.1:${port}${files}`,
    user: 'root',
    key: readFileSync(join(at, 'user'), 'utf8'),
    otherKey: readFileSync(join(at, 'other'), 'utf8'),
    hostKey: shown.split(' ')[1]!,
    put(path, content, at = Date.now()) {
      writeFileSync(join(files, path), content);
      utimesSync(join(files, path), at / 1000, at / 1000);
    },
    read: (path) => readFileSync(join(files, path), 'utf8'),
    async close() {
      const over = new Promise((resolve) => child.once('exit', resolve));
      child.kill('SIGTERM');
      await over;
      rmSync(at, { recursive: true, force: true });
    },
  };
}
