import { GROUP_LABELS } from '../core/template/field-reference.ts';
import { beginWith } from './begins-words.ts';
import type { PickableField } from './field-picker.ts';

/** The fields that fit what was typed: by name, by group, by any level of their key, or by the sample's value. */
export const foundFields = <Field extends PickableField>(fields: readonly Field[], typed: string): Field[] =>
  beginWith(fields, typed, ({ label, group, key, value }) => ({
    name: label,
    by: `${label} ${GROUP_LABELS[group]} ${key.replaceAll('_', ' ')} ${value}`,
  }));

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
