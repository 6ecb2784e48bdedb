import type { HttpCaller, Trust } from './http.ts';

/** Longest answer of a sign-on service, in bytes: keys and tokens are shorter. */
const MOST = 256 * 1024;
const METHODS = ['GET', 'POST'] as const;

/**
 * A `fetch` for packages that ask for one, that goes by our own caller: past the guard of addresses, with its time limit, without following redirects.
 *
 * @throws TypeError when there was no answer, as fetch does
 */
export const fetchBy =
  (http: Pick<HttpCaller, 'call'>, trust?: Trust) =>
  async (
    address: string,
    options: { method?: string; headers?: Record<string, string>; body?: unknown } = {},
  ): Promise<Response> => {
    const method = METHODS.find((one) => one === (options.method ?? 'GET'));
    if (!method) throw new TypeError(`not asked for by ${options.method}`);
    const { body } = options;
    const sent = body === undefined || body === null ? undefined : String(body);
    const answer = await http.call(method, address, options.headers ?? {}, sent, MOST, trust);
    if (!answer.ok) throw new TypeError(answer.detail);
    const { status, headers, bytes } = answer.reply;
    const type = headers['content-type'];
    return new Response(new Uint8Array(bytes), { status, headers: type ? { 'content-type': type } : {} });
  };
