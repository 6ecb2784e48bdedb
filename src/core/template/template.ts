import { Liquid, type Template } from 'liquidjs';
import { type FieldReference, readReference } from './field-reference.ts';
import { FIELD_FILTERS } from './filters.ts';

/**
 * Messages are stored as Liquid (liquidjs, strict parse). Only output tags and our own filters are allowed for now, and the
 * limits stop a template from running away: 100,000 characters to parse, 500 ms and about 1 MB to render.
 */
const engine = new Liquid({
  strictFilters: true,
  strictVariables: false,
  ownPropertyOnly: true,
  parseLimit: 1e5,
  renderLimit: 500,
  memoryLimit: 1e6,
  cache: false,
});
for (const name of Object.keys(engine.filters)) if (!Object.hasOwn(FIELD_FILTERS, name)) delete engine.filters[name];
for (const name of Object.keys(engine.tags)) delete engine.tags[name];
engine.registerFilter(
  'first_word',
  (value: unknown) =>
    String(value ?? '')
      .trim()
      .split(/\s+/u)[0] ?? '',
);

/** Values a message may use, by group and key. Every value is text. */
export type TemplateScope = Record<FieldReference['group'], Record<string, string>>;

export interface TemplateProblem {
  /** What is wrong, in a sentence. */
  text: string;
}

type Compiled = { ok: true; parts: Template[] } | { ok: false; problem: TemplateProblem };
const compiled = new Map<string, Compiled>();
const KEEP = 500;

function compile(source: string): Compiled {
  const kept = compiled.get(source);
  if (kept) return kept;
  let made: Compiled;
  try {
    made = { ok: true, parts: engine.parse(source) };
  } catch (error) {
    made = { ok: false, problem: { text: problemText(error) } };
  }
  // The oldest goes first: a Map keeps the order of insertion.
  if (compiled.size >= KEEP) compiled.delete(compiled.keys().next().value!);
  compiled.set(source, made);
  return made;
}

function problemText(error: unknown): string {
  const first = (error instanceof Error ? error.message : String(error))
    .split('\n')[0]!
    .replace(/, (line|file):.*$/, '');
  return `The message cannot be read: ${first}. Put fields in from the list on the left, or check the curly brackets.`;
}

export type Rendered = { ok: true; text: string } | { ok: false; problem: TemplateProblem };

/** Fills a message. Fields that are not there come out empty. */
export function renderTemplate(source: string, scope: TemplateScope): Rendered {
  const made = compile(source);
  if (!made.ok) return made;
  try {
    return { ok: true, text: String(engine.renderSync(made.parts, scope)) };
  } catch (error) {
    return { ok: false, problem: { text: problemText(error) } };
  }
}

export const templateProblem = (source: string): TemplateProblem | null => {
  const made = compile(source);
  return made.ok ? null : made.problem;
};

const OUTPUT = /\{\{-?([\s\S]*?)-?\}\}/g;

/** One piece of a message: plain text, or a field with its tidyings as written. */
export type TemplatePiece =
  | { kind: 'text'; text: string }
  | {
      kind: 'field';
      source: string;
      reference: FieldReference | null;
      filters: { name: string; argument: string | null }[];
    };

/** Cuts a message into text and fields, for chips and for finding which fields it uses. */
export function templatePieces(source: string): TemplatePiece[] {
  const pieces: TemplatePiece[] = [];
  let from = 0;
  for (const match of source.matchAll(OUTPUT)) {
    if (match.index > from) pieces.push({ kind: 'text', text: source.slice(from, match.index) });
    const [head = '', ...filters] = splitPipes(match[1]!);
    pieces.push({
      kind: 'field',
      source: match[0],
      reference: readReference(head),
      filters: filters.map((filter) => {
        const m = /^(\w+)(?:\s*:\s*(.*))?$/s.exec(filter.trim());
        const argument = m?.[2]?.trim().replace(/^(["'])(.*)\1$/s, '$2') ?? null;
        return { name: m?.[1] ?? filter.trim(), argument };
      }),
    });
    from = match.index + match[0].length;
  }
  if (from < source.length) pieces.push({ kind: 'text', text: source.slice(from) });
  return pieces;
}

/** Splits at pipes that are not inside quotation marks. */
function splitPipes(text: string): string[] {
  return text.match(/(?:"[^"]*"|'[^']*'|[^|"'])+/g) ?? [''];
}

export function usedReferences(source: string): FieldReference[] {
  return templatePieces(source).flatMap((piece) =>
    piece.kind === 'field' && piece.reference ? [piece.reference] : [],
  );
}
