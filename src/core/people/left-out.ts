/** Why somebody an email to many was meant for does not get it. */
export const LEFT_OUT = ['no_address', 'bad_address', 'withdrawn', 'doubted', 'no_consent', 'other'] as const;
export type LeftOut = (typeof LEFT_OUT)[number];

/** As it follows a number: "4 have no email address". */
export const LEFT_OUT_WORDS: Record<LeftOut, { one: string; many: string }> = {
  no_address: { one: 'has no email address', many: 'have no email address' },
  bad_address: { one: 'has an address no mail can go to', many: 'have an address no mail can go to' },
  withdrawn: { one: 'asked for no more emails or no more news', many: 'asked for no more emails or no more news' },
  doubted: {
    one: 'wrote something that may mean no more, which nobody has read yet',
    many: 'wrote something that may mean no more, which nobody has read yet',
  },
  no_consent: { one: 'never agreed to it', many: 'never agreed to it' },
  other: { one: 'for whom it could not be filled in', many: 'for whom it could not be filled in' },
};

/** "4 have no email address". */
export const leftOutWords = (code: LeftOut, count: number): string =>
  `${count} ${LEFT_OUT_WORDS[code][count === 1 ? 'one' : 'many']}`;

/** Who an email to many would reach, and who not. */
export interface Reach {
  people: number;
  reached: number;
  left: { code: LeftOut; count: number }[];
}

/** Somebody behind one of these numbers. */
export interface ReachedPerson {
  id: string;
  name: string;
  email: string;
}
