import { createHash } from 'node:crypto';
import ipaddr from 'ipaddr.js';
import type { Runtime } from '../../runtime.ts';
import { Refusal } from '../refusal.ts';

/**
 * Guesses within the window, counted before anything is compared: by account and network together, by network alone, and where nobody is signed in yet.
 * Common practice, no source. By account alone nobody is shut out, or anybody could shut out whom they like.
 */
const WINDOW = '15 minutes';

const keyOf = (key: string) => createHash('sha256').update(key).digest('base64url');

/** Counts a guess and says how many there were in its window, in one statement: of many at once each sees another number. */
export async function countGuess(runtime: Runtime, key: string): Promise<number> {
  const { rows } = await runtime.pool.query<{ guesses: number }>(
    `insert into guess (key, guesses, since) values ($1, 1, now()) on conflict (key) do update
     set guesses = case when guess.since < now() - interval '${WINDOW}' then 1 else guess.guesses + 1 end,
         since = case when guess.since < now() - interval '${WINDOW}' then now() else guess.since end
     returning guesses`,
    [keyOf(key)],
  );
  return rows[0]!.guesses;
}

/** A guess that was right was none. */
export const uncountGuesses = (runtime: Runtime, keys: string[]) =>
  runtime.pool.query('update guess set guesses = guesses - 1 where key = any($1) and guesses > 0', [keys.map(keyOf)]);

/** IPv6 networks are given out by 64 bits and more (RFC 6177): all addresses of one are one guesser. */
export const networkOf = (address: string): string => {
  if (!ipaddr.isValid(address)) return address;
  const read = ipaddr.process(address);
  return read.kind() === 'ipv6' ? read.toNormalizedString().split(':').slice(0, 4).join(':') : read.toString();
};

export const tooMany = (what = 'sign-ins that failed') =>
  new Refusal(429, 'too-many', `Too many ${what}. Wait a quarter of an hour and try again.`);
