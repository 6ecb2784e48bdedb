import { z } from 'zod';
import type { DescribedAccount } from '../../gateways/described/described-caller.ts';
import {
  jsonRaw,
  type Pulled,
  type SourcePorts,
  type SourcePuller,
  type SourceSetup,
  type Trouble,
  trouble,
} from '../source-module.ts';
import type { ServiceItem, ServiceSourceSettings } from './definition.ts';

const Input = z.object({
  connectionId: z.uuid('Choose a service'),
  /** "fetch:KEY" or "push". */
  what: z.string().min(1, 'Choose what to listen for').max(80),
  everyMinutes: z.number().int().min(1).max(1440).default(5),
  /** What is there already comes in too, or only what is new. */
  from: z.enum(['new', 'held']).default('new'),
});
type Input = z.infer<typeof Input>;

const GONE = trouble('This service is not connected any more. Choose another.');
/** How far it has been fetched: what the next call is asked with, and the last that came, to know them again where a service cannot be asked for new ones. */
const Cursor = z.object({ ask: z.record(z.string(), z.string()).default({}), seen: z.array(z.string()).default([]) });
type Cursor = z.infer<typeof Cursor>;
const MOST_SEEN = 2000;
/** Pages of one look; the next begins where this one ended. */
const MOST_PAGES = 50;

/** One page of what a call gives. */
async function page(ports: SourcePorts, account: DescribedAccount, call: string, ask: Record<string, string>) {
  const { answer, items, next, data } = await ports.described.call(account, call, ask);
  if (answer.kind !== 'accepted') {
    const wait = answer.kind === 'again' ? answer.afterMs : null;
    return {
      ok: false,
      problem: /[.!?]$/.test(answer.detail) ? answer.detail : `${answer.detail}.`,
      retryAfterMs: wait,
    } as Trouble;
  }
  if (data && !data.ok) return trouble(`${account.who}: ${data.problem}`);
  const all: ServiceItem[] = items.map(({ raw, ...values }) => ({
    id: String(values.id ?? ''),
    kind: '',
    values,
    item: raw,
  }));
  return { ok: true as const, items: all, next };
}

const fetchedBy = (account: DescribedAccount, what: string) =>
  account.description.fetches.find(({ key }) => key === what) ?? null;

export const serviceSetup: SourceSetup<Input, ServiceSourceSettings> = {
  input: Input,
  async choices(ports, { connectionId }) {
    const account = await ports.describedAccount(connectionId);
    if (!account) return GONE;
    const { fetches, hears } = account.description;
    const told = hears?.kinds.some(({ means }) => means === 'event') ?? false;
    return {
      ok: true,
      next: null,
      choices: [
        ...fetches.map(({ key, label }) => ({
          id: `fetch:${key}`,
          label: label || key,
          group: 'Fetched on a schedule',
        })),
        ...(told ? [{ id: 'push', label: 'Whatever it tells us', group: 'Told at once' }] : []),
      ],
    };
  },
  async prepare(ports, input) {
    const account = await ports.describedAccount(input.connectionId);
    if (!account) return GONE;
    const { connectionId } = input;
    if (input.what === 'push')
      return { ok: true, name: account.who, settings: { connectionId, way: 'push', what: '', label: account.who } };
    const fetched = fetchedBy(account, input.what.replace(/^fetch:/, ''));
    if (!fetched) return trouble('Its description has nothing of that name any more. Choose again.');
    const cursor: Cursor = { ask: {}, seen: [] };
    // What is there now has been seen: it is gone past, page by page, and nothing of it kept.
    if (input.from === 'new')
      for (let n = 0; n < MOST_PAGES; n++) {
        const got = await page(ports, account, fetched.call, cursor.ask);
        if (!got.ok) return got;
        cursor.seen = [...got.items.map(({ id }) => id), ...cursor.seen].slice(0, MOST_SEEN);
        if (!got.next) break;
        cursor.ask = got.next;
        if (account.description.calls[fetched.call]!.paging.way === 'since' && got.items.length === 0) break;
      }
    return {
      ok: true,
      name: fetched.label || account.who,
      settings: { connectionId, way: 'fetch', what: fetched.key, label: fetched.label },
      pull: { everyMinutes: input.everyMinutes, cursor: kept(account, fetched.call, cursor), backlog: 0 },
    };
  },
};

/** Only what is newer than the last can be asked for again later: other pages begin anew, and what came before is known by its id. */
const kept = ({ description }: DescribedAccount, call: string, { ask, seen }: Cursor): Cursor => {
  const { way } = description.calls[call]!.paging;
  return { ask: way === 'since' || way === 'cursor' ? ask : {}, seen };
};

export const servicePuller: SourcePuller<ServiceSourceSettings> = {
  async *pull(ports, settings, stored): AsyncGenerator<Pulled | Trouble> {
    if (settings.way === 'push') return;
    const account = await ports.describedAccount(settings.connectionId);
    const fetched = account && fetchedBy(account, settings.what);
    if (!account || !fetched) {
      yield account ? trouble('The description of this service has nothing of that name any more.') : GONE;
      return;
    }
    const cursor = Cursor.parse(stored ?? {});
    let { ask, seen } = cursor;
    for (let n = 0; n < MOST_PAGES; n++) {
      const got = await page(ports, account, fetched.call, ask);
      if (!got.ok) {
        yield got;
        return;
      }
      const known = new Set(seen);
      const fresh = got.items.filter(({ id }) => id === '' || !known.has(id));
      seen = [...got.items.map(({ id }) => id).filter(Boolean), ...seen].slice(0, MOST_SEEN);
      const more = got.next !== null && got.items.length > 0;
      if (got.next) ask = got.next;
      yield {
        ok: true,
        raws: fresh.map(jsonRaw),
        cursor: more ? { ask, seen } : kept(account, fetched.call, { ask, seen }),
        more,
        unfetched: null,
      };
      if (!more) return;
    }
  },
  async newest(ports, settings) {
    const account = await ports.describedAccount(settings.connectionId);
    const fetched = account && settings.way === 'fetch' ? fetchedBy(account, settings.what) : null;
    if (!account) return GONE;
    if (!fetched) return { ok: true, raw: null };
    const got = await page(ports, account, fetched.call, {});
    if (!got.ok) return got;
    const last = got.items.at(-1);
    return { ok: true, raw: last ? jsonRaw(last) : null };
  },
};
