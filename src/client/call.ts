import type { Method, Route } from '../api/route.ts';
import type { ROUTES } from '../api/table.ts';
import { within } from './within.ts';

/** What the server said was wrong, in words for the person. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly field: string | null,
    /** Which refusal it was: "in-use". */
    readonly code: string,
  ) {
    super(message);
  }
}

type Routes = (typeof ROUTES)[number];

/** "/leads/:lead/merge" as an address is written: `/api/leads/${string}/merge`. */
type Filled<P extends string> = P extends `${infer Head}:${string}/${infer Tail}`
  ? `${Head}${string}/${Filled<Tail>}`
  : P extends `${infer Head}:${string}`
    ? `${Head}${string}`
    : P;
type WithoutQuery<A extends string> = A extends `${infer Path}?${string}` ? Path : A;
type Same<A, B> = [A] extends [B] ? ([B] extends [A] ? true : false) : false;

/** The route an address leads to, by the table of routes. */
type At<M extends Method, A extends string, R = Routes> =
  R extends Route<M, infer P, infer _I, infer _O>
    ? Same<`/api${Filled<P>}`, WithoutQuery<A>> extends true
      ? R
      : never
    : never;
type Sent<R> = R extends Route<infer _M, infer _P, infer I, infer _O> ? I : never;
type Given<R> = R extends Route<infer _M, infer _P, infer _I, infer O> ? O : never;

/**
 * Calls our own API: what is sent and what comes back are those of the route the address leads to. `seen` says what was looked at before it was
 * changed. Throws a Problem whose message can be shown as it is.
 */
export const call = <const M extends Method, const A extends string>(
  method: M,
  path: A,
  ...[body, seen]: undefined extends Sent<At<M, A>>
    ? [body?: undefined, seen?: string]
    : [body: Sent<At<M, A>>, seen?: string]
): Promise<Given<At<M, A>>> => callAny(method, path, body, seen);

/** The same where only the one who calls knows where the address leads. */
export async function callAny<T>(method: Method, path: string, body?: unknown, seen?: string): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(within(path), {
      method,
      headers: { 'content-type': 'application/json', ...(seen === undefined ? {} : { 'if-match': `"${seen}"` }) },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  } catch {
    throw new Problem(0, 'Pine Bell does not answer. Check your connection; what you typed is still here.', null, '');
  }
  const value = (await answer.json().catch(() => null)) as {
    type?: string;
    detail?: string;
    field?: string;
  } | null;
  if (answer.ok) return value as T;
  const detail = value?.detail ?? 'Something went wrong. Try again in a moment.';
  const code = value?.type?.replace('urn:pine-bell:', '') ?? '';
  // Dangerous, and a while since they said who they are: asked, and done all the same.
  if (
    code === 'prove' &&
    (await (
      await import('./ask-proof.ts')
    ).askForProof(detail, (password) => callAny('POST', '/api/proof', { password })))
  )
    return callAny<T>(method, path, body, seen);
  throw new Problem(answer.status, detail, value?.field ?? null, code);
}

export const messageOf = (error: unknown): string => (error instanceof Error ? error.message : String(error));
