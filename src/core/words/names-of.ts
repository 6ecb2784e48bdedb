/** The names in a list of words, in its order: at least one, as enumerations want it. */
export const namesOf = <Name extends string>(words: Readonly<Record<Name, unknown>>): [Name, ...Name[]] =>
  Object.keys(words) as [Name, ...Name[]];
