import { useState } from 'react';
import type { SourceView } from '../../app/sources/sources.ts';
import { call } from '../../client/call.ts';
import { withOlder } from '../../client/pages.ts';
import { useQuery } from '../../client/use-query.ts';
import type { Caught, Learnt } from './caught.ts';

/** A source as it is now, with what came in of one state (`filter`, empty for all) and what its fields are. `at` in milliseconds. */
export function useSource(
  first: SourceView,
  firstArrivals: Caught[],
  firstLearnt: Learnt,
  loadedAt: number,
  filter: string,
) {
  const at = `/api/sources/${first.id}` as const;
  const sourceNow = useQuery(['source', first.id], () => call('GET', at), { first, at: loadedAt });
  const caught = useQuery(
    ['arrivals', first.id, filter],
    async () => ({ filter, rows: await call('GET', `${at}/arrivals?state=${filter}`) }),
    { first: { filter: '', rows: firstArrivals }, at: loadedAt },
  );
  const fields = useQuery(['learnt', first.id], () => call('GET', `${at}/learnt`), {
    first: firstLearnt,
    at: loadedAt,
  });
  const source = sourceNow.value;
  const learnt = fields.value;
  const now = caught.at;
  /** Older pages that were asked for, of this very filter. */
  const [older, setOlder] = useState<{ filter: string; rows: Caught[] } | null>(null);
  // Of another filter nothing stays on the screen, not even for a moment.
  const newest = caught.value.filter === filter ? caught.value.rows : [];
  const arrivals = older?.filter === filter ? withOlder(newest, older.rows, (caught) => caught.receivedAt) : newest;
  const look = async () => {
    await Promise.all([sourceNow.again(), caught.again(), fields.again()]);
  };
  const more = async () => {
    const next = await call('GET', `${at}/arrivals?state=${filter}&before=${arrivals.at(-1)!.receivedAt}`);
    setOlder({ filter, rows: [...arrivals, ...next] });
    return next.length;
  };
  return { at, source, put: sourceNow.put, learnt, arrivals, more, look, now };
}
