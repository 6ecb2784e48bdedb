import { type FieldReference, readReference, writeReference } from './field-reference.ts';

/** What a filter is given: a text as it stands, another field, or something that is neither. */
export type Argument = { text: string } | { reference: FieldReference } | { unknown: string };

/** A filter as a message uses it: `replace: "a", "b"`. */
export interface FilterCall {
  name: string;
  args: Argument[];
}

/** Splits at marks that are not inside quotation marks. */
export function splitAt(mark: '|' | ',', text: string): string[] {
  const parts: string[] = [];
  let quote = '';
  let from = 0;
  for (let i = 0; i < text.length; i++) {
    const letter = text[i]!;
    if (quote !== '') {
      if (letter === quote) quote = '';
    } else if (letter === '"' || letter === "'") quote = letter;
    else if (letter === mark) {
      parts.push(text.slice(from, i));
      from = i + 1;
    }
  }
  parts.push(text.slice(from));
  return parts;
}

function readArgument(written: string): Argument {
  const text = written.trim();
  const quote = text[0];
  if (text.length >= 2 && (quote === '"' || quote === "'") && text.at(-1) === quote) return { text: text.slice(1, -1) };
  if (/^-?\d+(?:\.\d+)?$/.test(text)) return { text };
  const reference = readReference(text);
  return reference ? { reference } : { unknown: text };
}

export function readCall(written: string): FilterCall {
  const text = written.trim();
  const colon = text.indexOf(':');
  const name = colon < 0 ? text : text.slice(0, colon).trim();
  const given = colon < 0 ? '' : text.slice(colon + 1);
  return { name, args: given.trim() === '' ? [] : splitAt(',', given).map(readArgument) };
}

/** A text in quotes. Liquid has no way to write both kinds of quotes in one text, and braces would end the field: those are written otherwise. */
function quoted(text: string): string {
  const plain = text.replace(/[{}]/g, (brace) => (brace === '{' ? '(' : ')')).replace(/[\r\n]+/g, ' ');
  if (!plain.includes('"')) return `"${plain}"`;
  return plain.includes("'") ? `"${plain.replaceAll('"', '”')}"` : `'${plain}'`;
}

const writeArgument = (arg: Argument): string => {
  if ('reference' in arg) return writeReference(arg.reference);
  if ('unknown' in arg) return arg.unknown;
  return /^-?\d{1,15}$/.test(arg.text) ? arg.text : quoted(arg.text);
};

export const writeCall = ({ name, args }: FilterCall): string =>
  args.length === 0 ? name : `${name}: ${args.map(writeArgument).join(', ')}`;

/** A field with all that is done with it, as a message holds it. `head` is the field as it is written. */
export const writeOutput = (head: string, calls: readonly FilterCall[]): string =>
  `{{ ${[head, ...calls.map(writeCall)].join(' | ')} }}`;
