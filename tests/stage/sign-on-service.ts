import { createPublicKey, createSign, generateKeyPairSync, type KeyObject } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import Provider from 'oidc-provider';

/** A sign-on service on loopback. */
export interface SignOnService {
  issuer: string;
  close(): Promise<void>;
}

const listening = (server: Server) =>
  new Promise<string>((resolve) =>
    server.listen(0, '127.0.0.1', () => resolve(`http://127.0.0.1:${(server.address() as AddressInfo).port}`)),
  );
const closing = (server: Server) => () =>
  new Promise<void>((resolve) => {
    server.closeAllConnections();
    server.close(() => resolve());
  });

/** Who signs in there, as the service tells it. */
export interface Subject {
  sub: string;
  email?: string;
  email_verified?: boolean;
  name?: string;
}

/**
 * An independent provider (package oidc-provider, certified by the OpenID Foundation as its README says). Whoever comes is `subject.now`, without being asked;
 * an account that is `gone` is known no more. What it gives is renewed by something that is good once: using it a second time ends all of it.
 */
export async function independentService(
  redirect: string,
  subject: { now: Subject; gone?: boolean },
  /** Seconds. */
  tokensLast = 3600,
): Promise<SignOnService & { follow(address: string): Promise<URL> }> {
  const server = createServer();
  const issuer = await listening(server);
  const provider = new Provider(issuer, {
    clients: [
      {
        client_id: 'pine-bell',
        client_secret: 'a secret of theirs',
        redirect_uris: [redirect],
        grant_types: ['authorization_code', 'refresh_token'],
      },
    ],
    issueRefreshToken: async () => true,
    rotateRefreshToken: true,
    ttl: { AccessToken: tokensLast },
    claims: { openid: ['sub'], email: ['email', 'email_verified'], profile: ['name'] },
    conformIdTokenClaims: false,
    features: { devInteractions: { enabled: false } },
    pkce: { required: () => true },
    cookies: { keys: ['for a test'] },
    interactions: { url: (_, { uid }) => `/interaction/${uid}` },
    findAccount: (_, sub) =>
      subject.gone ? undefined : { accountId: sub, claims: async () => ({ ...subject.now, sub }) },
    async loadExistingGrant({ oidc }) {
      const grant = new oidc.provider.Grant({
        clientId: oidc.client!.clientId,
        accountId: oidc.session!.accountId!,
      });
      grant.addOIDCScope('openid email profile');
      await grant.save();
      return grant;
    },
  });
  const answer = provider.callback();
  server.on('request', (request, response) => {
    if (!request.url?.startsWith('/interaction/')) return void answer(request, response);
    void provider.interactionFinished(request, response, { login: { accountId: subject.now.sub } });
  });
  return {
    issuer,
    close: closing(server),
    /** As a browser does, with cookies of its own, until it is sent back to us. */
    async follow(address) {
      const cookies = new Map<string, string>();
      for (let at = new URL(address), n = 0; n < 8; n++) {
        if (at.origin !== issuer) return at;
        const cookie = [...cookies].map(([name, value]) => `${name}=${value}`).join('; ');
        const made = await fetch(at, { redirect: 'manual', headers: { cookie } });
        for (const set of made.headers.getSetCookie()) {
          const [, name, value] = /^([^=]+)=([^;]*)/.exec(set)!;
          cookies.set(name!, value!);
        }
        const to = made.headers.get('location');
        if (!to) throw new Error(`${at} answered ${made.status}: ${(await made.text()).slice(0, 300)}`);
        at = new URL(to, at);
      }
      throw new Error('sent round and round');
    },
  };
}

type Parts = { header: Record<string, unknown>; claims: Record<string, unknown>; key: KeyObject };

/** A service that says whatever a test wants: its tokens are made by hand. */
export async function lyingService(): Promise<
  SignOnService & {
    /** What is done to the next token before it is signed. */
    lie: (parts: Parts) => string | Parts;
    nonce: string;
  }
> {
  const server = createServer();
  const issuer = await listening(server);
  const { privateKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
  const jwk = { ...createPublicKey(privateKey).export({ format: 'jwk' }), kid: 'one', alg: 'RS256', use: 'sig' };
  const made = { issuer, nonce: '', lie: (parts: Parts): string | Parts => parts, close: closing(server) };
  const base64 = (value: unknown) => Buffer.from(JSON.stringify(value)).toString('base64url');
  server.on('request', (request, response) => {
    const json = (value: unknown) => response.setHeader('content-type', 'application/json').end(JSON.stringify(value));
    if (request.url === '/.well-known/openid-configuration')
      return void json({
        issuer,
        authorization_endpoint: `${issuer}/auth`,
        token_endpoint: `${issuer}/token`,
        jwks_uri: `${issuer}/keys`,
        response_types_supported: ['code'],
        subject_types_supported: ['public'],
        id_token_signing_alg_values_supported: ['RS256'],
        authorization_response_iss_parameter_supported: true,
      });
    if (request.url === '/keys') return void json({ keys: [jwk] });
    const now = Math.floor(Date.now() / 1000);
    const told = made.lie({
      header: { alg: 'RS256', kid: 'one', typ: 'JWT' },
      claims: {
        ...{ iss: issuer, aud: 'pine-bell', sub: 'liar', iat: now, exp: now + 300, nonce: made.nonce },
        ...{ email: 'tomas@wrenfield.example', email_verified: true },
      },
      key: privateKey,
    });
    let token = told as string;
    if (typeof told !== 'string') {
      const signed = `${base64(told.header)}.${base64(told.claims)}`;
      token = `${signed}.${told.header.alg === 'none' ? '' : createSign('RSA-SHA256').update(signed).sign(told.key, 'base64url')}`;
    }
    json({ access_token: 'x', token_type: 'Bearer', expires_in: 60, id_token: token });
  });
  return made;
}
