import { FIELD_LIMITS, type Field, type FieldLimits, labelFromKey, storableText } from './field.ts';

export type Flattened = { ok: true; fields: Field[] } | { ok: false; problem: 'too-deep' | 'too-many' };

/**
 * Turns any JSON value into a flat list of fields. Nested names are joined with a dot ("contact.email"); a list of plain
 * values becomes one field, its values joined with ", "; a list of objects is numbered from 1, and is a list of rows besides, for
 * steps that go through one. Written as a loop, not as
 * recursion, so that nesting cannot exhaust the stack. Names like "__proto__" are ordinary keys here: fields are a list,
 * never properties of an object.
 */
export function flatten(value: unknown, limits: FieldLimits = FIELD_LIMITS): Flattened {
  const fields: Field[] = [];
  const stack: { value: unknown; path: string[]; depth: number }[] = [{ value, path: [], depth: 0 }];
  while (stack.length > 0) {
    const here = stack.pop()!;
    if (here.depth > limits.depth) return { ok: false, problem: 'too-deep' };
    const { value } = here;
    if (Array.isArray(value) && value.some((item) => item !== null && typeof item === 'object')) {
      const rows = rowsOf(value, limits);
      if (rows && here.path.length > 0) {
        if (fields.length >= limits.count) return { ok: false, problem: 'too-many' };
        const words = rows.map((row) => Object.values(row).filter(Boolean).join(', ')).join('; ');
        fields.push({ ...named(here.path), value: words.slice(0, limits.length).toWellFormed(), rows });
      }
      for (let i = value.length - 1; i >= 0; i--)
        stack.push({ value: value[i], path: [...here.path, String(i + 1)], depth: here.depth + 1 });
    } else if (value !== null && typeof value === 'object' && !Array.isArray(value)) {
      for (const [name, inner] of Object.entries(value).reverse())
        stack.push({ value: inner, path: [...here.path, name], depth: here.depth + 1 });
    } else {
      if (fields.length >= limits.count) return { ok: false, problem: 'too-many' };
      fields.push({ ...named(here.path), value: plainValue(value, limits) });
    }
    if (stack.length > limits.count * 4) return { ok: false, problem: 'too-many' };
  }
  return { ok: true, fields };
}

function named(path: readonly string[]): Pick<Field, 'key' | 'label'> {
  const key = storableText(path.join('.')).slice(0, 200) || 'value';
  return { key, label: labelFromKey(key) };
}

/** Most rows of a list that steps go through. */
const MOST_ROWS = 500;

/** A list of objects with plain values, as rows; null for any other list. */
function rowsOf(list: readonly unknown[], limits: FieldLimits): Record<string, string>[] | null {
  const plain = (item: unknown) =>
    item === null || typeof item !== 'object' || (Array.isArray(item) && item.every(plain));
  const rows: Record<string, string>[] = [];
  for (const item of list.slice(0, MOST_ROWS)) {
    if (item === null || typeof item !== 'object' || Array.isArray(item)) return null;
    const cells = Object.entries(item).slice(0, 50);
    if (!cells.every(([, value]) => plain(value))) return null;
    // Built from entries: a key like "__proto__" is an ordinary one.
    rows.push(
      Object.fromEntries(cells.map(([key, value]) => [storableText(key).slice(0, 200), plainValue(value, limits)])),
    );
  }
  return rows;
}

function plainValue(value: unknown, limits: FieldLimits): string {
  if (value === null || value === undefined) return '';
  const text = Array.isArray(value) ? value.map((item) => String(item ?? '')).join(', ') : String(value);
  return storableText(text).slice(0, limits.length);
}
