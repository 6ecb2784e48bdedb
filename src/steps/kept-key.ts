/** A name as a part of a field's key: in small letters, with nothing but letters, figures and underscores. */
export const wordOf = (name: string): string =>
  name
    .trim()
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_');

/**
 * The key of something that is given another name: the one it has, or the one its name stood for until now, so that fields in use go on meaning the
 * same; `fresh` for what had no name yet.
 */
export const keptKey = ({ key, name }: { key: string; name: string }, fresh: string): string =>
  key || wordOf(name) || fresh;
