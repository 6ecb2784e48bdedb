import { whenWords } from '../../core/words/instant.ts';
import type { ConnectionUse } from './connection-uses.ts';

type Place = Parameters<typeof whenWords>[2];

/** What would stop without a connection, and when it was last reached. `now` in milliseconds. */
export function dependsOn(of: ConnectionUse | undefined, now: number, place: Place): string {
  if (!of) return '';
  const { sources, workflows, lastOkAt, lastTakenAt, lastHeardAt } = of;
  const at = (iso: string) => whenWords(iso, now, place);
  const said = [
    workflows > 0 ? `${workflows === 1 ? 'One live workflow goes' : `${workflows} live workflows go`} by it` : '',
    sources.length > 0
      ? `${sources.map(({ name }) => `“${name}”`).join(', ')} ${sources.length === 1 ? 'listens' : 'listen'} there`
      : '',
    lastTakenAt ? `took a message last ${at(lastTakenAt)}` : '',
    lastOkAt ? `last fetched from ${at(lastOkAt)}` : '',
    lastHeardAt ? `something came in last ${at(lastHeardAt)}` : '',
  ].filter(Boolean);
  return said.length > 0 ? `${said.join('; ')}.` : 'Nothing depends on it yet.';
}

/** How many messages wait for it, and since when; empty when none do. */
export const waitsFor = (of: ConnectionUse | undefined, now: number, place: Place): string =>
  of && of.waiting > 0 && of.waitingSince
    ? `${of.waiting === 1 ? 'A message waits' : `${of.waiting} messages wait`} since ${whenWords(of.waitingSince, now, place)}`
    : '';
