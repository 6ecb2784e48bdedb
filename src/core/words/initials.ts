/** "TA" for Tomas Arden: the first letters of the first and the last word of a name. */
export const initials = (name: string): string =>
  name
    .split(/\s+/)
    .filter(Boolean)
    .map((word) => [...word][0]!)
    .filter((_, i, all) => i === 0 || i === all.length - 1)
    .join('')
    .toLocaleUpperCase('en');
