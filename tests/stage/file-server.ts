import { type ChildProcess, spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { chmodSync, chownSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../../scripts/setup/ports.mjs';
import type { Issued } from './certificates.ts';
import { until } from './stage.ts';

/** A web server nobody here wrote, on loopback: Apache with WebDAV, behind a user and password. */
export interface FileServer {
  /** https://127.0.0.1:port/shared/ */
  address: string;
  /** The same without WebDAV. */
  plain: string;
  /** Where the files of both lie. */
  folder: string;
  put(path: string, content: string | Buffer): void;
  /** What was asked, a line each: method, path and status. */
  asked(): string[];
  close(): Promise<void>;
}
export const FILE_USER = { user: 'fair', password: 'a stall of one’s own' };

const MODULES = '/usr/lib/apache2/modules';
/** nobody of Debian: whom its children run as. */
const NOBODY = 65534;

export async function openFileServer({ cert, key }: Issued): Promise<FileServer> {
  const at = mkdtempSync(join(tmpdir(), 'file-server-'));
  chmodSync(at, 0o755);
  const port = await freePort();
  const folder = join(at, 'files');
  for (const one of [folder, join(at, 'lock'), join(folder, 'camp')]) {
    mkdirSync(one);
    chownSync(one, NOBODY, NOBODY);
  }
  writeFileSync(join(at, 'cert.pem'), cert);
  writeFileSync(join(at, 'key.pem'), key, { mode: 0o600 });
  const sum = createHash('sha1').update(FILE_USER.password).digest('base64');
  writeFileSync(join(at, 'users'), `${FILE_USER.user}:{SHA}${sum}\n`);
  const load = [
    'mpm_event',
    'authn_core',
    'authn_file',
    'authz_core',
    'authz_user',
    'auth_basic',
    'dav',
    'dav_fs',
    'ssl',
    'alias',
  ];
  writeFileSync(
    join(at, 'httpd.conf'),
    `ServerRoot ${at}
ServerName localhost
PidFile ${at}/pid
Listen 127.0.0.1:${port}
${load.map((name) => `LoadModule ${name}_module ${MODULES}/mod_${name}.so`).join('\n')}
User nobody
Group nogroup
ErrorLog ${at}/error.log
LogFormat "%m %U %>s" asked
CustomLog ${at}/asked.log asked
DavLockDB ${at}/lock/db
SSLEngine on
SSLCertificateFile ${at}/cert.pem
SSLCertificateKeyFile ${at}/key.pem
DocumentRoot ${folder}
Alias /shared ${folder}
Alias /plain ${folder}
<Location />
  AuthType Basic
  AuthName files
  AuthUserFile ${at}/users
  Require valid-user
</Location>
<Location /shared>
  Dav On
</Location>
`,
  );
  const server: ChildProcess = spawn('/usr/sbin/apache2', ['-f', join(at, 'httpd.conf'), '-D', 'FOREGROUND'], {
    stdio: 'ignore',
  });
  const read = (name: string) => {
    try {
      return readFileSync(join(at, name), 'utf8');
    } catch {
      return '';
    }
  };
  await until(
    'Apache to answer',
    () =>
      new Promise<boolean>((resolve) => {
        const socket = connect(port, '127.0.0.1', () => {
          resolve(true);
          socket.destroy();
        });
        socket.once('error', () => resolve(false));
      }),
  ).catch((error: Error) => {
    throw new Error(`${error.message}; it says ${read('error.log')}`);
  });
  return {
    address: `https://127.0.0.1:${port}/shared/`,
    plain: `https://127.0.0.1:${port}/plain/`,
    folder,
    put: (path, content) => writeFileSync(join(folder, path), content, { mode: 0o644 }),
    asked: () => read('asked.log').split('\n').filter(Boolean),
    async close() {
      await new Promise<void>((resolve) => {
        server.once('exit', () => resolve());
        if (server.exitCode !== null) resolve();
        server.kill('SIGTERM');
      });
      rmSync(at, { recursive: true, force: true });
    },
  };
}
