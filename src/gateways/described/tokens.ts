import { createHash } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import type { HttpCaller } from '../http.ts';
import { byClient, type TokenAsk } from './token-service.ts';

export type Token = { ok: true; token: string } | { ok: false; refused: boolean; detail: string };

/** Tokens of services that a person has allowed, by the connection. They outlive the process. */
export interface Grants {
  token(connectionId: string, ask: TokenAsk): Promise<Token>;
  /** It was not accepted any more: another is fetched the next time. */
  forget(connectionId: string, token: string): Promise<void>;
}
/** Where nobody can allow anything. */
export const NO_GRANTS: Grants = {
  token: async () => ({ ok: false, refused: false, detail: 'Nobody has allowed access yet.' }),
  forget: async () => {},
};

interface Kept {
  token: string;
  /** Milliseconds since 1970. */
  renewAt: number;
}
/** Of a token that does not say how long it lasts; RFC 6749 §5.1 recommends to say so. */
const UNSAID_MS = 5 * 60_000;
const EARLY_MS = 60_000;
/** When a token that lasts so long is renewed: a minute early, or after three quarters of a short life. Milliseconds. */
export const renewAfter = (lastsMs: number): number => Math.max(lastsMs * 0.75, lastsMs - EARLY_MS);

/** Access tokens by OAuth 2 client credentials (RFC 6749 §4.4): kept in this process for as long as they last, renewed before they run out, asked for once by many at the same time. */
export class Tokens {
  private readonly kept = new LRUCache<string, Kept>({ max: 500 });
  private readonly asked = new Map<string, Promise<Token>>();

  constructor(
    private readonly http: Pick<HttpCaller, 'call'>,
    private readonly now: () => number,
  ) {}

  async of(ask: TokenAsk): Promise<Token> {
    const key = keyOf(ask);
    const kept = this.kept.get(key);
    if (kept && kept.renewAt > this.now()) return { ok: true, token: kept.token };
    const under = this.asked.get(key);
    if (under) return under;
    const asking = this.fetch(ask, key).finally(() => this.asked.delete(key));
    this.asked.set(key, asking);
    return asking;
  }

  /** It was not accepted any more: another is fetched the next time. */
  forget(ask: TokenAsk, token: string): void {
    if (this.kept.get(keyOf(ask))?.token === token) this.kept.delete(keyOf(ask));
  }

  private async fetch(ask: TokenAsk, key: string): Promise<Token> {
    const told = await byClient(this.http, ask);
    if (!told.ok) return told;
    const { access, lastsMs } = told.given;
    this.kept.set(key, { token: access, renewAt: this.now() + renewAfter(lastsMs ?? UNSAID_MS) });
    return { ok: true, token: access };
  }
}

const keyOf = (ask: TokenAsk) => createHash('sha256').update(JSON.stringify(ask)).digest('base64');
