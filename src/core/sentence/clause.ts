import { CLOCK, type Masked, NAMED, type Token, tokenAt } from './mask.ts';

/** A part of a masked sentence that is read from its front. What is read is noted, so that what is left can be said. */
export class Clause {
  private at = 0;
  constructor(
    readonly masked: Masked,
    /** Where it begins in the masked sentence. */
    private readonly offset: number,
    private readonly text: string,
  ) {}

  /** What is left of it. */
  get rest(): string {
    return this.text.slice(this.at);
  }
  get done(): boolean {
    return !/[\p{L}\p{N}\uE000-\uF3FF]/u.test(this.rest);
  }
  /** Where its next letter stands in what was typed. */
  get place(): { from: number; to: number } {
    const first = this.offset + this.at + (/^\s*/.exec(this.rest)?.[0].length ?? 0);
    const trimmed = this.text.trimEnd().length;
    return { from: this.masked.from[first] ?? 0, to: this.masked.to[this.offset + trimmed - 1] ?? 0 };
  }
  /** Reads what the grammar's words match at its front; null where they do not. */
  eat(words: RegExp): RegExpExecArray | null {
    const found = words.exec(this.rest);
    if (found?.index !== 0 || found[0] === '') return null;
    this.at += found[0].length;
    return found;
  }
  /** What may be tried and taken back. */
  mark(): number {
    return this.at;
  }
  back(mark: number): void {
    this.at = mark;
  }
  /** Where what was read since a mark stands in what was typed. */
  since(mark: number): { from: number; to: number } {
    const read = this.text.slice(mark, this.at);
    const begin = mark + (read.length - read.trimStart().length);
    const end = mark + read.trimEnd().length;
    return {
      from: this.masked.from[this.offset + begin] ?? 0,
      to: this.masked.to[this.offset + Math.max(begin, end - 1)] ?? 0,
    };
  }
  token(letter: string): Token {
    return tokenAt(this.masked, letter);
  }
}

/** Words of the grammar at the front of a clause, with one blank for any number. */
export const words = (pattern: string): RegExp =>
  new RegExp(`^\\s*(?:${pattern.replaceAll(' ?', '\\s*').replaceAll(' ', '\\s+')})(?=[^\\p{L}\\p{N}]|$)`, 'u');

/** The sentences of a masked text, each parted into its clauses. "A, B and C" and "9:00 and 17:00" stay together. */
export function clausesOf(masked: Masked): Clause[][] {
  // Letter for letter, so that every place stays where it is.
  const joined = masked.text
    .replace(new RegExp(`(${NAMED}),(?=\\s${NAMED})`, 'gu'), '$1\u201A')
    .replace(new RegExp(`(${NAMED}) and (?=${NAMED})`, 'gu'), '$1 \u2014\u2014\u2014 ')
    .replace(new RegExp(`(${CLOCK}) and (?=${CLOCK})`, 'gu'), '$1 \u2014\u2014\u2014 ')
    .replace(
      / and (?=(?:the |their )?(?:phone(?: number)?|names?|e-?mail(?: address)?)(?:,|\.|;|$))/g,
      ' \u2014\u2014\u2014 ',
    )
    .replace(/((?:one|none) of [^,.;()]*),(?=[^.;()]*\))/g, '$1\u201A')
    .replace(new RegExp(`,(?= ${CLOCK})`, 'gu'), '\u201A')
    .replace(/,(?= (?:due within|next |soonest |by the lead|(?:phone|names?|e-?mail)(?= and|,|\.|;|$)))/g, '\u201A');
  const sentences: Clause[][] = [];
  let clauses: Clause[] = [];
  let from = 0;
  const push = (to: number) => {
    if (joined.slice(from, to).trim() !== '') clauses.push(new Clause(masked, from, joined.slice(from, to)));
  };
  for (const found of joined.matchAll(
    /[.!?;\n](?=\s|$)|,\s?(?:(?:and|but)\s)?|:(?=\s)(?!\s[\uE800-\uEBFF])|\s(?:and|but)\s/gu,
  )) {
    push(found.index);
    from = found.index + found[0].length;
    if (/^[.!?;\n]/.test(found[0])) {
      sentences.push(clauses);
      clauses = [];
    }
  }
  push(joined.length);
  sentences.push(clauses);
  return sentences.filter((one) => one.length > 0);
}
