import { z } from 'zod';
import { type WorkingTime, worksOn } from '../people/working-time.ts';
import { heldUntil } from '../time/quiet-hours.ts';
import { atWallClock, CLOCK_TIME, wallClock } from '../time/zone.ts';
import { NOTICE_KINDS, type Notice, type NoticeKind } from './notices.ts';

const Clock = z.string().regex(CLOCK_TIME, 'Write the time as 22:00');
const kinds = z.array(z.enum(Object.keys(NOTICE_KINDS) as [NoticeKind, ...NoticeKind[]])).max(9);

/** How somebody is told of what comes, beside their devices, and when not. Times by the business's clock. */
export const Telling = z.object({
  email: kinds,
  text: kinds,
  /** Nothing is told from … to …; it waits until then. Null for at any hour. */
  quiet: z
    .object({ from: Clock, to: Clock })
    .refine(({ from, to }) => from !== to, 'Quiet hours begin and end at two different times')
    .nullable(),
  /** When they get what waits for them by email, on days they work; null for never. */
  summaryAt: Clock.nullable(),
});
export type Telling = z.infer<typeof Telling>;

export type QuietHours = NonNullable<Telling['quiet']>;

/** Farther ahead nobody is told to wait; days. Then it is looked at again. */
const FARTHEST = 31;

/**
 * Until when somebody is told nothing: their quiet hours, and the days they are off. Null when they may be told now.
 *
 * @param now milliseconds
 * @param zone IANA
 */
export function quietUntil(
  quiet: QuietHours | null,
  working: WorkingTime | null,
  now: number,
  zone: string,
): number | null {
  let at = now;
  for (let days = 0; days <= FARTHEST; days++) {
    // What is not quiet is open: from the end of the quiet hours to their beginning.
    const held = quiet ? heldUntil(at, { from: quiet.to, to: quiet.from }, zone) : null;
    if (held !== null) at = held;
    const day = wallClock(at, zone).toPlainDate();
    if (worksOn(working, day.toString())) break;
    at = atWallClock(day.add({ days: 1 }), '00:00', zone);
  }
  return at === now ? null : at;
}

/** Longest text of a notice by text message, in characters: three parts of GSM 7-bit at most (3GPP TS 23.038). */
const LONGEST_TEXT = 400;

/** What has come as one email; `address` is where the business's pages are. */
export function noticesAsEmail(
  of: string,
  notices: readonly Notice[],
  address: string,
): { subject: string; text: string } {
  const titles = notices.map(({ title }) => title);
  return {
    subject: `${of}: ${titles.join('; ')}`.slice(0, 200),
    text: [
      ...notices.map(({ title, body, url }) => [title, body, address + url].filter(Boolean).join('\n')),
      `What you are told of, and when, you set under Settings, You: ${address}/settings/you`,
    ].join('\n\n'),
  };
}

/** The same as one text: what it is, and one address. */
export function noticesAsText(of: string, notices: readonly Notice[], address: string): string {
  const one = notices.length === 1 ? notices[0]! : null;
  const link = one ? address + one.url : `${address}/`;
  const words = one
    ? [`${of}: ${one.title}`, one.body].filter(Boolean).join(', ')
    : `${of}: ${notices.map(({ title }) => title).join('; ')}`;
  const room = LONGEST_TEXT - link.length - 1;
  const letters = [...words];
  return `${letters.length <= room ? words : `${letters.slice(0, room - 1).join('')}…`} ${link}`;
}

/** What waits for somebody in the morning. Names as they are shown, times in words. */
export interface Waiting {
  /** New since the summary before, or in a day. */
  leads: { total: number; names: string[] };
  /** Written to us, and nobody has answered or looked. */
  conversations: { total: number; names: string[] };
  /** Due today or before. */
  tasks: { total: number; titles: string[] };
  /** Today's, in order: "09:30 Trial lesson, Ada Hale". */
  appointments: string[];
  /** Entries of *Needs you*; null for whoever does not see them. */
  needs: number | null;
}

const named = (names: readonly string[], total: number): string =>
  total > names.length ? `${names.join(', ')} and ${total - names.length} more` : names.join(', ');

/** The summary of a morning as an email; null when nothing waits, for nobody needs an email that says nothing. */
export function summaryOf(of: string, waiting: Waiting, address: string): { subject: string; text: string } | null {
  const { leads, conversations, tasks, appointments, needs } = waiting;
  const parts: { short: string; text: string }[] = [];
  const add = (n: number, one: string, many: string, more: string, path: string) => {
    if (n === 0) return;
    const short = `${n} ${n === 1 ? one : many}`;
    parts.push({ short, text: [`${short}${more && `: ${more}`}`, address + path].join('\n') });
  };
  add(
    appointments.length,
    'appointment today',
    'appointments today',
    appointments.map((line) => `\n- ${line}`).join(''),
    '/calendar',
  );
  add(tasks.total, 'task due', 'tasks due', named(tasks.titles, tasks.total), '/');
  add(
    conversations.total,
    'person waits for an answer',
    'people wait for an answer',
    named(conversations.names, conversations.total),
    '/conversations',
  );
  add(leads.total, 'new lead', 'new leads', named(leads.names, leads.total), '/leads');
  add(needs ?? 0, 'thing needs somebody', 'things need somebody', '', '/#needs-you');
  if (parts.length === 0) return null;
  return {
    subject: `${of}, this morning: ${parts.map(({ short }) => short).join(', ')}`.slice(0, 200),
    text: [
      ...parts.map(({ text }) => text),
      `When you get this, you set under Settings, You: ${address}/settings/you`,
    ].join('\n\n'),
  };
}
