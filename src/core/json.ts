import { isInteger, isSafeNumber, parse } from 'lossless-json';

/**
 * JSON as it was meant: a whole number too long for a double (RFC 8259 §6: beyond 2^53) is an id and keeps its digits, as text. The
 * last of repeated names counts, as in JSON.parse, which reads everything else.
 *
 * @throws SyntaxError as JSON.parse does
 */
export function parseJson(text: string): unknown {
  const value: unknown = JSON.parse(text);
  if (!/\d{16}/.test(text)) return value;
  return parse(text, null, {
    parseNumber: (digits) => (isInteger(digits) && !isSafeNumber(digits) ? digits : Number(digits)),
    onDuplicateKey: ({ newValue }) => newValue,
  });
}

/** Whether a text of JSON nests deeper than that, without reading it. */
export function nestsDeeperThan(text: string, limit: number): boolean {
  let depth = 0;
  let inString = false;
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (inString) {
      if (c === 92) i++;
      else if (c === 34) inString = false;
    } else if (c === 34) inString = true;
    else if (c === 123 || c === 91) {
      if (++depth > limit) return true;
    } else if (c === 125 || c === 93) depth--;
  }
  return false;
}
