import { readPhone } from './phone.ts';

/**
 * What a search for people looks for, each part somewhere in a lead's name, address or number. A number is looked for by its digits as they are
 * stored (E.164), however it was written: with its trunk zero, with 00 or +, with brackets and dashes, or only some of it.
 */
export function searchWords(typed: string, country: string): string[] {
  const text = typed
    .normalize('NFKC')
    .replace(/\p{Cf}/gu, '')
    .trim();
  if (text === '') return [];
  const digits = text.replace(/\D/g, '');
  if (digits.length >= 4 && /^[+(0-9][\d\s()./+-]*$/.test(text)) {
    const read = readPhone(text, country);
    if (read.ok) return [read.e164.slice(1)];
    // Some of a number: what stands in front of it in one country does not stand there in the stored form.
    return [text.startsWith('+') ? digits : digits.replace(/^0+/, '') || digits];
  }
  return text.split(/\s+/u).slice(0, 8);
}
