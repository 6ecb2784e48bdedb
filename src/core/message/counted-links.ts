import type { OutgoingMessage } from '../workflow/plan.ts';

/** A web address in running text. What ends a sentence does not belong to it. */
const ADDRESS = /\bhttps?:\/\/[^\s<>"']+[^\s<>"'.,;:!?)\]]/g;
/** A link in HTML as we write it: double quotes around the address. */
const HREF = /(<a\b[^>]*?\bhref=")(https?:\/\/[^"]+)(")/gi;

export interface CountedLink {
  token: string;
  url: string;
}

const asWritten = (url: string) => url.replaceAll('&amp;', '&').replaceAll('&#38;', '&');

/**
 * The message with every web address in it replaced by a short one of ours, `base` + token, and which is which. `token` makes
 * one from the place of the address in the message. Addresses that are ours already (to leave a list, to confirm) stay.
 */
export function countedLinks<Message extends OutgoingMessage>(
  message: Message,
  base: string,
  ownOrigin: string,
  token: (n: number) => string,
): { message: Message; links: CountedLink[] } {
  const known = new Map<string, string>();
  const short = (url: string): string => {
    if (url.startsWith(`${ownOrigin}/`) || message.uncounted?.includes(url)) return url;
    const there = known.get(url) ?? token(known.size);
    known.set(url, there);
    return base + there;
  };
  const text = message.text.replace(ADDRESS, short);
  const replaced = { ...message, text };
  if (message.channel === 'email')
    Object.assign(replaced, {
      html: message.html.replace(HREF, (_, before: string, url: string, after: string) => {
        return `${before}${short(asWritten(url))}${after}`;
      }),
    });
  return { message: replaced, links: [...known].map(([url, one]) => ({ token: one, url })) };
}

/** The links in values that people typed. */
export const linksIn = (values: Iterable<string>): string[] => [
  ...new Set([...values].flatMap((value) => (value.includes('://') ? (value.match(ADDRESS) ?? []) : []))),
];

/** As long as a short address is: what a text will measure. */
export const asCounted = (text: string, base: string | null): string =>
  base === null ? text : text.replace(ADDRESS, `${base}${'x'.repeat(TOKEN_LENGTH)}`);

/** Characters of a token: 62^9 of them, so that none is found by trying. */
export const TOKEN_LENGTH = 9;
