import { within } from './within.ts';

/** Until the page is gone: whatever waits for it stays busy, so that nothing is done twice meanwhile. Brought back as it was, the page is free again. */
const untilGone = () => new Promise<void>((resolve) => addEventListener('pageshow', () => resolve(), { once: true }));

/** Goes to another page of this business. */
export function goTo(address: string): Promise<void> {
  location.assign(within(address));
  return untilGone();
}

/** Goes to a page of somebody else's. */
export function goAway(address: string): Promise<void> {
  location.assign(address);
  return untilGone();
}

/** Shows this page anew. */
export function comeAnew(): Promise<void> {
  location.reload();
  return untilGone();
}
