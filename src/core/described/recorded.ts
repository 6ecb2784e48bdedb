/** One request with its answer, as a recording keeps it: a line of JSON. Secrets do not stand in it: requests are known by what is left of them. */
export interface Recorded {
  asked: string;
  reply: { status: number; headers: Record<string, string>; body: string } | { failed: string; detail: string };
}

/** By which a request is known again: method, address and body. What is secret has been hidden in it, or is hidden afterwards. */
export function askedAs(method: string, address: string, body: string | null): string {
  const { pathname, search } = new URL(address);
  return `${method} ${pathname}${search} ${body ?? ''}`;
}

/** What is kept of an answer's headers. */
const KEPT = ['content-type', 'link', 'retry-after'];
export const keptHeaders = (headers: Record<string, string>): Record<string, string> =>
  Object.fromEntries(KEPT.flatMap((name) => (headers[name] ? [[name, headers[name]]] : [])));
