import { FIELD_LIMITS, type Field, type FieldLimits, labelFromKey, storableText } from './field.ts';

export type Flattened = { ok: true; fields: Field[] } | { ok: false; problem: 'too-deep' | 'too-many' };

/**
 * Turns any JSON value into a flat list of fields. Nested names are joined with a dot ("contact.email"); a list of plain
 * values becomes one field, its values joined with ", "; a list of objects is numbered from 1. Written as a loop, not as
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
      for (let i = value.length - 1; i >= 0; i--)
        stack.push({ value: value[i], path: [...here.path, String(i + 1)], depth: here.depth + 1 });
    } else if (value !== null && typeof value === 'object' && !Array.isArray(value)) {
      for (const [name, inner] of Object.entries(value).reverse())
        stack.push({ value: inner, path: [...here.path, name], depth: here.depth + 1 });
    } else {
      if (fields.length >= limits.count) return { ok: false, problem: 'too-many' };
      const key = storableText(here.path.join('.')).slice(0, 200) || 'value';
      fields.push({ key, label: labelFromKey(key), value: plainValue(value, limits) });
    }
    if (stack.length > limits.count * 4) return { ok: false, problem: 'too-many' };
  }
  return { ok: true, fields };
}

function plainValue(value: unknown, limits: FieldLimits): string {
  if (value === null || value === undefined) return '';
  const text = Array.isArray(value) ? value.map((item) => String(item ?? '')).join(', ') : String(value);
  return storableText(text).slice(0, limits.length);
}
