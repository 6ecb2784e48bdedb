import { LRUCache } from 'lru-cache';
import { type FieldReference, readReference } from '../template/field-reference.ts';
import { renderTemplate, type TemplateScope, templatePieces } from '../template/template.ts';

/** What a call is given and what the business filled in: values by name. Those of `given` may be whole lists and fields. */
export interface Filling {
  given: Record<string, unknown>;
  account: Record<string, string>;
}

export type Filled = { ok: true; text: string } | { ok: false; problem: string };
type Filler = (filling: Filling) => Filled;

const plain = (value: unknown): string =>
  value === null || value === undefined || typeof value === 'object' ? '' : String(value);
/** The value of one name; own ones only. */
const ofName = ({ given, account }: Filling, { group, key }: FieldReference): unknown => {
  const of = group === 'given' ? given : group === 'account' ? account : {};
  return Object.hasOwn(of, key) ? (of as Record<string, unknown>)[key] : undefined;
};

const fillers = new LRUCache<string, Filler>({ max: 2000 });

/** How a text is filled. What names fields and nothing else is put together straight away: nearly all do, and every message goes through several. */
function fillerOf(source: string): Filler {
  const kept = fillers.get(source);
  if (kept) return kept;
  const pieces = templatePieces(source);
  const simple = pieces.every((piece) => piece.kind === 'text' || (piece.filters.length === 0 && piece.reference));
  const made: Filler = simple
    ? (filling) => {
        let text = '';
        for (const piece of pieces)
          text += piece.kind === 'text' ? piece.text : plain(ofName(filling, piece.reference!));
        return { ok: true, text };
      }
    : (filling) => {
        const rendered = renderTemplate(source, {
          given: filling.given,
          account: filling.account,
        } as unknown as TemplateScope);
        return rendered.ok ? rendered : { ok: false, problem: rendered.problem.text };
      };
  fillers.set(source, made);
  return made;
}

export const fill = (source: string, filling: Filling): Filled => fillerOf(source)(filling);

/** The same, with whatever comes from a field percent-encoded, so that nothing anybody typed changes where an address leads (WHATWG URL). */
export function fillEncoded(source: string, filling: Filling): Filled {
  let text = '';
  for (const piece of templatePieces(source)) {
    if (piece.kind === 'text') {
      text += piece.text;
      continue;
    }
    const one = fill(piece.source, filling);
    if (!one.ok) return one;
    text += encodeURIComponent(one.text.toWellFormed());
  }
  return { ok: true, text };
}

/** The one value a text names, with its lists and fields; undefined when it names none, or more. */
export function wholeValue(source: string, filling: Filling): unknown {
  const reference = readReference(source.trim().replace(/^\{\{-?|-?\}\}$/g, ''));
  return reference ? ofName(filling, reference) : undefined;
}
