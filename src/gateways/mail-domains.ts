import providers from 'email-providers';
import mailchecker from 'mailchecker';

/** The list does not have these; from memory. */
const MISSED = [
  ...['tutanota.com', 'tutanota.de', 'tuta.com', 'tuta.io', 'telia.com', 'citromail.hu', 'aol.de', 'ziggo.nl'],
];
const open = new Set<string>([...providers, ...MISSED]);
const thrownAway = mailchecker.blacklist();

/** Whether addresses at this domain are made to be thrown away: at one on the list of the package "mailchecker", or at one below it. */
export const isThrowAway = (domain: string): boolean => {
  const labels = domain.toLowerCase().split('.');
  return labels.some((_, from) => thrownAway.has(labels.slice(from).join('.')));
};

/**
 * Whether anybody can have an address at this domain, so that it tells nothing of who is behind it: one that is thrown away, or one on the list of the
 * package "email-providers", which has the world's and those of each country (t-online.de, btinternet.com, bluewin.ch).
 */
export const isOpenToAll = (domain: string): boolean => open.has(domain.toLowerCase()) || isThrowAway(domain);
