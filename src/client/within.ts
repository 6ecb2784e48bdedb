/**
 * Where a page stands: whoever belongs to several businesses has each below an address of its own, "/at/wrenfield/leads". Every link and call of a
 * page goes through here, so that none leads over to another business.
 */
const AT = /^\/at\/[a-z0-9-]+(?=\/|$)/;

let written: (() => string) | null = null;

/** Said once by the server: what stands before the addresses of the page that is being written. */
export const writtenAt = (ask: () => string): void => {
  written = ask;
};

/** "/at/wrenfield", or "" on a page that names no business. */
export const placeOfPage = (): string =>
  written ? written() : typeof location === 'undefined' ? '' : (AT.exec(location.pathname)?.[0] ?? '');

/** An address of ours within the business of this page. Whatever leads elsewhere, or is within one already, stays as it is. */
export const within = (address: string): string =>
  address.startsWith('/') && !address.startsWith('//') && !AT.test(address) ? placeOfPage() + address : address;

/** The path of this page as it is without its business. */
export const pathHere = (): string => location.pathname.replace(AT, '') || '/';
