/**
 * Tidying names of people. There is no standard; the particles and prefixes are common practice, checked against an
 * independent library in tests/reference. A name already in mixed case is left alone: its owner knows best.
 */

const PARTICLES = new Set([
  'van',
  'von',
  'der',
  'den',
  'de',
  'da',
  'di',
  'du',
  'la',
  'le',
  'del',
  'della',
  'dos',
  'das',
  'ter',
  'ten',
  'zu',
  'af',
  'av',
  'bin',
  'al',
]);
const ROMAN = /^(ii|iii|iv)$/i;

const upperFirst = (word: string) => {
  const [first = '', ...rest] = Array.from(word);
  return first.toLocaleUpperCase('en') + rest.join('');
};

function properWord(word: string, place: 'first' | 'later'): string {
  const lower = word.toLocaleLowerCase('en');
  if (ROMAN.test(word) && place === 'later') return word.toUpperCase();
  if (place === 'later' && PARTICLES.has(lower)) return lower;
  return lower
    .split('-')
    .map((piece) => {
      const apostrophe = /^([od])(['’])(\p{L}.*)$/u.exec(piece);
      if (apostrophe) return `${upperFirst(apostrophe[1]!)}${apostrophe[2]}${upperFirst(apostrophe[3]!)}`;
      // "Mc" takes a capital after it. "Mac" does not always (Macey, Mackie), so it is left.
      const mc = /^mc(\p{L}{2,})$/u.exec(piece);
      if (mc) return `Mc${upperFirst(mc[1]!)}`;
      return upperFirst(piece);
    })
    .join('-');
}

/**
 * White space squeezed; a name all in capitals or all in small letters gets capitals where names have them. In a last name
 * on its own a leading particle stays small ("van der Berg").
 */
export function properName(typed: string, kind: 'whole' | 'last' = 'whole'): string {
  const name = typed.normalize('NFC').replace(/\s+/gu, ' ').trim();
  const letters = name.replace(/[^\p{L}]/gu, '');
  const oneCase = letters === letters.toLocaleLowerCase('en') || letters === letters.toLocaleUpperCase('en');
  // Digits, brackets and the like: not a name as people have them, so nothing is known about its capitals.
  if (!oneCase || letters.length < 2 || /[^\p{L}\p{M}\s.,'’-]/u.test(name)) return name;
  return name
    .split(' ')
    .map((word, index) => properWord(word, index === 0 && kind === 'whole' ? 'first' : 'later'))
    .join(' ');
}

const TITLES = /^(mr|mrs|ms|miss|mx|dr|prof)\.?$/i;
const SUFFIXES = /^(jr|sr|ii|iii|iv|phd|md)\.?$/i;

/**
 * Splits a full name into first and last. "Last, First" is understood; titles and suffixes are dropped; particles belong to
 * the last name; a single word is a first name.
 */
export function splitName(full: string): { first: string; last: string } {
  const name = full.normalize('NFC').replace(/\s+/gu, ' ').trim();
  const comma = /^([^,]+),\s*([^,]+)$/u.exec(name);
  if (comma && !SUFFIXES.test(comma[2]!)) return { first: dropTitle(comma[2]!.trim()), last: comma[1]!.trim() };
  const words = dropTitle(name.replace(/,/g, '')).split(' ').filter(Boolean);
  while (words.length > 2 && SUFFIXES.test(words.at(-1)!)) words.pop();
  if (words.length < 2) return { first: words[0] ?? '', last: '' };
  const particle = words.findIndex((word, index) => index > 0 && PARTICLES.has(word.toLocaleLowerCase('en')));
  const at = particle > 0 && particle < words.length - 1 ? particle : words.length - 1;
  return { first: words.slice(0, at).join(' '), last: words.slice(at).join(' ') };
}

function dropTitle(name: string): string {
  const words = name.split(' ');
  while (words.length > 1 && TITLES.test(words[0]!)) words.shift();
  return words.join(' ');
}
