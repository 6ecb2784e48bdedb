/**
 * A number as people type it, or null: currency signs and names, spaces, thousands marks and either decimal mark are
 * understood ("£1,250.00", "1.250,00 €", "1 250"). A single mark followed by exactly three digits groups thousands.
 */
export function readNumber(typed: string): number | null {
  const text = typed
    .normalize('NFKC')
    .replace(/[\s'’_]/gu, '')
    .replace(/^[\p{Sc}]|[\p{Sc}]$/gu, '')
    .replace(/^(-?)\p{Sc}/u, '$1')
    .replace(/^[A-Z]{3}(?=[-\d])|(?<=\d)[A-Z]{3}$/u, '')
    .replace(/%$/, '')
    .replace('−', '-');
  if (!/^[+-]?[.,]*\d[\d.,]*$/.test(text)) return null;
  const marks = text.match(/[.,]/g) ?? [];
  const last = Math.max(text.lastIndexOf('.'), text.lastIndexOf(','));
  const kinds = new Set(marks);
  const grouped = (mark: string) => new RegExp(`^[+-]?\\d{1,3}(\\${mark}\\d{3})+$`).test(text);
  let plain: string;
  if (marks.length === 0) plain = text;
  else if (kinds.size === 2) plain = `${text.slice(0, last).replace(/[.,]/g, '')}.${text.slice(last + 1)}`;
  else if (grouped(marks[0]!) && (marks.length > 1 || marks[0] === ',')) plain = text.replace(/[.,]/g, '');
  else if (marks.length === 1) plain = text.replace(',', '.');
  else return null;
  const value = Number(plain);
  return Number.isFinite(value) ? value : null;
}
