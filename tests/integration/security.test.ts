import { request } from 'node:http';
import type { MikroORM } from '@mikro-orm/postgresql';
import { expect } from 'chai';
import { actorOf } from '../../src/app/account/session.ts';
import { signIn } from '../../src/app/account/sign-in.ts';
import type { Actor } from '../../src/app/actor.ts';
import { getLead } from '../../src/app/leads/get-lead.ts';
import { listLeads } from '../../src/app/leads/lead-rows.ts';
import { openUse, type Use } from '../../src/app/use.ts';
import { getWorkflow, listWorkflows, saveDraft } from '../../src/app/workflows/workflows.ts';
import { EVERYBODY } from '../../src/core/people/lead-choice.ts';
import { openMigratingOrm } from '../../src/db/migrating-orm.ts';
import type { Runtime } from '../../src/runtime.ts';
import { otherBusiness } from '../stage/other-business.ts';
import { adEntry, openStage, push, SIGN_IN, type Stage, signedIn, until } from '../stage/stage.ts';

describe('security baseline', () => {
  let stage: Stage;
  before(async function () {
    this.timeout(60_000);
    stage = await openStage({ worker: false });
  });
  after(() => stage.close());

  const get = (path: string, headers: Record<string, string> = {}) =>
    fetch(stage.url + path, { redirect: 'manual', headers });

  it('nothing opens without signing in; a forged or cut cookie is no cookie', async () => {
    const { cookie } = await signedIn(stage);
    for (const path of ['/', '/leads', '/settings', '/workflows'])
      expect((await get(path)).headers.get('location'), path).to.match(/^\/sign-in/);
    expect((await get('/api/today')).status).to.equal(401);
    const [token, seal] = cookie.split('=')[1]!.split('.');
    for (const forged of [`${token}.${seal!.slice(0, -2)}xx`, `${token}`, `${token!.slice(1)}.${seal}`])
      expect((await get('/api/today', { cookie: `pinebell_session=${forged}` })).status).to.equal(401);
    expect((await get('/api/today', { cookie })).status).to.equal(200);
  });

  it('the cookie is HttpOnly and SameSite; signing out ends the session on the server', async () => {
    const answer = await fetch(`${stage.url}/sign-in`, {
      method: 'POST',
      headers: { origin: stage.url },
      body: new URLSearchParams(SIGN_IN),
      redirect: 'manual',
    });
    const set = answer.headers.get('set-cookie')!;
    expect(set)
      .to.match(/HttpOnly/i)
      .and.match(/SameSite=Lax/i);
    const cookie = set.split(';')[0]!;
    await fetch(`${stage.url}/sign-out`, {
      method: 'POST',
      headers: { origin: stage.url, cookie },
      redirect: 'manual',
    });
    expect((await get('/api/today', { cookie })).status).to.equal(401);
  });

  it('guessing passwords is slowed down, for one address and not for the next', async () => {
    const attempt = (email: string, password: string) =>
      fetch(`${stage.url}/sign-in`, {
        method: 'POST',
        headers: { origin: stage.url },
        body: new URLSearchParams({ email, password }),
        redirect: 'manual',
      }).then((answer) => answer.status);
    // All at once: none is compared before it has been counted.
    const burst = await Promise.all(
      Array.from({ length: 30 }, (_, i) => attempt('piano.desk@wrenfield.example', `guess-${i}`)),
    );
    expect(burst.filter((status) => status === 401).length).to.equal(8);
    expect(burst.filter((status) => status === 429).length).to.equal(22);
    expect(await attempt('piano.desk@wrenfield.example', SIGN_IN.password)).to.equal(429);
    expect(await attempt(SIGN_IN.email, SIGN_IN.password)).to.equal(303);
    // Somebody who guesses elsewhere does not shut out who belongs here: past a score it only takes longer.
    const runtime = { pool: stage.db, secrets: stage.secrets, now: Date.now } as unknown as Runtime;
    const orm = await openMigratingOrm(stage.databaseUrl);
    try {
      const from = (address: string, password: string) =>
        signIn({ ...runtime, orm } as Runtime, {
          ...{ email: SIGN_IN.email, password },
          from: { address, userAgent: '' },
        }).then(
          () => 303,
          (error: { status: number }) => error.status,
        );
      // One network of IPv6 is one guesser, whatever address of it is used.
      const guesses = await Promise.all(
        Array.from({ length: 12 }, (_, i) => from(`2001:db8:1:2::${i + 1}`, `guess-${i}`)),
      );
      expect(guesses.filter((status) => status === 401).length).to.equal(8);
      const spread = await Promise.all(Array.from({ length: 12 }, (_, i) => from(`203.0.113.${i + 1}`, `guess-${i}`)));
      expect(new Set(spread)).to.deep.equal(new Set([401]));
      expect(await from('198.51.100.7', SIGN_IN.password)).to.equal(303);
    } finally {
      await orm.close();
    }
  });

  it('answers to its own names only, so that no page of a stranger reaches it by a name that leads here', async () => {
    const asked = (host: string, path = '/sign-in') =>
      new Promise<number>((resolve, reject) =>
        request(stage.url + path, { headers: { host } }, (answer) => {
          answer.resume();
          resolve(answer.statusCode!);
        })
          .on('error', reject)
          .end(),
      );
    const { port } = new URL(stage.url);
    for (const host of [`127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`])
      expect(await asked(host), host).to.equal(200);
    for (const host of ['evil.example', `evil.example:${port}`, `127.0.0.1.evil.example:${port}`, 'a b'])
      expect(await asked(host), host).to.equal(421);
    expect(await asked('evil.example', '/in/abcdefghijkl'), 'not even where leads arrive').to.equal(421);
    expect(await asked('10.1.2.3', '/healthz'), 'who watches over it asks by address').to.equal(200);
  });

  it('writes from another site are refused, whatever they carry', async () => {
    const { cookie } = await signedIn(stage);
    const write = (headers: Record<string, string>) =>
      fetch(`${stage.url}/api/workflows`, {
        method: 'POST',
        headers: { cookie, 'content-type': 'application/json', ...headers },
        body: '{"name":"x","folder":""}',
      }).then((answer) => answer.status);
    expect(await write({ origin: 'https://evil.example' })).to.equal(403);
    expect(await write({})).to.equal(403);
    expect(await write({ 'sec-fetch-site': 'cross-site', origin: stage.url })).to.equal(403);
    expect(await write({ origin: stage.url })).to.equal(200);
  });

  it('pages carry a content security policy that lets no inline script run but Astro’s own two', async () => {
    const { call } = await signedIn(stage);
    const { headers, body } = await call<string>('GET', '/');
    const policy = headers.get('content-security-policy')!;
    expect(policy).to.contain("default-src 'none'").and.contain("frame-ancestors 'none'");
    expect(/script-src[^;]*/.exec(policy)![0]).to.not.contain('unsafe');
    expect(headers.get('x-content-type-options')).to.equal('nosniff');
    const { createHash } = await import('node:crypto');
    const inline = [...body.matchAll(/<script>([\s\S]*?)<\/script>/g)].map(
      (match) => `'sha256-${createHash('sha256').update(match[1]!).digest('base64')}'`,
    );
    expect(inline.length).to.be.above(0);
    for (const hash of inline) expect(policy).to.contain(hash);
  });

  it('secrets lie sealed in the database and are not in any answer', async () => {
    const { rows } = await stage.db.query(
      'select secret from connection where secret is not null union all select report_secret from connection union all select secret from source',
    );
    for (const { secret } of rows) expect(secret).to.match(/^1\.[\w-]+$/);
    const opened = rows.map(({ secret }) => stage.secrets.open(secret));
    expect(opened).to.include(stage.env.PRACTICE_TOKEN);
    const { call } = await signedIn(stage);
    const shown = JSON.stringify([
      (await call('GET', '/api/connections')).body,
      (await call('GET', '/api/sources')).body,
      (await call('GET', '/connections')).body,
    ]);
    for (const secret of opened) expect(shown).to.not.contain(secret);
  });

  it('passwords are kept as Argon2id with OWASP’s minimum', async () => {
    const {
      rows: [person],
    } = await stage.db.query('select password_hash from person limit 1');
    const [, memory, time, lanes] = /^\$argon2id\$v=19\$m=(\d+),t=(\d+),p=(\d+)\$/
      .exec(person.password_hash)!
      .map(Number);
    expect([memory! >= 19_456, time! >= 2, lanes]).to.deep.equal([true, true, 1]);
  });

  it('a sign-in address cannot lead to another site', async () => {
    const { cookie } = await signedIn(stage);
    for (const to of [
      'https://evil.example',
      '//evil.example',
      '/\\evil.example',
      '/\t/evil.example',
      '/\n/evil.example',
      '/.//evil.example',
      'javascript:alert(1)',
    ])
      expect((await get(`/sign-in?to=${encodeURIComponent(to)}`, { cookie })).headers.get('location'), to).to.equal(
        '/',
      );
  });

  it('an API error is problem details with words for the person, and bad input is never a bare 500', async () => {
    const { call } = await signedIn(stage);
    const bad: [string, string, unknown, number][] = [
      ['POST', '/api/workflows', { name: '' }, 422],
      ['GET', '/api/sources/nonsense', undefined, 404],
      ['GET', '/api/leads/00000000-0000-7000-8000-000000000000', undefined, 404],
      ['POST', '/api/sources', { kind: 'fax' }, 422],
      ['PUT', '/api/workflows/nonsense', { revision: 1, draft: {} }, 404],
      ['PUT', '/api/workflows/00000000-0000-7000-8000-000000000000', { revision: 1, draft: {} }, 422],
    ];
    for (const [method, path, body, status] of bad) {
      const answer = await call<{ detail: string; status: number }>(method, path, body);
      expect(answer.status, path).to.equal(status);
      expect(answer.headers.get('content-type')).to.equal('application/problem+json');
      expect(answer.body.detail).to.match(/\.$/);
    }
  });
});

describe('one business and another', () => {
  let stage: Stage;
  let stranger: Use;
  let eve: Awaited<ReturnType<typeof signedIn>>;
  let orm: MikroORM;
  before(async function () {
    this.timeout(60_000);
    stage = await openStage();
    await push(
      await stage.source('Trial lesson form'),
      adEntry('mine', { email: 'mine@example.org', phone: '07700 900601' }),
    );
    await until('the lead', async () => (await stage.db.query(`select 1 from run where due_at is null`)).rowCount);
    orm = await openMigratingOrm(stage.databaseUrl);
    ({ eve } = await otherBusiness(stage));
    const settings = { publicUrl: '' };
    const runtime = {
      pool: stage.db,
      screens: stage.db,
      orm,
      secrets: stage.secrets,
      settings,
      now: Date.now,
    } as unknown as Runtime;
    const actor = (await actorOf(runtime, eve.cookie.split('=')[1])) as Actor;
    stranger = openUse(runtime, actor);
  });
  after(async () => {
    await orm.close();
    await stage.close();
  });

  const refused = (work: Promise<unknown>) =>
    work.then(
      () => 'given',
      (error: { status?: number }) => error.status,
    );

  it('sees none of the other’s leads, workflows, sources, runs or needs, by list or by id', async () => {
    const {
      rows: [mine],
    } = await stage.db.query(
      'select r.id as run, r.lead_id as lead, r.workflow_id as workflow, r.source_id as source, w.draft from run r join workflow w on w.id = r.workflow_id limit 1',
    );
    expect((await listLeads(stranger, { choice: EVERYBODY, before: null })).total).to.equal(0);
    expect(await listWorkflows(stranger)).to.deep.equal([]);
    expect(await refused(getLead(stranger, mine.lead))).to.equal(404);
    expect(await refused(getWorkflow(stranger, mine.workflow))).to.equal(404);
    expect(
      await refused(stranger.write((tx) => saveDraft(tx, mine.workflow, { revision: 0, draft: mine.draft }))),
    ).to.equal(404);
    const { call } = eve;
    for (const path of [
      `/api/workflows/${mine.workflow}`,
      `/api/workflows/${mine.workflow}/runs`,
      `/api/workflows/${mine.workflow}/runs/${mine.run}`,
      `/api/sources/${mine.source}`,
      `/api/sources/${mine.source}/arrivals`,
      `/api/leads/${mine.lead}`,
    ])
      expect((await call('GET', path)).status, path).to.equal(404);
    expect(
      (await call('PUT', `/api/leads/${mine.lead}`, { first_name: 'x', last_name: '', email: '', phone: '' })).status,
    ).to.equal(404);
    const today = await call<{ ring: unknown[]; needs: unknown[] }>('GET', '/api/today');
    expect([today.body.ring, today.body.needs]).to.deep.equal([[], []]);
  });

  it('a viewer can look and not touch', async () => {
    await stage.db.query(
      `update membership set role = 'viewer' where person_id = (select id from person where email = 'tomas@wrenfield.example')`,
    );
    const { call } = await signedIn(stage, { email: 'tomas@wrenfield.example', password: SIGN_IN.password });
    expect((await call('GET', '/api/workflows')).status).to.equal(200);
    const refusal = await call<{ detail: string }>('POST', '/api/workflows', { name: 'x', folder: '' });
    expect(refusal.status).to.equal(403);
    expect(refusal.body.detail).to.equal(
      'You can look at this but not change it. Ask a coordinator, or an owner for more rights.',
    );
  });

  it('the entities and the migrations are in step', async () => {
    expect(await orm.migrator.checkMigrationNeeded()).to.equal(false);
  });
});
