/**
 * How many parts a text message is sent in.
 *
 * Source: 3GPP TS 23.038 §6.2.1 (the 7-bit default alphabet and its extension table) and TS 23.040 §9.2.3.24
 * (concatenation). A part holds 140 octets: 160 septets or 70 UTF-16 code units. In a text of several parts each one
 * gives 6 octets to a user data header with an 8-bit reference, which leaves 153 septets or 67 code units.
 * National shift tables are not used: a character outside the default alphabet turns the whole text to UCS-2.
 */

const BASIC =
  '@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !"#¤%&\'()*+,-./0123456789:;<=>?¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà';
const EXTENSION = '\f^{}\\[~]|€';

const cost = new Map<string, 1 | 2>();
for (const character of BASIC) cost.set(character, 1);
for (const character of EXTENSION) cost.set(character, 2);

export type TextEncoding = 'GSM-7' | 'UCS-2';

export interface TextLength {
  encoding: TextEncoding;
  /** Number of parts the carrier will charge for; 0 for an empty text. */
  parts: number;
  /** Septets (GSM-7, extension characters count 2) or UTF-16 code units (UCS-2). */
  units: number;
  /** Units that fit in as many parts as are used now (at least one part). */
  room: number;
  /** The first character that is not in the GSM-7 alphabet, with how often such characters occur. */
  forcedBy: { character: string; index: number; count: number } | null;
}

/** Latin-1 is no alphabet of a phone's; a carrier that wants it (SMPP 3.4, data_coding 3) is given 140 octets a part. */
const LIMITS = {
  'GSM-7': { single: 160, part: 153 },
  'UCS-2': { single: 70, part: 67 },
  'Latin-1': { single: 140, part: 134 },
} as const;

/** Measures `text` as a carrier would. `index` in `forcedBy` counts UTF-16 code units from 0. */
export function measureText(text: string): TextLength {
  let forcedBy: TextLength['forcedBy'] = null;
  let index = 0;
  for (const character of text) {
    if (!cost.has(character)) {
      if (forcedBy) forcedBy.count += 1;
      else forcedBy = { character, index, count: 1 };
    }
    index += character.length;
  }
  const encoding: TextEncoding = forcedBy ? 'UCS-2' : 'GSM-7';
  const { parts, units } = cutText(text, encoding);
  const { single, part } = LIMITS[encoding];
  return { encoding, parts: parts.length, units, room: parts.length <= 1 ? single : parts.length * part, forcedBy };
}

/** A text as the parts it is sent in; none for an empty one. A surrogate pair or an escape sequence is never split between two of them. */
export function cutText(text: string, encoding: TextEncoding | 'Latin-1'): { parts: string[]; units: number } {
  const { single, part } = LIMITS[encoding];
  const characters = [...text];
  const costs = characters.map((one) => (encoding === 'GSM-7' ? (cost.get(one) ?? 1) : one.length));
  const units = costs.reduce((sum, one) => sum + one, 0);
  if (units <= single) return { parts: text === '' ? [] : [text], units };
  const parts = [''];
  let used = 0;
  for (const [index, one] of characters.entries()) {
    if (used + costs[index]! > part) {
      parts.push('');
      used = 0;
    }
    parts[parts.length - 1] += one;
    used += costs[index]!;
  }
  return { parts, units };
}
