/** What a sentence can name, of one business. */
export type KnownKind = 'source' | 'list' | 'tag' | 'colleague' | 'tab' | 'stage' | 'template' | 'form' | 'field';

export interface KnownThing {
  kind: KnownKind;
  /** An id; of a field, its reference as in a message. */
  id: string;
  name: string;
  /** Of a source, its kind: "ad-form". */
  sourceKind?: string;
  /** Of a tab, its columns. */
  columns?: { id: string; name: string }[];
}

/** One letter of what was typed, as it is compared: small, without its accent. Never longer than one. */
const foldLetter = (letter: string): string => {
  const plain = letter.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase();
  const apostrophe = plain === '’' || plain === '‘' ? "'" : plain;
  return apostrophe.length === 1 ? apostrophe : letter;
};

/** A text as it is compared, letter by letter the same length. */
export const fold = (text: string): string =>
  Array.from({ length: text.length }, (_, i) => foldLetter(text[i]!)).join('');

/** Words at the end of a name that say what it is; people leave them out, or put them behind a name that has none. */
const WHAT_IT_IS = / (form|page|sheet|list|source|template|calendar|form page)$/;
/** Words that mean something in a sentence: as a name by themselves they are only taken where they stand in quotes. */
const OURS = new Set(
  'text email mail chat call tell ask tag list lead leads team owner form sheet row deal note task then when after before first reply news name phone day week hour minute they them replied'.split(
    ' ',
  ),
);

/** The ways a thing is called, the fullest first. */
export function namesOf({ kind, name }: KnownThing): string[] {
  const full = fold(name).replace(/\s+/g, ' ').trim();
  const short = new Set<string>();
  const beforeComma = full.split(',')[0]!.trim();
  short.add(beforeComma);
  short.add(beforeComma.replace(WHAT_IT_IS, ''));
  if (kind === 'colleague') short.add(full.split(' ')[0]!);
  // "Pipeline: Stage", "List: field".
  if (kind === 'stage' || kind === 'field') short.add(full.split(':').at(-1)!.trim());
  return [full, ...[...short].filter((one) => one !== full && one.length >= 3)].filter((one) => !OURS.has(one));
}
