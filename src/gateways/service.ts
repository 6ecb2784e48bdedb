import { retryAfterMs } from '../core/delivery/retry-after.ts';
import type { HttpCaller } from './http.ts';

/** Where a service is and the key that opens it. */
export interface ServiceAccount {
  address: string;
  token: string | null;
  /** PEM; an authority of the business's own that is believed besides. */
  authority?: string | undefined;
}

export type ServiceResult<T> = { ok: true; value: T } | ServiceTrouble;
export interface ServiceTrouble {
  ok: false;
  /** As the coordinator reads it. */
  problem: string;
  /** What the service asked us to wait, in milliseconds. */
  retryAfterMs: number | null;
  /** For who asked on purpose: it does not accept the key, or has nothing there. */
  why?: 'key' | 'not_there';
}

/** Longest answer of a service taken, in bytes: a page of entries with long answers. */
const MOST = 4 * 1024 * 1024;

/** Asks an outside service over JSON and HTTP with a bearer key, as docs/gateways.md has it. */
export class ServiceCaller {
  constructor(
    private readonly http: HttpCaller,
    private readonly now: () => number,
  ) {}

  /** `what` names the service in what the coordinator is told: "The ad platform". */
  async ask<T>(
    what: string,
    account: ServiceAccount,
    method: 'GET' | 'POST' | 'DELETE',
    path: string,
    body: unknown,
    read: (body: unknown) => T,
  ): Promise<ServiceResult<T>> {
    const headers: Record<string, string> = { accept: 'application/json', 'content-type': 'application/json' };
    if (account.token) headers.authorization = `Bearer ${account.token}`;
    const outcome = await this.http.call(
      method,
      account.address.replace(/\/$/, '') + path,
      headers,
      body === undefined ? undefined : JSON.stringify(body),
      MOST,
      account.authority ? { authority: account.authority } : undefined,
    );
    const trouble = (problem: string, wait: number | null = null): ServiceTrouble => ({
      ok: false,
      problem,
      retryAfterMs: wait,
    });
    if (!outcome.ok) return trouble(`${what} cannot be reached. ${outcome.detail}`);
    const { reply } = outcome;
    const wait = retryAfterMs(reply.retryAfter, this.now());
    if (reply.status === 401 || reply.status === 403)
      return {
        ...trouble(`${what} does not accept the key of this connection. Put a new one in under Connections.`, wait),
        why: 'key',
      };
    if (reply.status === 404)
      return { ...trouble(`${what} does not know this any more: it has been removed there.`, wait), why: 'not_there' };
    if (reply.status === 429) return trouble(`${what} asks us to come back later.`, wait);
    if (reply.status >= 300) return trouble(`${what} answered ${reply.status}.`, wait);
    if (reply.cut) return trouble(`${what} answered more than can be taken at once.`);
    try {
      return { ok: true, value: read(reply.body === '' ? null : JSON.parse(reply.body)) };
    } catch {
      return trouble(`${what} answered something that is not understood.`);
    }
  }
}
