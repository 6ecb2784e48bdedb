import providers from 'email-providers';
import list from 'freemail';

/** Neither list has these; from memory. */
const MISSED = ['tutanota.com', 'tutanota.de', 'tuta.com', 'tuta.io', 'telia.com', 'citromail.hu', 'aol.de'];
const open = new Set<string>([...providers, ...MISSED]);

/**
 * Whether anybody can have an address at this domain, so that it tells nothing of who is behind it: by the lists of two packages, of which
 * "freemail" has the world's and "email-providers" those of each country (t-online.de, btinternet.com, bluewin.ch).
 */
export const isOpenToAll = (domain: string): boolean =>
  open.has(domain.toLowerCase()) || list.isFree(`x@${domain.toLowerCase()}`);
/** Whether addresses at this domain are made to be thrown away. */
export const isThrowAway = (domain: string): boolean => list.isDisposable(`x@${domain}`);
