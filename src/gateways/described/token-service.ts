import * as oauth from 'openid-client';
import { fetchBy } from '../fetch-by.ts';
import type { HttpCaller } from '../http.ts';

/** What a service that gives tokens is asked with, filled in. */
export interface TokenAsk {
  tokenAddress: string;
  clientId: string;
  /** Empty for a client without one. */
  clientSecret: string;
  scope: string;
  shows: 'basic' | 'body';
  /** PEM; an authority of the business's own that is believed besides. */
  authority?: string | undefined;
}

/** What it gave. `lastsMs` is null where it does not say how long. */
export interface Given {
  access: string;
  refresh: string | null;
  lastsMs: number | null;
}
/** `refused`: it says no, and asking again says so again; `over`: what it gave before is worth nothing any more. */
export type Told = { ok: true; given: Given } | { ok: false; refused: boolean; over: boolean; detail: string };

type Http = Pick<HttpCaller, 'call'>;

/** How it is spoken to. `issuer` where it says its name itself (RFC 9207). */
function configured(http: Http, ask: TokenAsk, more: { authorize?: string; issuer?: string } = {}) {
  const at = new URL(ask.tokenAddress);
  const config = new oauth.Configuration(
    {
      issuer: more.issuer ?? at.origin,
      token_endpoint: at.href,
      ...(more.authorize ? { authorization_endpoint: more.authorize } : {}),
    },
    ask.clientId,
    {},
    ask.clientSecret === ''
      ? oauth.None()
      : ask.shows === 'basic'
        ? oauth.ClientSecretBasic(ask.clientSecret)
        : oauth.ClientSecretPost(ask.clientSecret),
  );
  config[oauth.customFetch] = nobodyTold(fetchBy(http, { authority: ask.authority }) as oauth.CustomFetch);
  if (at.protocol === 'http:') oauth.allowInsecureRequests(config);
  return config;
}

/** Who somebody is there is not asked, and what is said of it is not read: a service that says it anyway would have to be held to all of OpenID Connect. */
const nobodyTold =
  (fetch: oauth.CustomFetch): oauth.CustomFetch =>
  async (address, options) => {
    const answer = await fetch(address, options);
    const text = await answer.text();
    const { status, headers } = answer;
    try {
      const { id_token: _, ...rest } = JSON.parse(text);
      return new Response(JSON.stringify(rest), { status, headers });
    } catch {
      return new Response(text, { status, headers });
    }
  };

const NO_ADDRESS: Told = {
  ok: false,
  refused: true,
  over: false,
  detail: 'The address tokens are fetched from is not a web address.',
};

async function asking(
  ask: TokenAsk,
  granted: () => Promise<oauth.TokenEndpointResponse & oauth.TokenEndpointResponseHelpers>,
): Promise<Told> {
  if (!URL.canParse(ask.tokenAddress)) return NO_ADDRESS;
  try {
    const { access_token: access, refresh_token: refresh, expires_in } = await granted();
    const lastsMs = expires_in === undefined ? null : expires_in * 1000;
    return { ok: true, given: { access, refresh: refresh ?? null, lastsMs } };
  } catch (error) {
    if (error instanceof oauth.ResponseBodyError && (error.status === 400 || error.status === 401)) {
      const detail = `It gives no token: ${(error.error_description ?? error.error).slice(0, 200)}.`;
      return { ok: false, refused: true, over: error.error === 'invalid_grant', detail };
    }
    return { ok: false, refused: false, over: false, detail: 'A token to sign in with could not be fetched.' };
  }
}

/** Client credentials (RFC 6749 §4.4). */
export const byClient = (http: Http, ask: TokenAsk): Promise<Told> =>
  asking(ask, () => oauth.clientCredentialsGrant(configured(http, ask), ask.scope ? { scope: ask.scope } : {}));

/** By what renews a token (RFC 6749 §6). One that gives no new one goes on with the old. */
export async function renewed(http: Http, ask: TokenAsk, refresh: string): Promise<Told> {
  const told = await asking(ask, () => oauth.refreshTokenGrant(configured(http, ask), refresh));
  return told.ok ? { ok: true, given: { ...told.given, refresh: told.given.refresh ?? refresh } } : told;
}

/** What only we know until somebody comes back (RFC 7636 §4.1). */
export const newVerifier = oauth.randomPKCECodeVerifier;

/**
 * Where somebody allows it, on the service's own page.
 *
 * @param backTo where they are sent afterwards
 * @param more what its page wants to know besides, as in the query of an address; never instead of what is said by us
 * @returns null when what should be its page has no web address
 */
export async function allowing(
  http: Http,
  ask: TokenAsk,
  page: { authorizeAddress: string; more: string; backTo: string; state: string; verifier: string },
): Promise<string | null> {
  if (!/^https?:/.test(page.authorizeAddress) || !URL.canParse(page.authorizeAddress)) return null;
  if (!URL.canParse(ask.tokenAddress)) return null;
  const asked = oauth.buildAuthorizationUrl(configured(http, ask, { authorize: page.authorizeAddress }), {
    ...Object.fromEntries(new URLSearchParams(page.more)),
    ...{ client_id: ask.clientId, response_type: 'code' },
    ...{ redirect_uri: page.backTo, state: page.state, ...(ask.scope ? { scope: ask.scope } : {}) },
    ...{ code_challenge: await oauth.calculatePKCECodeChallenge(page.verifier), code_challenge_method: 'S256' },
  });
  return asked.href;
}

/**
 * What came back from the service's page, exchanged for a token.
 *
 * @param came the query of the address somebody came back to
 */
export async function allowed(
  http: Http,
  ask: TokenAsk,
  came: URLSearchParams,
  begun: { authorizeAddress: string; backTo: string; state: string; verifier: string },
): Promise<Told> {
  if (!URL.canParse(ask.tokenAddress)) return NO_ADDRESS;
  // RFC 9207: an answer that names another service than the one that was asked is somebody's who mixes them up.
  const issuer = came.get('iss');
  const known = [begun.authorizeAddress, ask.tokenAddress].map((address) => new URL(address).origin);
  if (issuer !== null && !(URL.canParse(issuer) && known.includes(new URL(issuer).origin)))
    return { ok: false, refused: true, over: false, detail: 'The answer came from another service than was asked.' };
  const address = new URL(begun.backTo);
  address.search = came.toString();
  return asking(ask, () =>
    oauth.authorizationCodeGrant(configured(http, ask, issuer === null ? {} : { issuer }), address, {
      pkceCodeVerifier: begun.verifier,
      expectedState: begun.state,
    }),
  );
}
