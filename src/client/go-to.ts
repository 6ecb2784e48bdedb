/** Until the page is gone: whatever waits for it stays busy, so that nothing is done twice meanwhile. Brought back as it was, the page is free again. */
const untilGone = () => new Promise<void>((resolve) => addEventListener('pageshow', () => resolve(), { once: true }));

/** Goes to another page. */
export function goTo(address: string): Promise<void> {
  location.assign(address);
  return untilGone();
}

/** Shows this page anew. */
export function comeAnew(): Promise<void> {
  location.reload();
  return untilGone();
}
