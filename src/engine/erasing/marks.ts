import { parsePhoneNumberFromString } from 'libphonenumber-js/max';
import type { Db } from '../../db/db.ts';

/** What people to be erased are known by, where no id of theirs stands. */
export interface Marks {
  leadIds: string[];
  /** Patterns for LIKE: addresses in lower case, found in text in lower case. */
  addresses: string[];
  /** Patterns for LIKE: national numbers, found in the digits of a text, however it groups them. */
  numbers: string[];
  /** Patterns for LIKE: whole names, both parts, in lower case. Good enough for our own notes about people, not for other people's data. */
  names: string[];
}

/** Fewer digits than these are found by chance. */
const FEWEST_DIGITS = 7;
const pattern = (text: string): string => `%${text.replace(/[\\%_]/g, '\\$&')}%`;

/** What these leads of a business are known by. */
export async function marksOf(client: Db, businessId: string, ids: readonly string[]): Promise<Marks> {
  const { rows } = await client.query<Record<'id' | 'first_name' | 'last_name' | 'email' | 'phone', string>>(
    'select id, first_name, last_name, email, phone from lead where id = any($1) and business_id = $2',
    [ids, businessId],
  );
  const known = await client.query<{ kind: string; value: string }>(
    `select kind, value from lead_identity where lead_id = any($1) and kind in ('email', 'phone')`,
    [rows.map((row) => row.id)],
  );
  const addresses = [
    ...rows.map((row) => row.email),
    ...known.rows.filter((row) => row.kind === 'email').map((row) => row.value),
  ];
  const numbers = [
    ...rows.map((row) => row.phone),
    ...known.rows.filter((row) => row.kind === 'phone').map((row) => row.value),
  ];
  const digitsOf = (number: string) =>
    parsePhoneNumberFromString(number)?.nationalNumber.toString() ?? number.replace(/\D/g, '');
  const all = (found: string[]) => [...new Set(found.filter(Boolean))].map(pattern);
  return {
    leadIds: rows.map((row) => row.id),
    addresses: all(addresses.map((address) => address.trim().toLowerCase())),
    numbers: all(numbers.map(digitsOf).filter((digits) => digits.length >= FEWEST_DIGITS)),
    names: all(
      rows
        .filter((row) => row.first_name && row.last_name)
        .map((row) => `${row.first_name} ${row.last_name}`.toLowerCase()),
    ),
  };
}

/** SQL that tells whether a text holds one of them; `$from` and the one behind it are the addresses and the numbers. */
export const holdsSql = (text: string, from: number): string =>
  `(lower(${text}) like any($${from}::text[]) or regexp_replace(${text}, '\\D', '', 'g') like any($${from + 1}::text[]))`;

/** The same for a text at hand. */
export function holds(text: string, { addresses, numbers }: Marks): boolean {
  const bare = (like: string) => like.slice(1, -1).replace(/\\([\\%_])/g, '$1');
  const lower = text.toLowerCase();
  const digits = text.replace(/\D/g, '');
  return (
    addresses.some((address) => lower.includes(bare(address))) ||
    numbers.some((number) => digits.includes(bare(number)))
  );
}
