import { randomBytes } from 'node:crypto';
import { createServer, type Server } from 'node:https';
import type { AddressInfo } from 'node:net';
import type { TLSSocket } from 'node:tls';
import { expect } from 'chai';
import pg from 'pg';
import { SecretBox } from '../../src/db/secret-box.ts';
import { givenBy, ServiceGrants, sealGiven } from '../../src/engine/services/grants.ts';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { allowed, allowing, newVerifier } from '../../src/gateways/described/token-service.ts';
import { HttpCaller } from '../../src/gateways/http.ts';
import { housekeeping } from '../../src/worker/housekeeping.ts';
import { type Authority, authority, type Issued } from '../stage/certificates.ts';
import type { Coordinator } from '../stage/flow.ts';
import { independentService } from '../stage/sign-on-service.ts';
import { openStage, type Stage, signedIn } from '../stage/stage.ts';

/** A token lasts so long there, seconds: renewed after three quarters of it. */
const LAST_S = 4;

describe('access somebody allows on a service’s own page (OAuth 2, RFC 6749 §4.1 and §6, RFC 7636), against an independent provider', function () {
  this.timeout(40_000);
  let stage: Stage;
  let oona: Coordinator;
  let service: Awaited<ReturnType<typeof independentService>>;
  const subject: Parameters<typeof independentService>[1] = {
    now: { sub: 'oona', email: 'oona@wrenfield.example', name: 'Oona at the service' },
  };
  let connection: string;
  const description = {
    format: 'pine-bell-connection',
    version: 1,
    name: 'Rooms',
    asks: [
      { key: 'address', label: 'Address' },
      { key: 'user', label: 'Client ID' },
      { key: 'key', label: 'Client secret', secret: true },
    ],
    address: '{{ account.address }}',
    signIn: {
      way: 'oauth2-code',
      authorizeAddress: '{{ account.address }}/auth',
      tokenAddress: '{{ account.address }}/token',
      clientId: '{{ account.user }}',
      clientSecret: '{{ account.key }}',
      scope: 'openid email profile',
      more: 'ui_locales=en&state=mine&client_id=other',
    },
    calls: { account: { method: 'GET', path: '/me', again: 'harmless', reads: { name: { path: '$.name' } } } },
  };
  const input = () => ({
    kind: 'service',
    name: 'Rooms',
    description,
    values: { address: service.issuer, user: 'pine-bell', key: 'a secret of theirs' },
  });
  const begin = async () => {
    const begun = await oona.call<{ address: string; detail: string }>('POST', `/api/connections/${connection}/access`);
    expect(begun.status, begun.body.detail).to.equal(200);
    return begun.body.address;
  };
  /** As a browser does that is sent back to us. Gives where it ends and what it reads there. */
  const back = async (at: URL, who = oona) => {
    let to = at;
    for (let n = 0; n < 5; n++) {
      const answer = await fetch(to, { redirect: 'manual', headers: { cookie: who.cookie } });
      const next = answer.headers.get('location');
      if (!next) return { status: answer.status, path: to.pathname, text: await answer.text() };
      to = new URL(next, to);
    }
    throw new Error('sent round and round');
  };
  const asked = () =>
    oona.call<{ outcome: string; sent: { headers: Record<string, string> }; read: Record<string, string> }>(
      'POST',
      `/api/connections/${connection}/call`,
      { call: 'account', given: {}, dry: false },
    );

  before(async () => {
    stage = await openStage({ worker: false });
    oona = await signedIn(stage);
    service = await independentService(`${stage.url}/allowed`, subject, LAST_S);
  });
  after(async () => {
    await service?.close();
    await stage?.close();
  });

  it('nothing goes by it before somebody has allowed it, and it says what to do', async () => {
    const made = await oona.call<{ id: string; found: string; detail: string }>('POST', '/api/connections', input());
    expect(made.status, made.body.detail).to.equal(200);
    expect(made.body.found).to.equal('Kept. Now allow access to it, below.');
    connection = made.body.id;
    expect((await asked()).body.outcome).to.include('Nobody has allowed access yet. Open the connection and choose');
  });

  it('goes to the service’s page with a challenge, and what the page is told besides takes nothing over', async () => {
    const address = new URL(await begin());
    const { searchParams: sent } = address;
    expect(`${address.origin}${address.pathname}`).to.equal(`${service.issuer}/auth`);
    expect(sent.get('code_challenge_method')).to.equal('S256');
    expect(sent.get('code_challenge')).to.match(/^[\w-]{43}$/);
    expect([sent.getAll('client_id'), sent.get('redirect_uri'), sent.get('ui_locales')]).to.deep.equal([
      ['pine-bell'],
      `${stage.url}/allowed`,
      'en',
    ]);
    expect(sent.get('state')).to.match(/^[\w-]{40,}$/);
  });

  it('said no to there, nothing changes and that is told', async () => {
    const state = new URL(await begin()).searchParams.get('state');
    const came = await back(new URL(`${stage.url}/allowed?error=access_denied&state=${state}`));
    expect(came.text).to.include('Access was not allowed there. Nothing has changed.');
  });

  it('allowed, it is let in; what was come back with is good once, and for whoever began it', async () => {
    const to = await service.follow(await begin());
    const stranger = await back(to, { ...oona, cookie: '' });
    expect(stranger.path).to.equal('/sign-in');
    const came = await back(to);
    expect([came.status, came.path]).to.deep.equal([200, `/connections/${connection}`]);
    expect(came.text).to.include('Allowed by');
    const { body } = await asked();
    expect(body.outcome).to.equal('Done');
    expect(body.read).to.deep.equal({ name: 'Oona at the service' });
    expect(body.sent.headers.authorization).to.equal('Bearer •••');
    const again = await back(to);
    expect(again.text).to.include('This took too long, or was done already');
    expect((await asked()).body.outcome).to.equal('Done');
  });

  it('the token is sealed where it is stored', async () => {
    const { rows } = await stage.db.query<{ secret: string }>('select secret from service_grant');
    expect(rows[0]!.secret).to.match(/^1\./);
  });

  it('a code that another service claims to have given is not exchanged (RFC 9207)', async () => {
    const to = await service.follow(await begin());
    to.searchParams.set('iss', 'https://mixed-up.example');
    expect((await back(to)).text).to.include('The answer came from another service than was asked.');
    expect((await asked()).body.outcome).to.equal('Done');
  });

  it('a token that runs out is renewed by itself', async () => {
    const before = await stage.db.query('select secret from service_grant');
    await new Promise((wait) => setTimeout(wait, LAST_S * 1000));
    const all = await Promise.all(Array.from({ length: 5 }, asked));
    expect([
      ...new Set(all.map(({ status, body }) => body.outcome ?? `${status}: ${JSON.stringify(body)}`)),
    ]).to.deep.equal(['Done']);
    const { rows } = await stage.db.query('select secret from service_grant');
    expect(rows[0].secret).not.to.equal(before.rows[0].secret);
  });

  it('what is not used for a day is renewed all the same, before anybody needs it', async () => {
    const secretOf = async () => (await stage.db.query('select secret from service_grant')).rows[0].secret;
    const before = await secretOf();
    const http = new HttpCaller(addressGuard(true));
    const grants = new ServiceGrants({ pool: stage.db, secrets: stage.secrets, http, now: () => Date.now() });
    await grants.renewUnused();
    expect(await secretOf()).to.equal(before);
    await stage.db.query(`update service_grant set renewed_at = now() - interval '1 day'`);
    await grants.renewUnused();
    expect(await secretOf()).not.to.equal(before);
    await http.close();
    expect((await asked()).body.outcome).to.equal('Done');
  });

  it('of many processes one renews it, since what renews is good once', async () => {
    const pool = new pg.Pool({ connectionString: stage.databaseUrl });
    const http = new HttpCaller(addressGuard(true));
    const secrets = new SecretBox(randomBytes(32));
    const ask = {
      tokenAddress: `${service.issuer}/token`,
      clientId: 'pine-bell',
      clientSecret: 'a secret of theirs',
      scope: 'openid email profile',
      shows: 'basic' as const,
    };
    const begun = { authorizeAddress: `${service.issuer}/auth`, backTo: `${stage.url}/allowed`, state: 'a state' };
    const verifier = newVerifier();
    const address = await allowing(http, ask, { ...begun, verifier, more: '' });
    const told = await allowed(http, ask, (await service.follow(address!)).searchParams, { ...begun, verifier });
    if (!told.ok) throw new Error(told.detail);
    const { rows } = await pool.query(
      `insert into connection (id, business_id, kind, name, settings, report_key, report_secret, created_at)
       select gen_random_uuid(), business_id, 'service', 'Shared', '{}', 'shared', '', now() from connection limit 1 returning id, business_id`,
    );
    const { id, business_id } = rows[0];
    await pool.query(
      `insert into service_grant (connection_id, business_id, secret, given_by, renew_at, renewed_at, allowed_at) values ($1, $2, $3, $4, now(), now(), now())`,
      [id, business_id, sealGiven(secrets, told.given), givenBy(ask)],
    );
    const processes = Array.from(
      { length: 6 },
      () => new ServiceGrants({ pool, secrets, http, now: () => Date.now() }),
    );
    for (let round = 0; round < 2; round++) {
      const tokens = await Promise.all(processes.flatMap((grants) => [grants.token(id, ask), grants.token(id, ask)]));
      expect(new Set(tokens.map((token) => (token.ok ? token.token : token.detail))).size).to.equal(1);
      expect(tokens[0]!.ok).to.equal(true);
      await new Promise((wait) => setTimeout(wait, LAST_S * 1000));
    }
    // One that died while it renewed is waited for as long as a call takes, and no longer.
    await pool.query(`update service_grant set renewing_until = now() + interval '1 second' where connection_id = $1`, [
      id,
    ]);
    expect((await processes[0]!.token(id, ask)).ok).to.equal(true);
    // For another address of tokens, or another client, it is not used.
    const elsewhere = await processes[1]!.token(id, { ...ask, tokenAddress: 'https://other.example/token' });
    expect(elsewhere).to.include({ ok: false, refused: false });
    await pool.query('delete from connection where id = $1', [id]);
    await http.close();
    await pool.end();
  });

  it('taken back there, somebody is told once what to do, and allowed anew it goes on', async () => {
    subject.gone = true;
    await new Promise((wait) => setTimeout(wait, LAST_S * 1000));
    for (let n = 0; n < 3; n++) expect((await asked()).body.outcome).to.include('choose “Allow access”');
    const needs = () =>
      stage.db.query(`select title, detail, settled_at from needs_you where subject = 'connection:' || $1::text`, [
        connection,
      ]);
    const { rows } = await needs();
    expect(rows.map(({ title, settled_at }) => ({ title, settled_at }))).to.deep.equal([
      { title: 'Rooms: access has ended', settled_at: null },
    ]);
    const page = await back(new URL(`${stage.url}/connections/${connection}`));
    expect(page.text).to.include('Not allowed');
    delete subject.gone;
    const came = await back(await service.follow(await begin()));
    expect(came.status).to.equal(200);
    expect((await asked()).body.outcome).to.equal('Done');
    expect((await needs()).rows[0].settled_at).not.to.equal(null);
  });

  it('thrown away here, nothing goes by it any more', async () => {
    expect((await oona.call('DELETE', `/api/connections/${connection}/access`)).status).to.equal(200);
    expect((await asked()).body.outcome).to.include('Nobody has allowed access yet.');
    expect((await oona.call('DELETE', `/api/connections/${connection}/access`)).status).to.equal(404);
  });

  it('a page of the service that has no web address is told before anybody is sent there', async () => {
    const wrong = { ...description, signIn: { ...description.signIn, authorizeAddress: 'the front desk' } };
    const made = await oona.call<{ id: string }>('POST', '/api/connections', { ...input(), description: wrong });
    const begun = await oona.call<{ detail: string }>('POST', `/api/connections/${made.body.id}/access`);
    expect([begun.status, begun.body.detail]).to.deep.equal([
      422,
      'The address of the page where access is allowed is not a web address, or the one tokens are fetched from is not. Look at “How it is called”.',
    ]);
  });
});

describe('servers with certificates of a business’s own authority', function () {
  this.timeout(30_000);
  let stage: Stage;
  let oona: Coordinator;
  let ours: Authority;
  const servers: Server[] = [];
  /** A server that tells who it takes its caller for. Gives its address. */
  const listening = async (issued: Issued, of: { asksWho?: string } = {}) => {
    const server = createServer(
      { ...issued, ...(of.asksWho ? { requestCert: true, rejectUnauthorized: true, ca: of.asksWho } : {}) },
      (request, response) => {
        const { CN } = (request.socket as TLSSocket).getPeerCertificate().subject ?? {};
        response.setHeader('content-type', 'application/json').end(JSON.stringify({ name: CN ?? 'anybody' }));
      },
    );
    servers.push(server);
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    return `https://127.0.0.1:${(server.address() as AddressInfo).port}`;
  };
  const description = (signIn: object) => ({
    ...{ format: 'pine-bell-connection', version: 1, name: 'Own', address: '{{ account.address }}', signIn },
    asks: ['address', 'certificate', 'key'].map((key) => ({
      key,
      label: key,
      secret: key === 'key',
      needed: key === 'address',
    })),
    calls: { account: { method: 'GET', path: '/', again: 'harmless', reads: { name: { path: '$.name' } } } },
  });
  const connect = async (address: string, { certificate, key }: Record<string, string> = {}) => {
    const signIn = certificate
      ? { way: 'certificate', certificate: '{{ account.certificate }}', key: '{{ account.key }}' }
      : { way: 'none' };
    const of = { kind: 'service', name: 'Own', description: description(signIn), untried: true };
    const values = { address, ...(certificate ? { certificate, key } : {}) };
    const made = await oona.call<{ id: string; detail: string }>('POST', '/api/connections', { ...of, values });
    expect(made.status, made.body.detail).to.equal(200);
    return made.body.id;
  };
  const tried = async (id: string) => {
    const { body } = await oona.call<{ found?: string; detail?: string }>('POST', `/api/connections/${id}/try`);
    return body.found ?? body.detail;
  };
  const care = (id: string, of: object) =>
    oona.call<{ detail: string; keyUntil: string }>('PUT', `/api/connections/${id}/care`, {
      ...{ keyUntil: '', authority: null, ...of },
    });
  const warned = async () => {
    await housekeeping({ pool: stage.db, secrets: stage.secrets, now: () => Date.now() });
    const { rows } = await stage.db.query(
      `select title, settled_at is null as open from needs_you where kind = 'key_ends' order by created_at, title`,
    );
    return rows.map(({ title, open }) => `${open ? '' : 'settled: '}${title}`);
  };

  before(async () => {
    stage = await openStage({ worker: false });
    oona = await signedIn(stage);
    ours = await authority('Wrenfield own authority');
  });
  after(async () => {
    for (const server of servers) server.close();
    await stage?.close();
  });

  it('are not believed, until the authority is added, by this connection alone', async () => {
    const address = await listening(await ours.issue(['127.0.0.1']));
    const [id, other] = [await connect(address), await connect(address)];
    const strange =
      'Its certificate is signed by an authority nobody here knows. If that is your own, add it on the page of the connection.';
    expect(await tried(id)).to.equal(strange);
    expect((await care(id, { authority: ours.pem })).status).to.equal(200);
    expect(await tried(id)).to.equal('It lets us in: anybody.');
    // What is set of the connection itself leaves it as it is.
    const of = { kind: 'service', name: 'Own', description: description({ way: 'none' }), values: { address } };
    expect((await oona.call('PUT', `/api/connections/${id}`, of)).status).to.equal(200);
    expect(await tried(id)).to.equal('It lets us in: anybody.');
    expect(await tried(other)).to.equal(strange);
    expect((await care(id, { authority: '' })).status).to.equal(200);
    expect(await tried(id)).to.equal(strange);
  });

  it('are not believed for another name, nor after their time', async () => {
    const name = await connect(await listening(await ours.issue(['other.example'])));
    const old = await connect(await listening(await ours.issue(['127.0.0.1'], -1)));
    for (const id of [name, old]) await care(id, { authority: ours.pem });
    expect(await tried(name)).to.equal('Its certificate is for another name.');
    expect(await tried(old)).to.equal('Its certificate has run out.');
  });

  it('see who we are by our own certificate, where they ask', async () => {
    const clients = await authority('Their own authority');
    const address = await listening(await ours.issue(['127.0.0.1']), { asksWho: clients.pem });
    const { cert, key } = await clients.issue(['wrenfield'], 5);
    const id = await connect(address, { certificate: cert, key });
    await care(id, { authority: ours.pem });
    expect(await tried(id)).to.equal('It lets us in: wrenfield.');
    const none = await connect(address);
    await care(none, { authority: ours.pem });
    expect(await tried(none)).not.to.include('lets us in');
    // Ours ends in five days, theirs for the server in thirty.
    const told = await warned();
    expect(told).to.have.length(1);
    expect(told[0]).to.match(/^Own: its certificate ends \d+ \w+ \d{4}$/);
  });

  it('what is no certificate, or is cut off, or holds a key, is told', async () => {
    const id = await connect('https://own.example');
    const { cert, key } = await ours.issue(['127.0.0.1']);
    const says = async (pem: string) => (await care(id, { authority: pem })).body.detail;
    expect(await says('our authority')).to.include('No certificate stands in it');
    expect(await says(cert.replace(/.{40}\n/, '\n'))).to.include('cut off or damaged');
    expect(await says(cert + key)).to.include('A private key stands in it');
    expect((await care(id, { keyUntil: '31 December' })).status).to.equal(422);
  });

  it('a key that ends is told of a week before, once, and no longer when there is another', async () => {
    const id = await connect('https://own.example');
    const day = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10);
    const others = (await warned()).length;
    await care(id, { keyUntil: day(20) });
    expect(await warned()).to.have.length(others);
    await care(id, { keyUntil: day(5) });
    await warned();
    const told = await warned();
    expect(told).to.have.length(others + 1);
    expect(told.at(-1)).to.match(/^Own: its key ends \d/);
    await care(id, { keyUntil: day(400) });
    expect((await warned()).at(-1)).to.match(/^settled: Own: its key ends/);
  });
});
