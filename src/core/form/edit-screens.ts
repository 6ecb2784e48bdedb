import type { z } from 'zod';
import type { FormField, FormScreen } from './form-page.ts';

/** A screen of a form with its questions, as it is being built. */
export type Screen = z.infer<typeof FormScreen>;

/** Questions whose answer is a field of the lead itself, by key. */
export const LEAD_KEYS = ['first_name', 'last_name', 'email'] as const;
const isLeadKey = (key: string): boolean => LEAD_KEYS.some((leadKey) => leadKey === key);

/** The consent tick's own key, which no question can have. */
const CONSENT_KEY = 'consent';

/** A key for a question by its words ("Which instrument?": "which_instrument"), other than those taken. */
export function keyFrom(label: string, taken: readonly string[]): string {
  const base =
    label
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '_')
      .replace(/^[^a-z]+|_$/g, '')
      .slice(0, 40) || 'answer';
  for (let n = 1; ; n++) {
    const key = n === 1 ? base : `${base}_${n}`;
    if (key !== CONSENT_KEY && !taken.includes(key)) return key;
  }
}

export const keysOf = (screens: readonly Screen[]): string[] =>
  screens.flatMap((screen) => screen.fields.map((field) => field.key));

/** The keys of all questions but this one. */
export const otherKeys = (screens: readonly Screen[], field: FormField): string[] =>
  screens.flatMap((screen) => screen.fields.filter((other) => other !== field).map((other) => other.key));

export const withScreen = (screens: readonly Screen[], index: number, change: Partial<Screen>): Screen[] =>
  screens.map((screen, i) => (i === index ? { ...screen, ...change } : screen));

/** With one more question at the end of a screen, still without words. */
export const withQuestion = (screens: readonly Screen[], index: number): Screen[] =>
  withScreen(screens, index, {
    fields: [
      ...screens[index]!.fields,
      { key: keyFrom('question', keysOf(screens)), label: '', kind: 'short', required: false, help: '', choices: [] },
    ],
  });

/**
 * A question with other words, and the key that goes with them. `kept` are the keys that have been saved: answers are known by them, so another wording
 * changes none of them, nor that of a field of the lead itself.
 */
export const reworded = (
  field: FormField,
  label: string,
  taken: readonly string[],
  kept: readonly string[],
): FormField => ({
  ...field,
  label,
  key: kept.includes(field.key) || isLeadKey(field.key) ? field.key : keyFrom(label, taken),
});

/** The questions with one of them further up (-1) or down (1); as they are where there is no further. */
export function moved(fields: readonly FormField[], at: number, by: -1 | 1): FormField[] {
  const to = at + by;
  if (to < 0 || to >= fields.length) return [...fields];
  return fields.toSpliced(at, 1).toSpliced(to, 0, fields[at]!);
}

/** A question whose answer is a field of the lead (`leadKey`), or one of its own (empty). One of its own already keeps its key. */
export function answering(field: FormField, leadKey: string, taken: readonly string[]): FormField {
  if (leadKey === '' && !isLeadKey(field.key)) return field;
  return { ...field, key: leadKey || keyFrom(field.label, [...taken, ...LEAD_KEYS]) };
}

/** Fields of the lead a question can still be: those no other question is. */
export const leadKeysFor = (field: FormField, taken: readonly string[]) =>
  LEAD_KEYS.filter((leadKey) => leadKey === field.key || !taken.includes(leadKey));

/** The field of the lead a question is; empty for one of its own. */
export const leadKeyOf = (field: FormField): string => (isLeadKey(field.key) ? field.key : '');

/** What can be chosen, from lines as they are typed. */
export const choicesOf = (typed: string): string[] =>
  typed
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean);
