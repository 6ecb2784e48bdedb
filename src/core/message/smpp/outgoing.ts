import { cutText, measureText } from '../text-segments.ts';

/** How a carrier wants letters: the 7-bit alphabet where it will do and UCS-2 where not, Latin-1 instead of the former, or UCS-2 always. */
export const LETTERS = ['gsm', 'latin1', 'unicode'] as const;
export type Letters = (typeof LETTERS)[number];

/** data_coding of SMPP 3.4 §5.2.19. */
export const CODING = { 'GSM-7': 0, 'Latin-1': 3, 'UCS-2': 8 } as const;
export type Encoding = keyof typeof CODING;

/** The last code point of ISO/IEC 8859-1. */
const LAST_LATIN1 = 0xff;

/** A text as the parts that are handed over, and what their letters are. */
export function outgoingParts(text: string, letters: Letters): { encoding: Encoding; parts: string[] } {
  const wanted = letters === 'latin1' ? 'Latin-1' : letters === 'unicode' ? 'UCS-2' : measureText(text).encoding;
  const fits = wanted !== 'Latin-1' || [...text].every((one) => one.codePointAt(0)! <= LAST_LATIN1);
  const encoding = fits ? wanted : 'UCS-2';
  return { encoding, parts: cutText(text, encoding).parts };
}

/** The user data header of one of several parts: concatenation with an 8-bit reference (3GPP TS 23.040 §9.2.3.24.1). `number` counts from 1. */
export const partHeader = (reference: number, total: number, number: number): Uint8Array =>
  Uint8Array.of(5, 0, 3, reference & 0xff, total, number);

/** An address as SMPP writes it (§5.2.5 and §5.2.6): the digits of an international number, a name, or a short number of the carrier's. */
export interface SmppAddress {
  ton: number;
  npi: number;
  address: string;
}

/** Longest number that is a short one of a carrier's own. Common practice, no source. */
const LONGEST_SHORT = 6;

export function smppAddress(who: string): SmppAddress {
  const digits = who.replace(/^\+/, '');
  if (!/^\d+$/.test(digits)) return { ton: 5, npi: 0, address: who };
  if (who.startsWith('+') || digits.length > LONGEST_SHORT) return { ton: 1, npi: 1, address: digits };
  return { ton: 3, npi: 0, address: digits };
}

/** Who wrote, as we write numbers: what is international by its kind or its length has its plus. */
export function writtenBy({ ton, address }: Pick<SmppAddress, 'ton' | 'address'>): string {
  const plain = address.trim();
  return /^\d+$/.test(plain) && (ton === 1 || (ton === 0 && plain.length > 9 && !plain.startsWith('0')))
    ? `+${plain}`
    : plain;
}
