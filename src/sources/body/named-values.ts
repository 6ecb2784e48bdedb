import type { SourceProblem } from '../../core/source/source-kind.ts';

/** Most values in one form, repeated names and all. */
const MOST_VALUES = 2000;

export const TOO_MANY: SourceProblem = {
  ok: false,
  code: 'too-many',
  problem: `It has more than ${MOST_VALUES.toLocaleString('en')} fields. Send one lead at a time.`,
};

/** Values under their names as a form gives them. Repeated names become a list, in order. A Map, so that "__proto__" is only a name. */
export class NamedValues {
  private readonly values = new Map<string, string[]>();
  private count = 0;

  /** False when there are more than anybody needs. */
  add(name: string, value: string): boolean {
    const there = this.values.get(name);
    if (there) there.push(value);
    else this.values.set(name, [value]);
    return ++this.count <= MOST_VALUES;
  }

  get size(): number {
    return this.values.size;
  }

  value(): Record<string, string | string[]> {
    return Object.fromEntries([...this.values].map(([name, list]) => [name, list.length === 1 ? list[0]! : list]));
  }
}
