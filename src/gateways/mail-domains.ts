import list from 'freemail';

/** Whether anybody can have an address at this domain, so that it tells nothing of who is behind it (npm "freemail"). */
export const isOpenToAll = (domain: string): boolean => list.isFree(`x@${domain}`);
/** Whether addresses at this domain are made to be thrown away. */
export const isThrowAway = (domain: string): boolean => list.isDisposable(`x@${domain}`);
