import slugify from '@sindresorhus/slugify';

/** Letters of a key at most. */
const LONGEST_KEY = 40;

/** A business's key as it stands in addresses: "wrenfield-music-school". */
export const BUSINESS_KEY = /^[a-z0-9](?:[a-z0-9-]{0,38}[a-z0-9])?$/;

/** The key of a new business, by its name, that none of the `taken` has. It stays when the name is changed: addresses are kept in bookmarks. */
export function businessKey(name: string, taken: ReadonlySet<string>): string {
  const plain = slugify(name).replaceAll('_', '-').slice(0, LONGEST_KEY).replace(/^-|-$/g, '');
  const key = BUSINESS_KEY.test(plain) ? plain : 'business';
  for (let n = 1; ; n++) {
    const numbered = n === 1 ? key : `${key.slice(0, LONGEST_KEY - 6).replace(/-$/, '')}-${n}`;
    if (!taken.has(numbered)) return numbered;
  }
}

/** What the bar of a business can look like, so that two are told apart at a glance. Each bears the bar's light words by WCAG 2.2 AA. */
export const BUSINESS_COLORS = {
  pine: 'Pine',
  harbour: 'Harbour blue',
  plum: 'Plum',
  brick: 'Brick',
  walnut: 'Walnut',
  slate: 'Slate',
  moss: 'Moss',
  ink: 'Ink',
} as const;
export type BusinessColor = keyof typeof BUSINESS_COLORS;
export const businessColors = Object.keys(BUSINESS_COLORS) as [BusinessColor, ...BusinessColor[]];

/** The colour of a new business: the first that none of the others its person belongs to has. */
export const freeColor = (taken: readonly string[]): BusinessColor =>
  businessColors.find((color) => !taken.includes(color)) ?? businessColors[taken.length % businessColors.length]!;
