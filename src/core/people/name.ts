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
  // Initials: "J.K." and "j.k." alike.
  if (/^(\p{L}\.)+\p{L}?$/u.test(word)) return word.toLocaleUpperCase('en');
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
  // A particle stands before a name: the last word is a name of its own, however short ("Le", "Al").
  return name
    .split(' ')
    .map((word, index, all) =>
      properWord(
        word,
        (index === 0 && kind === 'whole') || (index === all.length - 1 && !ROMAN.test(word)) ? 'first' : 'later',
      ),
    )
    .join(' ');
}

const TITLES = /^(mr|mrs|ms|miss|mx|dr|prof|sir|madam|herr|frau|mme|mlle|sr|sra|sig|mevr|dhr)\.?$/i;
const SUFFIXES = /^(jr|sr|ii|iii|iv|phd|md|esq)\.?$/i;
/** What joins two people in one field: "Mr. & Mrs. Smith". */
const JOINS = /^(&|\+|and|und|et|y|e|en|og|och)$/i;

/**
 * Splits a full name into first and last. "Last, First" is understood, also with a suffix behind it; titles and suffixes are dropped; particles belong
 * to the last name; a single word is a first name, behind a title a last name. Where nobody can be called by what would be left as a first name, it
 * is empty: whoever greets has a word for that.
 */
export function splitName(full: string): { first: string; last: string } {
  const name = full.normalize('NFC').replace(/\s+/gu, ' ').trim();
  const parts = name
    .split(',')
    .map((part) => part.trim())
    .filter(Boolean);
  while (parts.length > 1 && SUFFIXES.test(parts.at(-1)!)) parts.pop();
  if (parts.length === 2) return { first: withoutTitle(parts[1]!).join(' '), last: parts[0]! };
  const all = parts.join(' ').split(' ').filter(Boolean);
  const words = withoutTitle(parts.join(' '));
  while (words.length > 2 && SUFFIXES.test(words.at(-1)!)) words.pop();
  if (words.length === 1 && words.length < all.length) return { first: '', last: words[0]! };
  if (words.length < 2) return { first: words[0] ?? '', last: '' };
  const particle = words.findIndex((word, index) => index > 0 && PARTICLES.has(word.toLocaleLowerCase('en')));
  const at = particle > 0 && particle < words.length - 1 ? particle : words.length - 1;
  return { first: words.slice(0, at).join(' '), last: words.slice(at).join(' ') };
}

/** The words of a name without the titles it begins with, of two people too. */
function withoutTitle(name: string): string[] {
  const words = name.split(' ').filter(Boolean);
  let titled = false;
  // A word that joins is one only behind a title: "Y" and "E" are names too.
  while (words.length > 1 && (TITLES.test(words[0]!) || (titled && JOINS.test(words[0]!)))) {
    words.shift();
    titled = true;
  }
  // What stands for something that could not be stored (U+FFFD) stays too: it shows that something stood there.
  const kept = words.filter((word) => /[\p{L}\p{N}&\uFFFD]/u.test(word));
  return kept.some((word) => /[\p{L}\p{N}]/u.test(word)) ? kept : [];
}

/** An address of the web is nobody's name. */
export const isLink = (name: string): boolean => LINK.test(name);
const LINK = /:\/\/|\bwww\.|[a-z0-9]\.[a-z]{2,}\//i;

/** Whether somebody can be called by this: it has a letter in it, and is no title and no address. */
export const isCallable = (name: string): boolean =>
  /\p{L}/u.test(name) && !LINK.test(name) && !TITLES.test(name.trim()) && !JOINS.test(name.trim());
