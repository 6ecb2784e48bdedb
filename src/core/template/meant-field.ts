import { distance } from 'fastest-levenshtein';
import { type FieldReference, referenceLabel } from './field-reference.ts';

/** Letters and figures of a name, for comparing what was typed with what there is. */
const bare = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '');

/**
 * The field somebody most likely meant who wrote one that does not exist: with another prefix, in capitals, with a space, or a slip or two of the
 * finger away. Null when nothing is near. `labels` are those of the source's own fields, by key.
 */
export function meantField(
  typed: string,
  known: readonly FieldReference[],
  labels?: ReadonlyMap<string, string>,
): FieldReference | null {
  const whole = bare(typed);
  const last = bare(
    typed
      .split(/[.[\]]/)
      .filter(Boolean)
      .at(-1) ?? '',
  );
  let best: { field: FieldReference; far: number } | null = null;
  for (const field of known) {
    const names = [`${field.group}${field.key}`, field.key, referenceLabel(field, labels)].map(bare);
    for (const name of names)
      for (const text of [whole, last]) {
        if (name === '' || text === '') continue;
        const slips = distance(text, name);
        // A name that fits as a whole is meant rather than one that shares its last word.
        const far = slips + (text === whole ? 0 : 0.5);
        if (slips <= Math.min(2, Math.floor(name.length / 3)) && (!best || far < best.far)) best = { field, far };
      }
  }
  return best?.field ?? null;
}
