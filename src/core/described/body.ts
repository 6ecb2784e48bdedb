import XMLBuilder from 'fast-xml-builder';
import type { SentField } from './description.ts';
import { type Filling, fill, wholeValue } from './fill.ts';

export type Value = { ok: true; name: string; value: unknown; text: string } | { ok: false; problem: string };

/** What each field comes to; those that are left out when empty are left out. */
export function filledFields(fields: readonly SentField[], filling: Filling): Value[] {
  const out: Value[] = [];
  for (const field of fields) {
    if (field.as === 'whole') {
      const value = wholeValue(field.value, filling);
      const empty =
        value === undefined || value === null || value === '' || (Array.isArray(value) && value.length === 0);
      if (empty && field.ifEmpty === 'leave-out') continue;
      const text = typeof value === 'string' ? value : JSON.stringify(value ?? null);
      out.push({ ok: true, name: field.name, value: value ?? null, text });
      continue;
    }
    const filled = fill(field.value, filling);
    if (!filled.ok) {
      out.push(filled);
      continue;
    }
    if (filled.text === '' && field.ifEmpty === 'leave-out') continue;
    out.push(typed(field, filled.text));
  }
  return out;
}

const YES = new Set(['true', 'yes', '1', 'on']);
const NO = new Set(['false', 'no', '0', 'off', '']);

function typed({ name, as }: SentField, text: string): Value {
  if (as === 'number') {
    const number = text.trim();
    // An empty number is none: `null` says so in JSON.
    if (number === '') return { ok: true, name, value: null, text: '' };
    if (!/^-?\d+(\.\d+)?$/.test(number))
      return { ok: false, problem: `“${name}” must be a number, and is “${text.slice(0, 60)}”.` };
    return { ok: true, name, value: Number(number), text: number };
  }
  if (as === 'yes-no') {
    const word = text.trim().toLowerCase();
    if (!YES.has(word) && !NO.has(word))
      return { ok: false, problem: `“${name}” must be yes or no, and is “${text.slice(0, 60)}”.` };
    return { ok: true, name, value: YES.has(word), text: String(YES.has(word)) };
  }
  return { ok: true, name, value: text, text };
}

/** "messages[0].to" as its parts. */
export const partsOf = (name: string): (string | number)[] =>
  [...name.matchAll(/([^.[\]]+)|\[(\d{1,2})\]/g)].map((m) => (m[2] === undefined ? m[1]! : Number(m[2])));

/** Values under their names, nested: `person.email` is a field of `person`, `messages[0].to` one of the first of a list. Names are never properties of ours. */
export function nested(values: readonly { name: string; value: unknown }[]): Record<string, unknown> {
  const root: Record<string, unknown> = Object.create(null);
  for (const { name, value } of values) {
    const parts = partsOf(name);
    let at = root as Record<string | number, unknown>;
    for (const [i, part] of parts.entries()) {
      // In a list there are places and no names: one would be a property of every list.
      if (Array.isArray(at) && typeof part === 'string') break;
      if (i === parts.length - 1) {
        at[part] = value;
        break;
      }
      const inside = Object.hasOwn(at, part) ? at[part] : undefined;
      if (typeof inside !== 'object' || inside === null)
        at[part] = typeof parts[i + 1] === 'number' ? [] : Object.create(null);
      at = at[part] as Record<string | number, unknown>;
    }
  }
  return root;
}

const xml = new XMLBuilder({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  textNodeName: 'text',
  processEntities: true,
});
/** Characters no XML 1.0 document can hold, in whatever way (§2.2). */
const NO_CHARACTERS = /[\u0000-\u0008\u000B\u000C\u000E-\u001F\uFFFE\uFFFF]/g;

/** An XML 1.0 document in UTF-8. */
export const xmlOf = (root: string, values: readonly { name: string; value: unknown }[]): string =>
  `<?xml version="1.0" encoding="UTF-8"?>\n${xml.build({
    [root]: nested(
      values.map(({ name, value }) => ({
        name,
        value:
          value === null ? '' : typeof value === 'string' ? value.toWellFormed().replace(NO_CHARACTERS, '') : value,
      })),
    ),
  })}`;
