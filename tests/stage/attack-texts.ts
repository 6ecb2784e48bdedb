/**
 * One text of about `size` characters, made to cost whoever reads it. Deterministic, so that a finding can be repeated; in whole pieces, so that texts
 * of two lengths end alike and the one is not refused where the other is read.
 */
export type Attack = [name: string, text: (size: number) => string];

const many = (piece: string) => (size: number) => piece.repeat(Math.ceil(size / piece.length));
const between = (head: string, piece: string, tail: string) => (size: number) =>
  head + many(piece)(Math.max(0, size - head.length - tail.length)) + tail;
const counted = (piece: (n: number) => string, length: number) => (size: number) =>
  Array.from({ length: Math.ceil(size / length) }, (_, n) => piece(n)).join('');

/** What has been seen to cost, or would where somebody looks twice: repeated openings, runs before a mismatch, numbers of parts. */
export const PIECES: Attack[] = [
  ['spaces', many(' ')],
  ['spaces before a letter', between('', ' ', 'x')],
  ['line ends', many('\r\n')],
  ['tabs and spaces', many(' \t')],
  ['one long word', many('a')],
  ['dots', many('.')],
  ['commas', many(',')],
  ['ats', many('@')],
  ['digits', many('1')],
  ['digits and dots', many('1.')],
  ['opening braces', many('{{')],
  ['opening brackets', many('[')],
  ['opening rounds', many('(')],
  ['quotes', many('"')],
  ['backslashes', many('\\')],
  ['underlines', many('_')],
  ['colons', many(':')],
  ['label after label', counted((n) => `Label ${n % 70}: x\n`, 12)],
  ['one label, many lines', between('Label:\n', 'x\n', '')],
  ['tags that open', many('<a ')],
  ['tags', many('<a>')],
  ['tags opened and shut', many('<a></a>')],
  ['comments that open', many('<!--')],
  ['comments', many('<!---->')],
  ['CDATA that opens', many('<![CDATA[')],
  ['instructions that open', many('<?a ')],
  ['declarations', many('<!DOCTYPE ')],
  ['ampersands', many('&')],
  ['entities', many('&amp;')],
  ['attributes', between('<a ', 'b="c" ', '/>')],
  ['the same attribute', between('<a ', 'b=', '/>')],
  ['quoted printable', many('=41')],
  ['encoded words', many('=?utf-8?q?a?= ')],
  ['encoded words that open', many('=?utf-8?q?')],
  ['quoted lines', many('> ')],
  ['quotes of quotes', many('>')],
  ['links', many('http://a.b/ ')],
  ['address after address', many('a@b.example, ')],
  ['combining marks', many('a\u0301')],
  ['marks alone', many('\u0301')],
  ['surrogates alone', many('\ud800')],
  ['full width', many('\uff33')],
  ['capitals', many('STOP ')],
  ['hyphens', many('-')],
  ['apostrophes', many("O'")],
];
