import { Liquid, type Template } from 'liquidjs';
import { LRUCache } from 'lru-cache';
import { dateInMessage, type Reader } from '../words/date-in-message.ts';
import { type FieldReference, readReference, referenceLabel } from './field-reference.ts';
import { type FilterCall, readCall, splitAt } from './filter-call.ts';
import type { Filter, Surroundings } from './filters/filter.ts';
import { FILTERS } from './filters/registry.ts';

/** Under this a scope says who reads what comes out: then dates are written as people write them. */
export const READER = Symbol('reader');
/** Under this a scope says where and when, for what is done with numbers and dates. */
export const SURROUNDINGS = Symbol('surroundings');
const NOWHERE: Surroundings = { locale: 'en-GB', country: 'GB', timeZone: 'UTC', now: null };

/** What liquidjs hands to what writes outputs. */
interface Rendering {
  context: { environments: unknown; memoryLimit: { use(count: number): void } };
}

/** What an output gives: text and nothing else, no object of ours, and for people no date as machines write it. */
function asText(this: Rendering, value: unknown): string {
  const reader = (this.context.environments as Partial<TemplateScope>)[READER];
  const text = plain(value);
  // What comes out counts towards the limit as well: what runs away is stopped.
  this.context.memoryLimit.use(text.length);
  return reader ? dateInMessage(text, reader) : text;
}
/** What a lead typed never becomes markup. */
function asHtml(this: Rendering, value: unknown): string {
  return asText.call(this, value).replace(/[&<>"']/g, (c) => HTML[c]!);
}
/** One of ours as liquidjs calls it. What cannot be worked on stays as it is; what it makes counts towards the limit. */
const asFilter = ({ apply }: Filter) =>
  function (this: Rendering, value: unknown, ...args: unknown[]): string {
    const surroundings = (this.context.environments as Partial<TemplateScope>)[SURROUNDINGS] ?? NOWHERE;
    const made = apply(plain(value), args.map(plain), surroundings).value;
    this.context.memoryLimit.use(made.length);
    return made;
  };
const plain = (value: unknown): string =>
  value === null || value === undefined || typeof value === 'object' || typeof value === 'function'
    ? ''
    : String(value);
const HTML: Record<string, string> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&#34;', "'": '&#39;' };

/**
 * Messages are stored as Liquid (liquidjs, strict parse). Only output tags and our own filters are allowed, and the
 * limits stop a template from running away: so many characters to parse, 500 ms to render, about so many bytes to render to.
 */
function liquid(characters: number, bytes: number, html: boolean): Liquid {
  const made = new Liquid({
    strictFilters: true,
    strictVariables: false,
    ownPropertyOnly: true,
    parseLimit: characters,
    renderLimit: 500,
    memoryLimit: bytes,
    cache: false,
    outputEscape: html ? asHtml : asText,
  });
  for (const name of Object.keys(made.filters)) if (!(html && name === 'escape')) delete made.filters[name];
  for (const name of Object.keys(made.tags)) delete made.tags[name];
  for (const [name, filter] of Object.entries(FILTERS)) made.registerFilter(name, asFilter(filter));
  return made;
}
const ENGINES = { text: liquid(1e5, 1e6, false), html: liquid(1e6, 1e7, true) };
type Form = keyof typeof ENGINES;

/** Values a message may use, by group and key. Every value is text. */
export type TemplateScope = Record<FieldReference['group'], Record<string, string>> & {
  [READER]?: Reader | undefined;
  [SURROUNDINGS]?: Surroundings | undefined;
};

export interface TemplateProblem {
  /** What is wrong, in a sentence. */
  text: string;
}

type Compiled = { ok: true; parts: Template[] } | { ok: false; problem: TemplateProblem };
const compiled = {
  text: new LRUCache<string, Compiled>({ max: 500 }),
  html: new LRUCache<string, Compiled>({ max: 50 }),
};

function compile(source: string, form: Form = 'text'): Compiled {
  const cache = compiled[form];
  const kept = cache.get(source);
  if (kept) return kept;
  let made: Compiled;
  try {
    // Read whole first, so that what cannot be read is told; then without what names no field, which would come out as something else.
    ENGINES[form].parse(source);
    made = { ok: true, parts: ENGINES[form].parse(onlyFields(source)) };
  } catch (error) {
    made = { ok: false, problem: { text: problemText(error) } };
  }
  cache.set(source, made);
  return made;
}

function problemText(error: unknown): string {
  const first = (error instanceof Error ? error.message : String(error))
    .split('\n')[0]!
    .replace(/, (line|file):.*$/, '');
  return `The message cannot be read: ${first}. Put fields in from the list on the left, or check the curly brackets.`;
}

export type Rendered = { ok: true; text: string } | { ok: false; problem: TemplateProblem };

/** Fills a message. Fields that are not there come out empty; in HTML what they hold is escaped. */
export function renderTemplate(source: string, scope: TemplateScope, form: Form = 'text'): Rendered {
  const made = compile(source, form);
  if (!made.ok) return made;
  try {
    return { ok: true, text: String(ENGINES[form].renderSync(made.parts, scope)) };
  } catch (error) {
    return { ok: false, problem: { text: problemText(error) } };
  }
}

export const templateProblem = (source: string): TemplateProblem | null => {
  const made = compile(source);
  return made.ok ? null : made.problem;
};

/** Outputs of text itself: `{{ "Hello" }}`, `{{ 5 }}`. */
const LITERAL = /^("[^"]*"|'[^']*'|-?\d+(\.\d+)?)$/;

/** Whether an output names something that is no field: then nothing stands in its place. */
export const namesNothing = (piece: TemplatePiece): boolean =>
  piece.kind === 'field' && piece.reference === null && !LITERAL.test(headOf(piece.source));

/** What an output names, as written, without its tidyings. */
export const headOf = (output: string): string => splitAt('|', output.replace(/^\{\{-?|-?\}\}$/g, ''))[0]!.trim();

const onlyFields = (source: string): string =>
  templatePieces(source)
    .map((piece) => (piece.kind === 'text' ? piece.text : namesNothing(piece) ? '' : piece.source))
    .join('');

/** Where fields stand in a message: from two braces to the next two that close. Goes through it once, whatever stands in it. */
export function* outputsOf(source: string): Generator<{ index: number; source: string; inner: string }> {
  for (let index = source.indexOf('{{'); index >= 0; ) {
    const end = source.indexOf('}}', index + 2);
    if (end < 0) return;
    const inner = source
      .slice(index + 2, end)
      .replace(/^-/, '')
      .replace(/-$/, '');
    yield { index, source: source.slice(index, end + 2), inner };
    index = source.indexOf('{{', end + 2);
  }
}

/** One piece of a message: plain text, or a field with its tidyings as written. */
export type TemplatePiece =
  | { kind: 'text'; text: string }
  | {
      kind: 'field';
      source: string;
      reference: FieldReference | null;
      filters: FilterCall[];
    };

/** Cuts a message into text and fields, for chips and for finding which fields it uses. */
export function templatePieces(source: string): TemplatePiece[] {
  const pieces: TemplatePiece[] = [];
  let from = 0;
  for (const output of outputsOf(source)) {
    if (output.index > from) pieces.push({ kind: 'text', text: source.slice(from, output.index) });
    const [head = '', ...filters] = splitAt('|', output.inner);
    pieces.push({
      kind: 'field',
      source: output.source,
      reference: readReference(head),
      filters: filters.map(readCall),
    });
    from = output.index + output.source.length;
  }
  if (from < source.length) pieces.push({ kind: 'text', text: source.slice(from) });
  return pieces;
}

/** The text of a message without its fields. */
export const templateText = (source: string): string =>
  templatePieces(source)
    .map((piece) => (piece.kind === 'text' ? piece.text : ''))
    .join('');

/** A message as people read it where it is not filled: fields by their names, line breaks as spaces. */
export const templateWords = (source: string, labels?: ReadonlyMap<string, string>): string =>
  templatePieces(source)
    .map((piece) => {
      if (piece.kind === 'text') return piece.text;
      return piece.reference ? referenceLabel(piece.reference, labels) : '…';
    })
    .join('')
    .replace(/\s+/g, ' ')
    .trim();

/** Every field a message names, those a field is worked on with as well. */
export function usedReferences(source: string): FieldReference[] {
  return templatePieces(source).flatMap((piece) => (piece.kind === 'field' ? referencesOf(piece) : []));
}

/** The fields one output names: its own, and those that are given to what is done with it. */
export const referencesOf = ({ reference, filters }: Extract<TemplatePiece, { kind: 'field' }>): FieldReference[] => [
  ...(reference ? [reference] : []),
  ...filters.flatMap(({ args }) => args.flatMap((arg) => ('reference' in arg ? [arg.reference] : []))),
];
