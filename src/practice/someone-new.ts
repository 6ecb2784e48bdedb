import { FIRST_NAMES, LAST_NAMES } from './invented-names.ts';

/** Invented people; numbers from the range set aside for fiction, addresses at a reserved domain. */
const pick = <T>(list: readonly T[]): T => list[Math.floor(Math.random() * list.length)]!;

export function someoneNew(): { first: string; last: string; email: string; phone: string } {
  const first = pick(FIRST_NAMES);
  const last = pick(LAST_NAMES);
  const phone = `07700 900${780 + Math.floor(Math.random() * 220)}`;
  return {
    first,
    last,
    email: `${first}.${last.replace(/[^A-Za-z]/g, '')}${Math.floor(Math.random() * 90 + 10)}@example.com`.toLowerCase(),
    phone,
  };
}
