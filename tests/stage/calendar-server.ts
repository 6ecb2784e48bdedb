import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../../scripts/setup/ports.mjs';
import { until } from './stage.ts';

export const CALENDAR_USER = { user: 'oona', password: 'pine and bell' };

/** A calendar server nobody here wrote, on loopback: Debian's Radicale, with one user. */
export interface CalendarServer {
  /** The address somebody would type. */
  address: string;
  /** Makes a calendar, or an address book; gives its address. */
  make(name: string, kind?: 'calendar' | 'addressbook'): Promise<string>;
  put(calendar: string, name: string, ics: string): Promise<void>;
  remove(calendar: string, name: string): Promise<void>;
  /** What lies in it, by name. */
  things(calendar: string): Promise<Map<string, string>>;
  stop(): Promise<void>;
  start(): Promise<void>;
  close(): Promise<void>;
}

export async function openCalendarServer(): Promise<CalendarServer> {
  const at = mkdtempSync(join(tmpdir(), 'calendars-'));
  const port = await freePort();
  writeFileSync(join(at, 'users'), `${CALENDAR_USER.user}:${CALENDAR_USER.password}\n`);
  writeFileSync(
    join(at, 'config'),
    `[server]\nhosts = 127.0.0.1:${port}\n[auth]\ntype = htpasswd\nhtpasswd_filename = ${join(at, 'users')}\nhtpasswd_encryption = plain\ndelay = 0
[storage]\nfilesystem_folder = ${join(at, 'kept')}\n[logging]\nlevel = error\n`,
  );
  const root = `http://127.0.0.1:${port}/`;
  const headers = {
    authorization: `Basic ${Buffer.from(`${CALENDAR_USER.user}:${CALENDAR_USER.password}`).toString('base64')}`,
  };
  let child: ReturnType<typeof spawn> | null = null;
  const ask = async (method: string, url: string, body?: string, more: Record<string, string> = {}) => {
    const answer = await fetch(url, { method, headers: { ...headers, ...more }, ...(body ? { body } : {}) });
    const text = await answer.text();
    if (!answer.ok) throw new Error(`${method} ${url}: ${answer.status} ${text}`);
    return text;
  };
  const server: CalendarServer = {
    address: root,
    async make(name, kind = 'calendar') {
      const url = `${root}${CALENDAR_USER.user}/${encodeURIComponent(name.toLowerCase().replaceAll(' ', '-'))}/`;
      const type =
        kind === 'calendar'
          ? '<C:calendar xmlns:C="urn:ietf:params:xml:ns:caldav"/>'
          : '<C:addressbook xmlns:C="urn:ietf:params:xml:ns:carddav"/>';
      await ask(
        'MKCOL',
        url,
        `<?xml version="1.0"?><mkcol xmlns="DAV:"><set><prop><resourcetype><collection/>${type}</resourcetype><displayname>${name}</displayname></prop></set></mkcol>`,
      );
      return url;
    },
    async put(calendar, name, ics) {
      await ask('PUT', calendar + name, ics.replaceAll('\n', '\r\n'), { 'content-type': 'text/calendar' });
    },
    async remove(calendar, name) {
      await ask('DELETE', calendar + name);
    },
    async things(calendar) {
      const listed = await ask('PROPFIND', calendar, undefined, { depth: '1' });
      const paths = [...listed.matchAll(/<href>([^<]+\.(?:ics|vcf))<\/href>/g)].map((match) => match[1]!);
      const read = await Promise.all(
        // What goes meanwhile is not there.
        paths.map(
          async (path) =>
            [path.split('/').at(-1)!, await ask('GET', new URL(path, root).href).catch(() => '')] as const,
        ),
      );
      return new Map(read.filter(([, text]) => text !== ''));
    },
    async start() {
      child = spawn('radicale', ['--config', join(at, 'config')], { stdio: ['ignore', 'ignore', 'inherit'] });
      await until('the calendar server', () =>
        fetch(root, { headers }).then(
          () => true,
          () => false,
        ),
      );
    },
    async stop() {
      const ending = child;
      child = null;
      if (!ending) return;
      const over = new Promise((resolve) => ending.once('exit', resolve));
      ending.kill('SIGKILL');
      await over;
    },
    async close() {
      await server.stop();
      rmSync(at, { recursive: true, force: true });
    },
  };
  await server.start();
  return server;
}

/** A calendar with one event, or with whatever lines are given. */
export const eventOf = (uid: string, lines: string[]): string =>
  [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Wrenfield//Diary//EN',
    'BEGIN:VEVENT',
    `UID:${uid}`,
    'DTSTAMP:20261202T080000Z',
    ...lines,
    'END:VEVENT',
    'END:VCALENDAR',
    '',
  ].join('\n');
