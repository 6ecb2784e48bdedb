import {
  createAccount,
  createCalendarObject,
  type DAVCalendar,
  deleteCalendarObject,
  fetchCalendarObjects,
  fetchCalendars,
  propfind,
  updateCalendarObject,
} from 'tsdav';
import { xmlDanger } from '../core/xml/xml.ts';
import type { HttpCaller } from './http.ts';

/** Calendars somebody keeps already: an account reached by CalDAV (RFC 4791), or an address that gives one calendar as a file (RFC 5545). */
export interface CalendarAccount {
  address: string;
  /** Empty for an address that gives a file: whoever knows it may read. */
  user: string;
  password: string;
  /** PEM; an authority of the business's own that is believed besides. */
  authority?: string | undefined;
}
export type CalendarAnswer<T> = { ok: true; value: T } | { ok: false; refused: boolean; problem: string };

export interface FoundCalendar {
  /** Where it is; of a file empty, as its address is a secret. */
  href: string;
  name: string;
  /** Whether appointments can be put into it at all. */
  writable: boolean;
}
/** One thing in a calendar, as the server keeps it. */
export interface CalendarThing {
  href: string;
  etag: string | null;
  /** iCalendar. */
  text: string;
}

/** Longest answer taken, in bytes: a busy calendar of a year. */
const MOST = 8 * 1024 * 1024;

/** The end of a multistatus, with whatever prefix; one of nothing may be a single tag. */
const WHOLE_LIST =
  /<\/(?:[\w.-]{1,30}:)?multistatus\s{0,20}>\s{0,100}$|<(?:[\w.-]{1,30}:)?multistatus\b[^<>]{0,1000}\/>\s{0,100}$/;

/** What went wrong, thrown through the package that speaks the protocol. */
class Trouble extends Error {
  constructor(
    readonly refused: boolean,
    problem: string,
  ) {
    super(problem);
  }
}

export class CalendarAccounts {
  constructor(private readonly http: Pick<HttpCaller, 'call'>) {}

  /** The calendars of an account, or the one of a file. */
  calendars(account: CalendarAccount): Promise<CalendarAnswer<FoundCalendar[]>> {
    return this.inside(async () => {
      if (account.user === '') {
        const { text } = await this.file(account, null);
        const named = /^X-WR-CALNAME[^:\r\n]*:(.{1,200})/m.exec(text ?? '')?.[1]?.trim();
        return [{ href: '', name: named || 'Calendar', writable: false }];
      }
      const { fetch, headers } = this.as(account);
      const found = await createAccount({
        account: { serverUrl: account.address, accountType: 'caldav', credentials: {} },
        ...{ headers, fetch, loadCollections: false, loadObjects: false },
      });
      const calendars = await fetchCalendars({ account: found, headers, fetch });
      return calendars
        .filter(({ components }) => !components || components.includes('VEVENT'))
        .map((one) => ({ href: one.url, name: nameOf(one), writable: true }));
    });
  }

  /**
   * What is in a calendar between two times, where it is another than at the last look; `things` is null where it is the same.
   *
   * @param tag of the last look: the server's own mark of the calendar
   */
  read(
    account: CalendarAccount,
    href: string,
    tag: string | null,
    { from, to }: { from: Date; to: Date },
  ): Promise<CalendarAnswer<{ tag: string | null; things: CalendarThing[] | null }>> {
    return this.inside(async () => {
      if (account.user === '') {
        const got = await this.file(account, tag);
        return { tag: got.tag, things: got.text === null ? null : [{ href: '', etag: null, text: got.text }] };
      }
      const { fetch, headers } = this.as(account, true);
      const [marked] = await propfind({
        ...{ url: href, depth: '0', headers, fetch },
        props: { 'cs:getctag': {}, 'd:sync-token': {} },
      });
      if (!marked?.ok) throw refusal(marked?.status ?? 0);
      const mark = String(marked.props?.getctag ?? marked.props?.syncToken ?? '') || null;
      if (mark !== null && mark === tag) return { tag, things: null };
      const timeRange = { start: from.toISOString(), end: to.toISOString() };
      const found = await fetchCalendarObjects({
        ...{ calendar: { url: href }, timeRange, headers, fetch },
        // Things may be called anything; what ends in a stroke is a collection.
        urlFilter: (url) => !url.endsWith('/'),
      });
      return {
        tag: mark,
        things: found.map(({ url, etag, data }) => ({ href: url, etag: etag ?? null, text: String(data ?? '') })),
      };
    });
  }

  /** Puts something into a calendar: new where `etag` is null, else instead of what has that mark. `conflict`: somebody else has changed it meanwhile. */
  async write(
    account: CalendarAccount,
    at: { calendar: string; name: string; href: string | null; etag: string | null },
    text: string,
  ): Promise<CalendarAnswer<{ href: string; etag: string | null } | 'conflict'>> {
    return this.inside(async () => {
      const { fetch, headers } = this.as(account);
      const answer =
        at.href === null
          ? await createCalendarObject({
              ...{ calendar: { url: at.calendar }, filename: at.name, iCalString: text, headers, fetch },
            })
          : await updateCalendarObject({
              calendarObject: { url: at.href, data: text, ...(at.etag ? { etag: at.etag } : {}) },
              ...{ headers, fetch },
            });
      // RFC 4791 §5.3.2: already there, or another one by now.
      if (answer.status === 412 || answer.status === 409 || answer.status === 404) return 'conflict';
      if (!answer.ok) throw refusal(answer.status);
      return { href: at.href ?? new URL(at.name, at.calendar).href, etag: answer.headers.get('etag') };
    });
  }

  /** Takes something out; gone already is as good. */
  async remove(
    account: CalendarAccount,
    href: string,
    etag: string | null,
  ): Promise<CalendarAnswer<'gone' | 'conflict'>> {
    return this.inside(async () => {
      const { fetch, headers } = this.as(account);
      const answer = await deleteCalendarObject({
        calendarObject: { url: href, data: '', ...(etag ? { etag } : {}) },
        ...{ headers, fetch },
      });
      if (answer.status === 412) return 'conflict';
      if (!answer.ok && answer.status !== 404 && answer.status !== 410) throw refusal(answer.status);
      return 'gone';
    });
  }

  private async file(
    { address, authority }: CalendarAccount,
    tag: string | null,
  ): Promise<{ tag: string | null; text: string | null }> {
    const headers = { accept: 'text/calendar', ...(tag ? { 'if-none-match': tag } : {}) };
    const outcome = await this.http.call('GET', address.replace(/^webcals?:/i, 'https:'), headers, undefined, MOST, {
      authority,
    });
    if (!outcome.ok) throw new Trouble(outcome.code === 'address-refused', outcome.detail);
    const { status, body, cut, headers: said } = outcome.reply;
    if (status === 304) return { tag, text: null };
    if (status !== 200) throw refusal(status);
    if (cut) throw new Trouble(true, 'The calendar is longer than is taken: 8 MB.');
    if (!/^\s*BEGIN:VCALENDAR/i.test(body.replace(/^\uFEFF/, '')))
      throw new Trouble(
        true,
        'There is no calendar at this address. For an account with several, fill in the user name.',
      );
    return { tag: said.etag ?? null, text: body };
  }

  /**
   * How the package reaches the server: by the one way out, with its guard and limits. `listing`: only whole lists are taken (RFC 4918 §13), as the package
   * takes a page of a server that is being mended, or half an answer, for a list of nothing.
   */
  private as({ address: base, user, password, authority }: CalendarAccount, listing = false) {
    const headers = { authorization: `Basic ${Buffer.from(`${user}:${password}`, 'utf8').toString('base64')}` };
    const fetch = async (input: string | URL | Request, init: RequestInit = {}): Promise<Response> => {
      const address = input instanceof Request ? input.url : String(input);
      // Wherever it leads, the password does not leave the encryption.
      if (/^https:/i.test(base) && !/^https:/i.test(address))
        throw new Trouble(true, 'The calendar server leads to an address without encryption.');
      const sent = Object.fromEntries(new Headers(init.headers).entries());
      const method = (init.method ?? 'GET') as 'GET';
      const body = typeof init.body === 'string' ? init.body : undefined;
      const outcome = await this.http.call(method, address, sent, body, MOST, { authority });
      if (!outcome.ok) throw new Trouble(outcome.code === 'address-refused', outcome.detail);
      const { status, headers: said, bytes, cut } = outcome.reply;
      if (cut) throw new Trouble(true, 'The calendar server answered more than can be taken at once.');
      if (status === 401 || status === 403) throw refusal(status);
      const { body: text } = outcome.reply;
      if (listing && status < 400 && !(status === 207 && WHOLE_LIST.test(text) && !xmlDanger(text)))
        throw new Trouble(false, 'The calendar server answered something else than what is in the calendar.');
      const empty = status === 204 || status === 304 || status < 200;
      return new Response(empty ? null : new Uint8Array(bytes), {
        status: Math.max(200, status),
        headers: Object.entries(said).filter(
          ([name]) => !/^(content-encoding|transfer-encoding|content-length)$/.test(name),
        ),
      });
    };
    return { headers, fetch: fetch as typeof globalThis.fetch };
  }

  private async inside<T>(work: () => Promise<T>): Promise<CalendarAnswer<T>> {
    try {
      return { ok: true, value: await work() };
    } catch (error) {
      if (error instanceof Trouble) return { ok: false, refused: error.refused, problem: error.message };
      // The package throws where an answer is none of CalDAV's.
      return { ok: false, refused: false, problem: 'What answers there is not understood as a calendar server.' };
    }
  }
}

function refusal(status: number): Trouble {
  if (status === 401) return new Trouble(true, 'The calendar server does not accept the user name and password.');
  if (status === 403) return new Trouble(true, 'The calendar server does not allow that to this user.');
  if (status === 404 || status === 410) return new Trouble(true, 'There is no calendar at this address any more.');
  if (status >= 300 && status < 400)
    return new Trouble(true, 'It sends us on to another address. Write that one, if you trust it.');
  return new Trouble(false, `The calendar server answered ${status}.`);
}

/** As it calls itself, or by the last part of its address. */
function nameOf({ displayName, url }: DAVCalendar): string {
  const named = typeof displayName === 'string' || typeof displayName === 'number' ? String(displayName).trim() : '';
  if (named) return named.slice(0, 200);
  const last = new URL(url).pathname.split('/').filter(Boolean).at(-1) ?? '';
  try {
    return decodeURIComponent(last) || 'Calendar';
  } catch {
    return last;
  }
}
