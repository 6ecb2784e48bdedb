import { GROUP_LABELS } from '../core/template/field-reference.ts';
import type { PickableField } from './field-picker.ts';

const words = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[^\p{L}\p{N}]+/u)
    .filter(Boolean);

/**
 * The fields that fit what was typed: every word of it begins a word of the field's name, its group, its key with all its levels, or its value. Those whose
 * name begins with it come first; otherwise they stay in their order.
 */
export function foundFields<Field extends PickableField>(fields: readonly Field[], typed: string): Field[] {
  const wanted = words(typed);
  if (wanted.length === 0) return [...fields];
  const whole = typed.trim().toLowerCase();
  const fits = fields.filter((field) => {
    const there = words(`${field.label} ${GROUP_LABELS[field.group]} ${field.key.replaceAll('_', ' ')} ${field.value}`);
    return wanted.every((word) => there.some((other) => other.startsWith(word)));
  });
  const first = (field: Field) => (field.label.toLowerCase().startsWith(whole) ? 0 : 1);
  return fits
    .map((field, index) => ({ field, index }))
    .sort((a, b) => first(a.field) - first(b.field) || a.index - b.index)
    .map(({ field }) => field);
}

/** Names that more than one field has: those are told apart by where they stand. */
export function namedAlike(fields: readonly PickableField[]): ReadonlySet<string> {
  const seen = new Set<string>();
  const twice = new Set<string>();
  for (const { label, group } of fields) {
    const name = `${group} ${label}`;
    if (seen.has(name)) twice.add(label);
    seen.add(name);
  }
  return twice;
}
