import { expect } from 'chai';
import { unzipSync } from 'fflate';
import type { MyBusiness } from '../../src/app/account/businesses.ts';
import { tablesOfBusiness } from '../../src/db/tables-of-business.ts';
import { takeOutRemoved } from '../../src/worker/removed-businesses.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { openStage, SIGN_IN, type Stage, signedIn, until } from '../stage/stage.ts';

const TOMAS = { ...SIGN_IN, email: 'tomas@wrenfield.example' };
const TALLOW = '/at/tallow-lane-pottery';
const WREN = '/at/wrenfield-music-school';

describe('several businesses of one person', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Coordinator;
  let tomas: Coordinator;
  /** A list of the first one. */
  let list: string;
  before(async () => {
    stage = await openStage();
    oona = await signedIn(stage);
    tomas = await signedIn(stage, TOMAS);
    list = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Of the school' })).body.id;
  });
  after(() => stage.close());

  const page = async (path: string, who: Coordinator = oona, more: RequestInit = {}) => {
    const answer = await fetch(stage.url + path, {
      headers: { cookie: who.cookie, origin: stage.url },
      redirect: 'manual',
      ...more,
    });
    return {
      status: answer.status,
      to: answer.headers.get('location')?.replace(stage.url, '') ?? '',
      text: await answer.text(),
    };
  };
  const mine = async (who: Coordinator = oona) => (await who.call<MyBusiness[]>('GET', '/api/businesses')).body;
  const one = async <T>(sql: string, values: unknown[] = []) => (await stage.db.query(sql, values)).rows[0] as T;

  it('begin with one: its addresses need no name, and may have it', async () => {
    expect((await page('/leads')).status).to.equal(200);
    const named = await page(`${WREN}/leads`);
    expect(named.status).to.equal(200);
    const links = [...named.text.matchAll(/<a [^>]*href="(\/[^"]*)"/g)].map((found) => found[1]!);
    expect(links.length).to.be.greaterThan(10);
    // But for the page of them all.
    expect(links.filter((link) => !link.startsWith(`${WREN}/`) && link !== '/businesses')).to.deep.equal([]);
    expect((await page('/at/nowhere/leads')).status).to.equal(404);
    expect((await oona.call('GET', '/at/nowhere/api/leads')).status).to.equal(404);
    expect((await oona.call('GET', `${TALLOW}/api/leads`)).status).to.equal(404);
  });

  it('another is begun by an owner only; it has a colour of its own, and nothing of the first', async () => {
    const said = { name: 'Tallow Lane Pottery', country: 'IE', timeZone: 'Europe/Dublin' };
    expect((await tomas.call('POST', '/api/businesses', said)).status).to.equal(403);
    expect((await oona.call('POST', '/api/businesses', { ...said, timeZone: 'Mars' })).status).to.equal(422);
    const made = await oona.call<{ key: string }>('POST', '/api/businesses', said);
    expect([made.status, made.body.key]).to.deep.equal([200, 'tallow-lane-pottery']);
    const all = await mine();
    expect(all.map(({ key }) => key).sort()).to.deep.equal(['tallow-lane-pottery', 'wrenfield-music-school']);
    expect(new Set(all.map(({ color }) => color)).size).to.equal(2);
    expect((await oona.call<unknown[]>('GET', `${TALLOW}/api/workflows`)).body).to.deep.equal([]);
    // Of one name: another key.
    const again = await oona.call<{ key: string }>('POST', '/api/businesses', said);
    expect(again.body.key).to.equal('tallow-lane-pottery-2');
    // Noted in its own trail, and not in the first one's.
    const { n } = await one<{ n: number }>(
      `select count(*)::int as n from audit a join business b on b.id = a.business_id where a.action = 'business.begin' and b.key = 'wrenfield-music-school'`,
    );
    expect(n).to.equal(0);
  });

  it('every page and call says which is meant: what does not is led on, or refused where it would change something', async () => {
    expect((await page('/')).to).to.equal('/businesses');
    expect((await page('/businesses')).text).to.include('Tallow Lane Pottery');
    const tag = await oona.call('POST', '/api/tags', { name: 'Nowhere' });
    expect([tag.status, (tag.body as { type?: string }).type]).to.deep.equal([409, 'urn:pine-bell:which-business']);
    expect((await oona.call('POST', `${TALLOW}/api/tags`, { name: 'Only here' })).status).to.equal(200);
    const tags = await stage.db.query(
      `select b.key from tag t join business b on b.id = t.business_id where t.name in ('Nowhere', 'Only here')`,
    );
    expect(tags.rows).to.deep.equal([{ key: 'tallow-lane-pottery' }]);
    // An address kept from before names something: it leads to the business that has it, whichever they were in last.
    await page(`${TALLOW}/leads`);
    expect((await page('/leads')).to).to.equal(`${TALLOW}/leads`);
    expect((await page(`/lists/${list}?x=1`)).to).to.equal(`${WREN}/lists/${list}?x=1`);
  });

  it('two pages with two businesses do not mix', async () => {
    const names = ['wrenfield-music-school', 'tallow-lane-pottery'];
    const came = await Promise.all(
      Array.from({ length: 20 }, async (_, i) => {
        const key = names[i % 2]!;
        const { text } = await page(`/at/${key}/settings`);
        const other = names[(i + 1) % 2]!;
        // The other stands in the switch, by its first page; and nothing else of it.
        return [text.includes(`href="/at/${key}/leads"`), text.includes(`href="/at/${other}/leads"`)];
      }),
    );
    expect(came).to.deep.equal(came.map(() => [true, false]));
  });

  it('nothing of one is had in the other, by any id', async () => {
    const workflow = await oona.call<{ id: string }>('POST', `${WREN}/api/workflows`, {
      name: 'Of the school',
      folder: '',
    });
    expect((await page(`${TALLOW}/lists/${list}`)).status).to.equal(404);
    for (const [method, path] of [
      ['GET', `/api/workflows/${workflow.body.id}/share`],
      ['DELETE', `/api/workflows/${workflow.body.id}`],
      ['POST', `/api/workflows/${workflow.body.id}/copy`],
      ['PUT', `/api/lists/${list}`],
    ] as const)
      expect(
        (await oona.call(method, TALLOW + path, method === 'PUT' ? { name: 'Mine' } : undefined)).status,
        path,
      ).to.equal(404);
    // Somebody who is in one only has no other, named or not.
    expect((await tomas.call('GET', `${TALLOW}/api/leads`)).status).to.equal(404);
    expect((await page(`${TALLOW}/leads`, tomas)).status).to.equal(404);
    expect((await mine(tomas)).map(({ key }) => key)).to.deep.equal(['wrenfield-music-school']);
  });

  it('a header of ours that somebody sends names no business', async () => {
    const answer = await fetch(`${stage.url}/api/workflows`, {
      headers: { cookie: tomas.cookie, 'x-pine-bell-business': 'tallow-lane-pottery' },
    });
    expect(answer.status).to.equal(200);
    expect(JSON.stringify(await answer.json())).to.not.include('Tallow');
  });

  it('is taken out whole, as open files in one archive, by an owner who has proved who they are', async () => {
    expect((await tomas.call('POST', `${WREN}/api/business/file`)).status).to.equal(403);
    expect((await oona.call<{ from: string }>('POST', `${WREN}/api/business/file`)).body.from).to.equal(
      '/api/business/file',
    );
    const { secret } = await one<{ secret: string }>('select secret from connection where secret is not null limit 1');
    const answer = await fetch(`${stage.url}${WREN}/api/business/file`, { headers: { cookie: oona.cookie } });
    expect(answer.headers.get('content-type')).to.equal('application/zip');
    const files = unzipSync(new Uint8Array(await answer.arrayBuffer()));
    const text = (name: string) => new TextDecoder().decode(files[name]);
    expect(Object.keys(files)).to.include.members([
      'READ ME.txt',
      'leads.csv',
      'who-changed-what.csv',
      'tables/lead.ndjson',
      'tables/tag.ndjson',
    ]);
    const { n } = await one<{ n: number }>(
      `select count(*)::int as n from nurture_list l join business b on b.id = l.business_id where b.key = 'wrenfield-music-school'`,
    );
    const lists = text('tables/nurture_list.ndjson')
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line));
    expect(lists.length).to.equal(n);
    const whole = Object.keys(files).map(text).join('\n');
    expect(whole).to.not.include('Only here');
    expect(whole).to.not.include(secret);
    const { password_hash } = await one<{ password_hash: string }>(
      `select password_hash from person where email = 'oona@wrenfield.example'`,
    );
    expect(whole).to.not.include(password_hash);
    expect(text('workflows/Of the school.json')).to.include('"pineBell": "share"');
  });

  it('removed, nothing goes out and nobody comes in; put back, all of it is there, paused', async () => {
    const flow = await liveFlow(stage, tomas, [
      momentOf('a', toTheLead(freshStep('text', 't', { message: 'At once' }))),
      momentOf('b', {
        at: { kind: 'later', span: { amount: 7, unit: 'days' } },
        ...toTheLead(freshStep('text', 'u', { message: 'A week later' })),
      }),
    ]);
    await flow.send({ phone: '07700 900881', email: 'io@example.org' });
    const texts = () => stage.desk.world.state.carrier.filter(({ to }) => to.endsWith('7700900881')).length;
    await until('the first text', async () => texts() === 1);
    await until(
      'the wait',
      async () =>
        ((await one<{ n: number }>(`select count(*)::int as n from run where state = 'active' and due_at > now()`)).n ??
          0) > 0,
    );

    expect((await tomas.call('DELETE', `${WREN}/api/business`, { name: 'Wrenfield Music School' })).status).to.equal(
      403,
    );
    expect((await oona.call('DELETE', `${WREN}/api/business`, { name: 'Tallow Lane Pottery' })).status).to.equal(422);
    const gone = await oona.call<{ detail?: string } | null>('DELETE', `${WREN}/api/business`, {
      name: 'Wrenfield Music School',
    });
    expect(gone.status, gone.body?.detail).to.equal(200);

    expect((await page(`${WREN}/leads`)).to).to.equal('/businesses');
    expect((await oona.call('GET', `${WREN}/api/leads`)).status).to.equal(409);
    // Whoever is in no other sees the way back, and nothing else.
    expect((await page('/leads', tomas)).to).to.equal('/businesses');
    expect((await tomas.call('GET', '/api/leads')).status).to.equal(409);
    expect((await tomas.call('POST', '/api/businesses/back', { key: 'wrenfield-music-school' })).status).to.equal(403);
    // What comes meanwhile is kept, and answered by nobody.
    await flow.send({ phone: '07700 900882', email: 'al@example.org' });
    const { n } = await one<{ n: number }>(`select count(*)::int as n from run where state = 'active'`);
    expect(n).to.equal(0);
    expect(stage.desk.world.state.carrier.some(({ to }) => to.endsWith('7700900882'))).to.equal(false);

    await stage.db.query(
      `update business set removed_at = removed_at - interval '13 days' where removed_at is not null`,
    );
    expect(await takeOutRemoved({ pool: stage.db, now: Date.now })).to.equal(0);
    expect((await oona.call('POST', '/api/businesses/back', { key: 'wrenfield-music-school' })).status).to.equal(200);
    expect((await oona.call('POST', '/api/businesses/back', { key: 'wrenfield-music-school' })).status).to.equal(409);
    expect((await tomas.call('GET', '/api/leads')).status).to.equal(200);
    const { states } = await one<{ states: string[] }>(
      `select array_agg(distinct w.state) as states from workflow w join business b on b.id = w.business_id where b.key = 'wrenfield-music-school' and w.state <> 'draft'`,
    );
    expect(states).to.deep.equal(['paused']);
    const kept = await one<{ n: number }>(
      `select count(*)::int as n from arrival where body::text like '%900882%' or fields::text like '%900882%'`,
    );
    expect(kept.n).to.be.greaterThan(0);
  });

  it('removed for fourteen days it is gone, every row of it, and the others are untouched', async () => {
    const tables = await tablesOfBusiness(stage.db);
    const { id } = await one<{ id: string }>(`select id from business where key = 'wrenfield-music-school'`);
    const rows = async (of: string) => {
      let n = 0;
      for (const { name, where } of tables)
        n += (await one<{ n: number }>(`select count(*)::int as n from "${name}" where ${where}`, [of])).n;
      return n;
    };
    const pottery = (await one<{ id: string }>(`select id from business where key = 'tallow-lane-pottery'`)).id;
    const others = await rows(pottery);
    expect(await rows(id)).to.be.greaterThan(50);
    expect((await oona.call('DELETE', `${WREN}/api/business`, { name: 'Wrenfield Music School' })).status).to.equal(
      200,
    );
    await stage.db.query(`update business set removed_at = removed_at - interval '15 days' where id = $1`, [id]);
    expect((await oona.call('POST', '/api/businesses/back', { key: 'wrenfield-music-school' })).status).to.equal(409);
    // Broken off in between, and gone on with.
    let steps = 0;
    await takeOutRemoved({ pool: stage.db, now: Date.now }, () => ++steps > 20);
    expect(await takeOutRemoved({ pool: stage.db, now: Date.now })).to.equal(1);
    expect(await rows(id)).to.equal(0);
    expect((await one<{ n: number }>('select count(*)::int as n from business where id = $1', [id])).n).to.equal(0);
    expect(await rows(pottery)).to.equal(others);
    // Whoever was in no other is nobody here any more; whoever is, is still signed in.
    expect(
      (await one<{ n: number }>(`select count(*)::int as n from person where email = 'tomas@wrenfield.example'`)).n,
    ).to.equal(0);
    expect((await tomas.call('GET', '/api/leads')).status).to.equal(401);
    expect((await oona.call('GET', `${TALLOW}/api/leads`)).status).to.equal(200);
  });

  it('no table is forgotten: each belongs to a business, to people or to the installation', async () => {
    const found = new Set((await tablesOfBusiness(stage.db)).map(({ name }) => name));
    const { rows } = await stage.db.query<{ name: string }>(
      `select c.relname as name from pg_class c join pg_namespace n on n.oid = c.relnamespace where n.nspname = 'public' and c.relkind in ('r', 'p') and not c.relispartition order by 1`,
    );
    expect(rows.map(({ name }) => name).filter((name) => !found.has(name))).to.deep.equal([
      ...[
        'business',
        'errand',
        'guess',
        'mikro_orm_migrations',
        'passkey',
        'password_reset',
        'person',
        'recovery_code',
        'session',
      ],
    ]);
  });
});
