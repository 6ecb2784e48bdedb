import type { FieldReference } from './field-reference.ts';
import type { Argument, FilterCall } from './filter-call.ts';
import type { Made, Surroundings } from './filters/filter.ts';
import { filterOf } from './filters/registry.ts';

/** What an argument holds: its text, the value of the field it names, or nothing. */
export const argumentText = (arg: Argument, held: (reference: FieldReference) => string): string =>
  'text' in arg ? arg.text : 'reference' in arg ? held(arg.reference) : '';

/** What comes of a value after each thing that is done with it, in order; what there is no such thing for is left out and said. */
export function workedOn(
  value: string,
  calls: readonly FilterCall[],
  held: (reference: FieldReference) => string,
  surroundings: Surroundings,
): Made[] {
  let current = value;
  return calls.map(({ name, args }) => {
    const made = filterOf(name)?.apply(
      current,
      args.map((arg) => argumentText(arg, held)),
      surroundings,
    ) ?? { value: current, problem: `nothing here is called “${name}”` };
    current = made.value;
    return made;
  });
}
