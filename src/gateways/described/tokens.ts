import { createHash } from 'node:crypto';
import { LRUCache } from 'lru-cache';
import * as oauth from 'openid-client';
import { fetchBy } from '../fetch-by.ts';
import type { HttpCaller } from '../http.ts';

export interface TokenAsk {
  tokenAddress: string;
  clientId: string;
  clientSecret: string;
  scope: string;
  shows: 'basic' | 'body';
}
export type Token = { ok: true; token: string } | { ok: false; refused: boolean; detail: string };

interface Kept {
  token: string;
  /** Milliseconds since 1970. */
  renewAt: number;
}
/** Of a token that does not say how long it lasts; RFC 6749 §5.1 recommends to say so. */
const UNSAID_MS = 5 * 60_000;
const EARLY_MS = 60_000;

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
    if (!URL.canParse(ask.tokenAddress))
      return { ok: false, refused: true, detail: 'The address tokens are fetched from is not a web address.' };
    const at = new URL(ask.tokenAddress);
    const config = new oauth.Configuration(
      { issuer: at.origin, token_endpoint: at.href },
      ask.clientId,
      {},
      ask.shows === 'basic' ? oauth.ClientSecretBasic(ask.clientSecret) : oauth.ClientSecretPost(ask.clientSecret),
    );
    config[oauth.customFetch] = fetchBy(this.http) as oauth.CustomFetch;
    if (at.protocol === 'http:') oauth.allowInsecureRequests(config);
    try {
      const got = await oauth.clientCredentialsGrant(config, ask.scope ? { scope: ask.scope } : {});
      const lasts = got.expires_in === undefined ? UNSAID_MS : got.expires_in * 1000;
      // Renewed a minute early, or after three quarters of a short life.
      this.kept.set(key, { token: got.access_token, renewAt: this.now() + Math.max(lasts * 0.75, lasts - EARLY_MS) });
      return { ok: true, token: got.access_token };
    } catch (error) {
      if (error instanceof oauth.ResponseBodyError && (error.status === 400 || error.status === 401))
        return {
          ok: false,
          refused: true,
          detail: `It gives no token: ${(error.error_description ?? error.error).slice(0, 200)}.`,
        };
      return { ok: false, refused: false, detail: 'A token to sign in with could not be fetched.' };
    }
  }
}

const keyOf = (ask: TokenAsk) => createHash('sha256').update(JSON.stringify(ask)).digest('base64');
