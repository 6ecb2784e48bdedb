import { z } from 'zod';
import type { MailAnswer } from '../../gateways/mail-account.ts';
import { MAIL_PLACE } from '../mailbox/read-mail.ts';
import { type SourcePuller, type SourceSetup, trouble } from '../source-module.ts';
import { AFTERWARDS, type MailAccountSettings } from './definition.ts';

const only = z.string().trim().max(200).default('');
const Input = z.object({
  connectionId: z.uuid('Choose a mail account'),
  folder: z.string().min(1, 'Choose a folder').max(300),
  sender: only,
  subject: only,
  text: only,
  afterwards: z.enum(AFTERWARDS).default('leave'),
  moveTo: z.string().trim().max(300).default(''),
  /** What is there already comes in too, or only what is new. */
  from: z.enum(['new', 'held']).default('new'),
});
type Input = z.infer<typeof Input>;

const AT_ONCE = 10;
/** Longest mail taken, in bytes: of a longer one the beginning. The same as of mails that are sent to us. */
const MOST_BYTES = 12 * 1024 * 1024;
/** The server says when something comes; where it does not, it is looked this often. Milliseconds. */
const LOOK_MS = 60_000;
/** Marked or moved so many behind the rest are given up: they have come in, and stay where they are. */
const MOST_UNTIDIED = 500;

const Cursor = z.object({
  place: z.object({ validity: z.string(), uid: z.number(), day: z.string() }).nullable().default(null),
  /** Mails that have come in and are still to be marked or moved there. */
  untidied: z.array(z.number()).default([]),
});

const asTrouble = (answer: Extract<MailAnswer<unknown>, { ok: false }>) => trouble(answer.problem);
const rawOf = (validity: string, { uid, bytes }: { uid: number; bytes: Buffer }) => ({
  headers: { [MAIL_PLACE]: `${validity}:${uid}` },
  contentType: 'message/rfc822',
  body: bytes,
});

export const mailAccountSetup: SourceSetup<Input, MailAccountSettings> = {
  input: Input,
  async choices(ports, { connectionId, query }) {
    const found = await ports.mailAccount(connectionId);
    if (!found.ok) return found;
    const { account } = found;
    const folders = await ports.mailboxes.folders(account);
    if (!folders.ok) return asTrouble(folders);
    const wanted = query.toLowerCase();
    return {
      ok: true,
      next: null,
      choices: folders.value
        .filter(({ path }) => path.toLowerCase().includes(wanted))
        .slice(0, 500)
        .map(({ path, mails }) => ({ id: path, label: `${path} (${mails === 1 ? 'one mail' : `${mails} mails`})` })),
    };
  },
  async prepare(ports, { from, ...settings }) {
    const found = await ports.mailAccount(settings.connectionId);
    if (!found.ok) return found;
    const { account } = found;
    if (settings.afterwards === 'move' && settings.moveTo === '')
      return trouble('Say to which folder mails are moved once they have come in.');
    if (settings.afterwards === 'move' && settings.moveTo === settings.folder)
      return trouble('Mails are moved to another folder than the one they come from. Name another.');
    const end = await ports.mailboxes.end(account, settings.folder, ports.now);
    if (!end.ok) return asTrouble(end);
    return {
      ok: true,
      name: `${settings.folder} of ${account.user}`.slice(0, 100),
      settings,
      pull: { everyMinutes: 0, cursor: { place: from === 'new' ? end.value : null, untidied: [] }, backlog: 0 },
    };
  },
};

export const mailAccountPuller: SourcePuller<MailAccountSettings> = {
  async *pull(ports, settings, stored) {
    const found = await ports.mailAccount(settings.connectionId);
    if (!found.ok) {
      yield found;
      return;
    }
    const { account } = found;
    let { place, untidied } = Cursor.parse(stored ?? {});
    const tidied = async () => {
      if (settings.afterwards === 'leave' || untidied.length === 0 || !place) untidied = [];
      else {
        const way = settings.afterwards === 'read' ? ({ read: true } as const) : { moveTo: settings.moveTo };
        const done = await ports.mailboxes.tidy(account, settings.folder, place.validity, untidied, way);
        if (!done.ok) return done;
        untidied = [];
      }
      return null;
    };
    // What had come in when a process died is marked or moved now: done twice, it changes nothing.
    await tidied();
    for (let more = true; more; ) {
      const ask = { most: AT_ONCE, mostBytes: MOST_BYTES, now: ports.now };
      const got = await ports.mailboxes.mails(account, settings, place, ask);
      if (!got.ok) {
        yield asTrouble(got);
        return;
      }
      // Of a folder that was made anew nothing is left to tidy.
      if (place?.validity !== got.value.place.validity) untidied = [];
      const { mails } = got.value;
      ({ place, more } = got.value);
      untidied = [...untidied, ...mails.map(({ uid }) => uid)].slice(-MOST_UNTIDIED);
      yield {
        ok: true,
        raws: mails.map((mail) => rawOf(place!.validity, mail)),
        cursor: { place, untidied: settings.afterwards === 'leave' ? [] : untidied },
        more,
        unfetched: null,
        againInMs: LOOK_MS,
      };
      const untidy = await tidied();
      if (untidy && !more) {
        yield trouble(
          `New mails come in, but cannot be ${settings.afterwards === 'read' ? 'marked as read' : 'moved'} there. ${untidy.problem}`,
        );
        return;
      }
    }
  },
  async newest(ports, settings) {
    const found = await ports.mailAccount(settings.connectionId);
    if (!found.ok) return found;
    const { account } = found;
    const newest = await ports.mailboxes.newest(account, settings, MOST_BYTES);
    if (!newest.ok) return asTrouble(newest);
    return { ok: true, raw: newest.value ? rawOf('sample', newest.value) : null };
  },
};
