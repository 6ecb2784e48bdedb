import { z } from 'zod';
import { notHere } from '../app/refusal.ts';

/** An id in the query of an address, null when there is none. What cannot be one leads to nothing. */
export function askedId(query: URLSearchParams, name: string): string | null {
  const asked = query.get(name);
  if (asked === null || asked === '') return null;
  if (!z.uuid().safeParse(asked).success) throw notHere('page or entry');
  return asked;
}
