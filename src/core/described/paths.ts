import { JSONPathEnvironment, type JSONPathQuery, type JSONValue } from 'json-p3';
import { LRUCache } from 'lru-cache';

const environment = new JSONPathEnvironment();
// Patterns of a stranger's file could run for years on an answer made for them.
environment.functionRegister.delete('match');
environment.functionRegister.delete('search');

type Compiled = { ok: true; query: JSONPathQuery } | { ok: false; problem: string };
const compiled = new LRUCache<string, Compiled>({ max: 2000 });

/** What is left of a path without the texts in it. */
const withoutTexts = (path: string) => path.replace(/'(?:[^'\\]|\\.)*'|"(?:[^"\\]|\\.)*"/g, "''");

function compile(path: string): Compiled {
  const kept = compiled.get(path);
  if (kept) return kept;
  let made: Compiled;
  try {
    const bare = withoutTexts(path);
    // Each of these goes through the whole answer; one inside the other would go through it as often as it is long.
    const through = (bare.match(/\.\.|\?/g) ?? []).length;
    if (through > 1 || (bare.match(/\$/g) ?? []).length > 1)
      made = {
        ok: false,
        problem: 'It may look through everything (..) or choose by a condition (?) once, not several times.',
      };
    else made = { ok: true, query: environment.compile(path) };
  } catch (error) {
    const said = error instanceof Error ? error.message : String(error);
    made = { ok: false, problem: /match|search/.test(said) ? 'Patterns (match, search) are not read here.' : said };
  }
  compiled.set(path, made);
  return made;
}

/** What is wrong with a JSONPath (RFC 9535); null when it can be read. */
export function pathProblem(path: string): string | null {
  const made = compile(path);
  return made.ok ? null : `The path “${path.slice(0, 80)}” cannot be read: ${made.problem}`;
}

/** Names only, one after the other, as nearly all paths are. */
const NAMES = /^\$(?:\.[A-Za-z_]\w*)+$/;
const namesOf = new LRUCache<string, readonly string[] | 'no'>({ max: 2000 });

/** The names of a path that has nothing else in it; null for any other. */
function onlyNames(path: string): readonly string[] | null {
  let kept = namesOf.get(path);
  if (kept === undefined) {
    kept = NAMES.test(path) ? path.slice(2).split('.') : 'no';
    namesOf.set(path, kept);
  }
  return kept === 'no' ? null : kept;
}

/** What stands under names, one in the other (RFC 9535 §2.5.1.2: a name selects the member of an object, and nothing of a list). */
function atNames(names: readonly string[], answer: unknown): unknown[] {
  let at = answer;
  for (const name of names) {
    if (typeof at !== 'object' || at === null || Array.isArray(at) || !Object.hasOwn(at, name)) return [];
    at = (at as Record<string, unknown>)[name];
  }
  return [at];
}

/** Everything a path finds in an answer, in order; nothing for a path that cannot be read. */
export function valuesAt(path: string, answer: unknown): unknown[] {
  if (path === '') return [];
  const names = onlyNames(path);
  if (names) return atNames(names, answer);
  const made = compile(path);
  try {
    return made.ok ? made.query.query(answer as JSONValue).values() : [];
  } catch {
    // Nested deeper than a path goes: nothing is found there.
    return [];
  }
}
