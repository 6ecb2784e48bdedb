import { type ChildProcess, spawn } from 'node:child_process';
import { chmodSync, chownSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../../scripts/setup/ports.mjs';
import type { Issued } from './certificates.ts';
import { until } from './stage.ts';

/** Mail servers nobody here wrote, on loopback: Postfix takes mails in by submission (RFC 6409), Dovecot shows them by IMAP. One user, one domain. */
export interface MailHouse {
  /** smtp://127.0.0.1:port, with STARTTLS and AUTH. */
  submission: string;
  submissionPort: number;
  /** imap:// with STARTTLS, and imaps://. */
  imap: string;
  imapPort: number;
  imaps: string;
  /** Where mails of the user lie, a file each. */
  folder: string;
  log(): string;
  stopImap(): Promise<void>;
  startImap(): Promise<void>;
  close(): Promise<void>;
}
export const MAIL_USER = { user: 'enquiries', password: 'a quiet word', address: 'enquiries@wrenfield.example' };

/** The number of a user of this machine. */
const idOf = (name: string) =>
  Number(readFileSync('/etc/passwd', 'utf8').match(new RegExp(`^${name}:[^:]*:(\\d+)`, 'm'))![1]);
/** nobody of Debian: who owns the mails. */
const OWNER = 65534;

const alive = (pid: number) => {
  try {
    process.kill(pid, 0);
    return true;
  } catch {
    return false;
  }
};
const ended = (child: ChildProcess, signal: NodeJS.Signals = 'SIGTERM') =>
  child.exitCode !== null || child.signalCode !== null
    ? Promise.resolve()
    : new Promise<void>((resolve) => {
        child.once('exit', () => resolve());
        child.kill(signal);
      });

/** `userinfo` is where a token is shown to be told whose it is (OpenID Connect Core §5.3), for sign-in by tokens. */
export async function openMailHouse({ cert, key }: Issued, userinfo?: string): Promise<MailHouse> {
  const at = mkdtempSync(join(tmpdir(), 'mail-house-'));
  chmodSync(at, 0o755);
  const [submissionPort, imapPort, imapsPort, authPort] = await Promise.all([1, 2, 3, 4].map(() => freePort()));
  const mails = join(at, 'mail');
  for (const one of [mails, join(mails, MAIL_USER.user)]) {
    mkdirSync(one);
    chownSync(one, OWNER, OWNER);
  }
  writeFileSync(join(at, 'cert.pem'), cert);
  writeFileSync(join(at, 'key.pem'), key, { mode: 0o600 });
  writeFileSync(join(at, 'users'), `${MAIL_USER.user}:{PLAIN}${MAIL_USER.password}\n`, { mode: 0o644 });
  writeFileSync(
    join(at, 'dovecot.conf'),
    `base_dir = ${at}/run
state_dir = ${at}/state
log_path = ${at}/log
protocols = imap
listen = 127.0.0.1
ssl = yes
ssl_cert = <${at}/cert.pem
ssl_key = <${at}/key.pem
disable_plaintext_auth = yes
auth_mechanisms = plain login${userinfo ? ' xoauth2 oauthbearer' : ''}
first_valid_uid = 1
service imap-login {
  inet_listener imap {
    port = ${imapPort}
  }
  inet_listener imaps {
    port = ${imapsPort}
    ssl = yes
  }
}
service auth {
  inet_listener {
    address = 127.0.0.1
    port = ${authPort}
  }
}
${
  userinfo
    ? `passdb {
  driver = oauth2
  mechanisms = xoauth2 oauthbearer
  args = ${at}/tokens
}
`
    : ''
}passdb {
  driver = passwd-file
  args = ${at}/users
}
userdb {
  driver = static
  args = uid=${OWNER} gid=${OWNER} home=${mails}/%n
}
mail_location = maildir:~/Maildir
`,
  );
  writeFileSync(
    join(at, 'tokens'),
    `introspection_mode = auth\nintrospection_url = ${userinfo}\nusername_attribute = sub\n`,
  );
  const postfix = join(at, 'postfix');
  for (const one of [postfix, join(postfix, 'queue'), join(postfix, 'data')]) mkdirSync(one);
  writeFileSync(
    join(postfix, 'main.cf'),
    `compatibility_level = 3.6
queue_directory = ${postfix}/queue
data_directory = ${postfix}/data
maillog_file = ${at}/postfix.log
maillog_file_prefixes = ${at}
inet_interfaces = 127.0.0.1
inet_protocols = ipv4
myhostname = mail.wrenfield.example
mydestination =
mynetworks =
virtual_mailbox_domains = wrenfield.example
virtual_mailbox_base = ${mails}
virtual_mailbox_maps = static:${MAIL_USER.user}/Maildir/
alias_maps =
virtual_uid_maps = static:${OWNER}
virtual_gid_maps = static:${OWNER}
virtual_minimum_uid = 1
smtpd_tls_cert_file = ${at}/cert.pem
smtpd_tls_key_file = ${at}/key.pem
smtpd_sasl_type = dovecot
smtpd_sasl_path = inet:127.0.0.1:${authPort}
smtpd_sasl_auth_enable = yes
smtpd_tls_auth_only = yes
smtpd_tls_security_level = encrypt
smtpd_recipient_restrictions = permit_sasl_authenticated, reject
smtpd_relay_restrictions = permit_sasl_authenticated, reject
`,
  );
  writeFileSync(
    join(postfix, 'master.cf'),
    `127.0.0.1:${submissionPort} inet n - n - - smtpd
cleanup unix n - n - 0 cleanup
qmgr unix n - n 300 1 qmgr
tlsmgr unix - - n 1000? 1 tlsmgr
rewrite unix - - n - - trivial-rewrite
bounce unix - - n - 0 bounce
defer unix - - n - 0 bounce
trace unix - - n - 0 bounce
verify unix - - n - 1 verify
proxymap unix - - n - - proxymap
smtp unix - - n - - smtp
error unix - - n - - error
retry unix - - n - - error
virtual unix - n n - - virtual
anvil unix - - n - 1 anvil
scache unix - - n - 1 scache
postlog unix-dgram n - n - 1 postlogd
`,
  );
  chownSync(join(postfix, 'data'), idOf('postfix'), 0);
  const log = () =>
    ['log', 'postfix.log']
      .map((name) => {
        try {
          return readFileSync(join(at, name), 'utf8');
        } catch {
          return '';
        }
      })
      .join('\n');
  const answers = (port: number, what: string) =>
    until(
      `${what} to answer; it says ${log()}`,
      () =>
        new Promise<boolean>((resolve) => {
          const socket = connect(port, '127.0.0.1');
          socket.once('data', () => {
            resolve(true);
            socket.destroy();
          });
          socket.once('error', () => resolve(false));
        }),
    );
  const runDovecot = () => spawn('/usr/sbin/dovecot', ['-F', '-c', join(at, 'dovecot.conf')], { stdio: 'ignore' });
  let imap = runDovecot();
  const smtp = spawn('/usr/sbin/postfix', ['-c', postfix, 'start-fg'], { stdio: 'ignore' });
  await answers(imapPort!, 'Dovecot');
  await answers(submissionPort!, 'Postfix');
  return {
    submission: `smtp://127.0.0.1:${submissionPort}`,
    submissionPort: submissionPort!,
    imap: `imap://127.0.0.1:${imapPort}`,
    imapPort: imapPort!,
    imaps: `imaps://127.0.0.1:${imapsPort}`,
    folder: join(mails, MAIL_USER.user, 'Maildir'),
    log,
    stopImap: () => ended(imap),
    async startImap() {
      imap = runDovecot();
      await answers(imapPort!, 'Dovecot');
    },
    async close() {
      // What was started is a script; the server itself says who it is.
      const master = Number(readFileSync(join(postfix, 'queue/pid/master.pid'), 'utf8'));
      process.kill(master, 'SIGTERM');
      await Promise.all([ended(imap), ended(smtp)]);
      await until('Postfix to end', () => !alive(master));
      rmSync(at, { recursive: true, force: true });
    },
  };
}
