import { z } from 'zod';
import type { DatabaseAnswer } from '../../gateways/outside-database.ts';
import { jsonRaw, type SourcePuller, type SourceSetup, trouble } from '../source-module.ts';
import type { DatabaseRow, DatabaseSettings } from './definition.ts';

const Input = z.object({
  connectionId: z.uuid('Choose a database'),
  view: z.string().min(1, 'Choose a view').max(200),
  key: z.string().min(1, 'Choose the column each row is known by').max(200),
  mark: z.string().min(1, 'Choose the column that grows').max(200),
  everyMinutes: z.number().int().min(1).max(1440).default(5),
  /** What is there already comes in too, or only what is new. */
  from: z.enum(['new', 'held']).default('new'),
});
type Input = z.infer<typeof Input>;

const GONE = trouble('This database is not connected any more. Choose another.');
const AT_ONCE = 500;
/** Rows written side by side may show after later ones: those of so long, in milliseconds, are looked at once more. */
const LOOK_BACK_MS = 10 * 60_000;
const Place = z.object({ mark: z.string(), key: z.string() });
type Place = z.infer<typeof Place>;
/** Where each look ended, the newest first, as far back as is looked once more. */
const Cursor = z.object({ ends: z.array(z.object({ at: z.number(), place: Place })).default([]) });
type Cursor = z.infer<typeof Cursor>;

/** From where on is looked: from before what may still be coming in. */
const startOf = ({ ends }: Cursor, now: number): Place | null =>
  (ends.find(({ at }) => at <= now - LOOK_BACK_MS) ?? ends.at(-1))?.place ?? null;
/** The ends of looks that are still needed, with one more. */
function ended({ ends }: Cursor, place: Place | null, now: number): Cursor {
  if (!place) return { ends };
  const all = [{ at: now, place }, ...ends];
  const old = all.findIndex(({ at }) => at <= now - LOOK_BACK_MS);
  return { ends: (old < 0 ? all : all.slice(0, old + 1)).slice(0, 100) };
}

const asTrouble = (answer: Extract<DatabaseAnswer<unknown>, { ok: false }>) => trouble(answer.problem);
const rawOf = (place: Place, row: Record<string, unknown>) => jsonRaw({ key: place.key, row } satisfies DatabaseRow);

export const databaseSetup: SourceSetup<Input, DatabaseSettings> = {
  input: Input,
  async choices(ports, { connectionId, of, query }) {
    const account = await ports.databaseAccount(connectionId);
    if (!account) return GONE;
    if (of.startsWith('columns:')) {
      const columns = await ports.databases.columns(account, of.slice('columns:'.length));
      if (!columns.ok) return asTrouble(columns);
      return {
        ok: true,
        next: null,
        choices: columns.value.map(({ name, type }) => ({ id: name, label: name, group: type })),
      };
    }
    const views = await ports.databases.views(account);
    if (!views.ok) return asTrouble(views);
    const wanted = query.toLowerCase();
    return {
      ok: true,
      next: null,
      choices: views.value
        .filter((name) => name.toLowerCase().includes(wanted))
        .map((name) => ({ id: name, label: name })),
    };
  },
  async prepare(ports, { connectionId, view, key, mark, everyMinutes, from }) {
    const account = await ports.databaseAccount(connectionId);
    if (!account) return GONE;
    const columns = await ports.databases.columns(account, view);
    if (!columns.ok) return asTrouble(columns);
    if (![key, mark].every((name) => columns.value.some((column) => column.name === name)))
      return trouble('This view has no such columns any more. Choose again.');
    // Asked the way it will be: a column that cannot be ordered or compared is told now.
    const rows = await ports.databases.rows(account, { view, key, mark }, null, 1);
    if (!rows.ok) return asTrouble(rows);
    const last = await ports.databases.last(account, { view, key, mark });
    if (!last.ok) return asTrouble(last);
    const start = from === 'new' && last.value ? last.value.place : null;
    return {
      ok: true,
      name: view.split('.').at(-1)!.slice(0, 100),
      settings: { connectionId, view, key, mark },
      pull: {
        everyMinutes,
        cursor: start ? { ends: [{ at: ports.now - LOOK_BACK_MS, place: start }] } : { ends: [] },
        backlog: 0,
      },
    };
  },
};

export const databasePuller: SourcePuller<DatabaseSettings> = {
  async *pull(ports, settings, stored) {
    const account = await ports.databaseAccount(settings.connectionId);
    if (!account) {
      yield GONE;
      return;
    }
    const cursor = Cursor.parse(stored ?? {});
    const now = ports.now;
    let after = startOf(cursor, now);
    for (let more = true; more; ) {
      const got = await ports.databases.rows(account, settings, after, AT_ONCE);
      if (!got.ok) {
        yield asTrouble(got);
        return;
      }
      const known = await ports.seen(got.value.map(({ place }) => place.key));
      after = got.value.at(-1)?.place ?? after;
      more = got.value.length === AT_ONCE;
      yield {
        ok: true,
        raws: got.value.filter(({ place }) => !known.has(place.key)).map(({ place, row }) => rawOf(place, row)),
        cursor: ended(cursor, after, now),
        more,
        unfetched: null,
      };
    }
  },
  async newest(ports, settings) {
    const account = await ports.databaseAccount(settings.connectionId);
    if (!account) return GONE;
    const last = await ports.databases.last(account, settings);
    if (!last.ok) return asTrouble(last);
    return { ok: true, raw: last.value ? rawOf(last.value.place, last.value.row) : null };
  },
};
