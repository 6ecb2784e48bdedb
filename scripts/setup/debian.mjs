// Debian packages Pine Bell needs and the machine lacks: installed as root, named to anybody else.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { postgresBin } from './postgres.mjs';

/** The browser of the tests: CHROMIUM, or Debian's without a window of its own, which does the same in less time, or the one with. Null when none is installed. */
export const browserPath = () =>
  [process.env.CHROMIUM ?? '/usr/bin/chromium-headless-shell', '/usr/bin/chromium'].find((path) => existsSync(path)) ??
  null;

const NEEDED = {
  postgresql: { here: () => postgresBin() !== null, what: 'the database' },
  'openssh-server': { here: () => existsSync('/usr/sbin/sshd'), what: 'the file server of the tests' },
  radicale: { here: () => existsSync('/usr/bin/radicale'), what: 'the calendar server of the tests' },
  'libnet-smpp-perl': { here: () => existsSync('/usr/share/perl5/Net/SMPP.pm'), what: 'the text carrier of the tests' },
  'apache2-bin': { here: () => existsSync('/usr/sbin/apache2'), what: 'the web server of the tests' },
  postfix: { here: () => existsSync('/usr/sbin/postfix'), what: 'the mail server of the tests' },
  'dovecot-imapd': { here: () => existsSync('/usr/sbin/dovecot'), what: 'the mailbox server of the tests' },
  'chromium-headless-shell': { here: () => browserPath() !== null, what: 'the browser for the tests' },
};

export function ensureDebian(names, say = console.log) {
  const missing = names.filter((name) => !NEEDED[name].here());
  if (missing.length === 0) return;
  const command = `apt-get install -y --no-install-recommends ${missing.join(' ')}`;
  if (process.getuid?.() !== 0) {
    const what = missing.map((name) => `${name} (${NEEDED[name].what})`).join(' and ');
    throw new Error(`Missing on this machine: ${what}. Install with: sudo ${command}`);
  }
  say(`Installing ${missing.join(', ')} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  for (const args of [
    ['update', '-qq'],
    ['install', '-y', '-qq', '--no-install-recommends', ...missing],
  ]) {
    const out = spawnSync('apt-get', args, { env, encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });
    if (out.status !== 0) throw new Error(`apt-get ${args[0]} did not work:\n${out.stdout}${out.stderr}`);
  }
  for (const name of missing)
    if (!NEEDED[name].here()) throw new Error(`${name} is still missing after installing it.`);
}
