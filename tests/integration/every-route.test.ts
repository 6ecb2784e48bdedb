import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import fc from 'fast-check';
import { pageRight } from '../../src/core/people/page-rights.ts';
import { mayDo, RIGHT, ROLES, type Role, type WhoseLeads } from '../../src/core/people/rights.ts';
import type { Definition } from '../../src/core/workflow/definition.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import {
  addressOf,
  type Named,
  PAGES,
  pageAddress,
  pagesThereAre,
  type RouteCase,
  rightOf,
  routesThereAre,
  TO_ALL,
  TO_ONE,
} from '../stage/api-routes.ts';
import type { Coordinator } from '../stage/flow.ts';
import { otherBusiness } from '../stage/other-business.ts';
import { stepOf } from '../stage/sheets.ts';
import { openStage, SIGN_IN, type Stage, signedIn } from '../stage/stage.ts';

interface Answer {
  status: number;
  body: { detail?: string; status?: number };
  type: string;
}

describe('every route of the application', () => {
  let stage: Stage;
  let oona: Coordinator;
  let eve: Coordinator;
  let other: string;
  /** Eve's id. */
  let person: string;
  let named: Named;

  before(async function () {
    this.timeout(120_000);
    stage = await openStage({ worker: false, history: true });
    oona = await signedIn(stage);
    ({ eve, business: other, person } = await otherBusiness(stage));
    named = await everyThing();
  });
  after(() => stage.close());

  const first = async (sql: string) => (await stage.db.query<{ id: string }>(sql)).rows[0]!.id;
  /** One of each kind of thing in the first business; what the demo has none of is made. */
  async function everyThing(): Promise<Named> {
    const made = async (path: string, body: unknown) => {
      const answer = await oona.call<{ id: string }>('POST', path, body);
      expect(answer.status, JSON.stringify(answer.body)).to.equal(200);
      return answer.body.id;
    };
    const [list, tag, colleague, workflow, run] = [
      await first('select id from nurture_list'),
      await first('select id from tag'),
      await first(`select person_id as id from membership where business_id <> '${other}'`),
      await first('select workflow_id as id from run'),
      await first('select id from run'),
    ];
    const [merged, into, lead, lead2] = (
      await stage.db.query<{ id: string }>(
        'select id from lead l where is_person and exists (select from lead_change c where c.lead_id = l.id) order by created_at limit 4',
      )
    ).rows.map((row) => row.id) as [string, string, string, string];
    const email = { subject: 'News', message: 'Hello {{ lead.leave_link }}', needsConsent: false };
    const mailing = await made('/api/mailings', { to: `list:${list}`, email, at: '2031-01-01T09:00' });
    const everybody = { ids: [lead], search: '', segment: null, condition: null, list: null, tag: null, source: null };
    const bulk = await made('/api/bulk', { choice: everybody, action: { does: 'tag', tag }, count: 1 });
    const appointment = await made('/api/calendar/appointments', {
      ...{ colleagueId: colleague, leadId: lead, title: 'Trial', startsAt: '2031-01-01T09:00' },
    });
    expect((await oona.call('POST', `/api/leads/${into}/merge`, { with: merged })).status).to.equal(200);
    await stage.db.query(
      `insert into task (id, business_id, lead_id, title, due_at, created_at) select gen_random_uuid(), business_id, id, 'Call', now(), now() from lead where id = $1`,
      [lead],
    );
    const draft = await first(
      `update delivery set state = 'draft' where id = (select id from delivery where channel = 'text' and audience = 'lead' limit 1) returning id`,
    );
    expect(
      (await oona.call('POST', `/api/leads/${lead}/outcomes`, { name: 'Rang up', day: '', amount: '' })).status,
    ).to.equal(200);
    const feed = await made('/api/results/costs/feeds', { connectionId: null });
    const site = await made('/api/results/sites', { name: 'www.wrenfield.example', asks: true });
    const [source, tab, deal] = [
      await first('select source_id as id from arrival'),
      await first('select tab_id as id from sheet_row'),
      await first('select id from deal'),
    ];
    return {
      ...{ appointment, bulk, colleague, deal, draft, lead, lead2, list, mailing, run, source, tab, tag, workflow },
      arrival: await first(`select id from arrival where source_id = '${source}'`),
      // Never due: nobody looks at it while the test compares what there is.
      calendar: await first(
        `insert into own_calendar (id, business_id, connection_id, colleague_id, href, name, next_at, created_at)
         select gen_random_uuid(), c.business_id, c.id, m.person_id, '', 'Mine', 'infinity', now() from connection c join membership m using (business_id)
         where c.kind = 'text_carrier' and m.person_id = '${colleague}' returning id`,
      ),
      canned: await first('select id from canned_answer'),
      ...{
        feed,
        site,
        counted: await first('select id from outcome_kind'),
        outcome: await first('select id from noted_outcome'),
      },
      change: await first(`select id from lead_change where lead_id = '${lead}'`),
      chatForm: await first('select id from chat_form'),
      chatTemplate: await first('select id from chat_template'),
      connection: await first(`select id from connection where kind = 'text_carrier'`),
      conversation: await first('select id from conversation'),
      device: await first(
        `insert into push_device (id, business_id, person_id, endpoint, p256dh, auth, name, wants, created_at, told_until)
         select gen_random_uuid(), business_id, person_id, 'https://push.example/one', 'p', 'a', 'Phone', '{}', now(), now() from membership m join person p on p.id = m.person_id where p.email = 'oona@wrenfield.example' returning id`,
      ),
      invitation: await made('/api/invitations', { email: 'asked@wrenfield.example', role: 'desk' }),
      removed: await (async () => {
        const id = await made('/api/workflows', { name: 'Gone', folder: '' });
        await stage.db.query('update workflow set removed_at = now() where id = $1', [id]);
        return id;
      })(),
      // Who may be sent away by a test without anybody missing them.
      person: await first(
        `with made as (insert into person (id, email, name, password_hash, created_at) values (gen_random_uuid(), 'lea@wrenfield.example', 'Lea', '', now()) returning id)
         insert into membership (id, business_id, person_id, role) select gen_random_uuid(), b.id, made.id, 'viewer' from business b, made where b.id <> '${other}' returning person_id as id`,
      ),
      passkey: await first(
        `insert into passkey (id, person_id, credential, public_key, transports, name, created_at) select gen_random_uuid(), id, 'one', '', '{}', 'Phone', now() from person where email = 'oona@wrenfield.example' returning id`,
      ),
      session: await first('select public_id as id from session'),
      team: await made('/api/teams', { name: 'Front desk', people: [] }),
      emailTemplate: await first('select id from email_template'),
      named: await made('/api/tags', { name: 'Mine' }),
      merge: await first('select id from lead_merge'),
      need: await first('select id from needs_you where settled_at is null'),
      pipeline: await first('select id from pipeline'),
      row: await first(`select id from sheet_row where tab_id = '${tab}'`),
      segment: await first('select id from segment'),
      sheet: await first('select id from sheet'),
      stage: await first('select id from stage'),
      task: await first('select id from task'),
    };
  }

  /** Asks as somebody, or as nobody; `at` names the business, "/at/other". */
  async function asks(
    who: Coordinator | null,
    route: RouteCase,
    ids: Partial<Named>,
    body?: unknown,
    at = '',
  ): Promise<Answer> {
    const sends = route.method !== 'GET' && route.method !== 'DELETE';
    const made = await fetch(`${stage.url}${at}${addressOf(route, ids)}${route.file ? '?name=rows.csv' : ''}`, {
      method: route.method,
      headers: { origin: stage.url, ...(who ? { cookie: who.cookie } : {}), 'content-type': 'application/json' },
      ...(sends ? { body: route.file ? 'Name,Email\nAda,ada@example.org\n' : JSON.stringify(body ?? {}) } : {}),
      redirect: 'manual',
      signal: AbortSignal.timeout(20_000),
    });
    const type = made.headers.get('content-type') ?? '';
    const text = type.includes('event-stream') ? '' : await made.text();
    if (type.includes('event-stream')) await made.body?.cancel();
    return { status: made.status, type, body: type.includes('json') ? JSON.parse(text || 'null') : {} };
  }
  const nameOf = ({ method, path }: RouteCase) => `${method} ${path}`;
  const isProblem = (answer: Answer, route: RouteCase) => {
    expect(answer.type, nameOf(route)).to.equal('application/problem+json');
    expect(answer.body.detail, nameOf(route)).to.match(/[.?]$/);
  };
  /** What says of each table that a row is the first business's. */
  const WHOSE: Record<string, string> = {
    sheet_row: 'tab_id in (select t.id from sheet_tab t join sheet s on s.id = t.sheet_id where s.business_id <> $1)',
    sheet_tab: 'sheet_id in (select id from sheet where business_id <> $1)',
    list_member: 'list_id in (select id from nurture_list where business_id <> $1)',
    lead_tag: 'lead_id in (select id from lead where business_id <> $1)',
    stage: 'pipeline_id in (select id from pipeline where business_id <> $1)',
  };
  let fingerprints = '';
  /** A fingerprint of everything that is the first business's, table by table: how many rows there are, and which transactions wrote them. */
  async function fingerprint(): Promise<Record<string, string>> {
    if (fingerprints === '') {
      // When a sign-in was used last stands in its row.
      const { rows: tables } = await stage.db.query<{ name: string }>(
        `select table_name as name from information_schema.columns where column_name = 'business_id' and table_schema = 'public' and table_name <> 'session' order by 1`,
      );
      const whose = { ...Object.fromEntries(tables.map(({ name }) => [name, 'business_id <> $1'])), ...WHOSE };
      fingerprints = Object.entries(whose)
        .map(
          ([name, via]) =>
            `select '${name}' as name, count(*) || '/' || sum(t.xmin::text::bigint) as sum from "${name}" t where ${via}`,
        )
        .join(' union all ');
    }
    const { rows } = await stage.db.query<{ name: string; sum: string | null }>(fingerprints, [other]);
    return Object.fromEntries(rows.map(({ name, sum }) => [name, sum ?? '']));
  }

  it('is known to this test', () => {
    expect([...TO_ONE, ...TO_ALL].map(nameOf).sort()).to.deep.equal(routesThereAre());
  });

  it('says what an address is asked for by, and that there is nothing at others', async () => {
    const asked = async (method: string, path: string) =>
      (await oona.call<{ detail: string }>(method, path)).body.detail;
    expect(await asked('POST', '/api/today')).to.equal('This is asked for by GET.');
    expect(await asked('DELETE', `/api/leads/${named.lead}`)).to.equal('This is asked for by GET or PUT.');
    for (const nothing of ['/api', '/api/', '/api/nothing', '/api/leads/file/nothing', '/api/constructor'])
      expect(await asked('GET', nothing), nothing).to.match(/not here/);
  });

  it('is shut to whoever is not signed in', async () => {
    for (const route of [...TO_ONE, ...TO_ALL]) {
      const answer = await asks(null, route, named, route.body?.(named));
      expect(answer.status, nameOf(route)).to.equal(401);
      isProblem(answer, route);
    }
  });

  /** In the other business nobody is led to anything of the first, and nothing of it changes. */
  async function leadsToNothing(at: string): Promise<void> {
    const before = await fingerprint();
    for (const route of TO_ONE) {
      const answer = await asks(eve, route, named, route.body?.(named), at);
      expect(answer.status, `${nameOf(route)}: ${JSON.stringify(answer.body)}`).to.equal(404);
      isProblem(answer, route);
    }
    for (const route of TO_ALL) {
      const body = route.body?.(named);
      const answer = await asks(eve, route, named, body, at);
      const said = JSON.stringify(answer.body);
      // Whatever kind of id a body can hold, one of ours in it is refused as what is not here.
      if (Object.values(named).some((id) => JSON.stringify(body ?? '').includes(id)))
        expect(answer.status, `${nameOf(route)}: ${said}`).to.equal(404);
      for (const [what, id] of Object.entries(named)) expect(said, `${nameOf(route)}, ${what}`).not.to.include(id);
    }
    const after = await fingerprint();
    // Somebody who failed to prove who they are is noted wherever they belong.
    const { rows } = await stage.db.query<{ action: string }>(
      `select distinct action from audit where business_id <> $1 and person_id = $2`,
      [other, person],
    );
    expect(rows.filter(({ action }) => action !== 'sign_in.failed')).to.deep.equal([]);
    expect({ ...after, audit: rows.length === 0 ? after.audit : before.audit }).to.deep.equal(before);
  }

  it('leads another business’s owner to nothing of ours, by id or inside what is sent, and nothing of ours changes', async function () {
    this.timeout(90_000);
    await leadsToNothing('');
  });

  it('leads whoever owns both to nothing of the one in the other, by any of these doors', async function () {
    this.timeout(90_000);
    await stage.db.query(
      `insert into membership (id, business_id, person_id, role) select gen_random_uuid(), b.id, $1, 'owner' from business b where b.id <> $2`,
      [person, other],
    );
    const { rows } = await stage.db.query<{ key: string }>('select key from business where id = $1', [other]);
    try {
      await leadsToNothing(`/at/${rows[0]!.key}`);
      // And without a name they change nothing in either.
      for (const route of TO_ALL.filter(
        ({ method, path }) => method !== 'GET' && !/^\/(businesses|proof)/.test(path),
      )) {
        const answer = await asks(eve, route, named, route.body?.(named));
        expect(answer.status, nameOf(route)).to.equal(409);
      }
    } finally {
      await stage.db.query('delete from membership where person_id = $1 and business_id <> $2', [person, other]);
    }
  });

  it('no run sheet names what is another business’s, in whichever setting of whichever step, and nothing across the wall starts it', async function () {
    this.timeout(120_000);
    const mine = (await eve.call<{ id: string }>('POST', '/api/workflows', { name: 'Across', folder: '' })).body.id;
    const { draft } = (await eve.call<{ workflow: { draft: Definition } }>('GET', `/api/workflows/${mine}`)).body
      .workflow;
    const put = (changed: Definition) =>
      eve.call('PUT', `/api/workflows/${mine}`, { revision: 0, draft: changed }).then((answer) => answer.status);
    const ours = [named.list, named.tab, named.colleague, named.connection];
    const fileOf = (fileId: string) => [{ fileId }];
    let tried = 0;
    const refused = async (changed: Definition, where: string) => {
      tried += 1;
      expect(await put(changed), where).to.equal(404);
    };
    await refused({ ...draft, sources: [named.source] }, 'sources');
    await refused({ ...draft, rules: { ...draft.rules, endsTags: [named.tag] } }, 'rules.endsTags');
    await refused({ ...draft, rules: { ...draft.rules, tell: named.colleague } as never }, 'rules.tell');
    for (const kind of stepKinds.values()) {
      const blank = kind.blank() as Record<string, unknown>;
      // As the value, inside one, and in a list: the shape a setting has does not matter at the border, nor what the id is of.
      for (const [key, value] of Object.entries(blank))
        for (const shape of [(id: string) => id, (id: string) => `list:${id}`, (id: string) => [id], fileOf]) {
          const put = shape(ours[tried % ours.length]!);
          if (typeof value === 'string' && typeof put !== 'string') continue;
          const step = stepOf(kind.kind, 'x', { ...blank, [key]: put });
          const place = kind.places[0]!;
          const [moment] = draft.moments;
          const placed =
            place === 'first'
              ? { ...moment!, first: [step] }
              : { ...moment!, lanes: { ...moment!.lanes, [place]: [step] } };
          await refused({ ...draft, moments: [placed] }, `${kind.kind}.${key}`);
        }
    }
    expect(tried).to.be.greaterThan(100);
    // One that has got past the border all the same starts nothing: the database refuses that it listens.
    let said = '';
    await stage.db
      .query(
        `insert into listening (source_id, business_id, workflow_id, version_id, same_person)
         select $1, w.business_id, w.id, v.id, 'update_only' from workflow w join workflow_version v on v.workflow_id = $2 where w.id = $3 limit 1`,
        [named.source, named.workflow, mine],
      )
      .catch((error: Error) => {
        said = error.message;
      });
    expect(said).to.match(/same_business/);
    const { rows } = await stage.db.query<{ name: string }>(
      `select c.table_name as name from information_schema.columns c where c.table_schema = 'public' and c.column_name = 'id' and c.data_type = 'uuid'
         and strpos(pg_get_functiondef('elsewhere(uuid, uuid[])'::regprocedure), 'from ' || c.table_name || ' ') = 0
         and not (select k.relispartition from pg_class k where k.oid = format('%I', c.table_name)::regclass)`,
    );
    // A part is looked at through its whole. People are looked for among the members; what only says how often somebody guessed belongs to nobody.
    expect(rows.map((row) => row.name).sort(), 'tables outside the wall').to.deep.equal([
      'deal_move',
      'passkey',
      'password_reset',
      'person',
    ]);
  });

  it('a page about one thing opens for its own business only; for others, and for an id that is none, it is not here', async () => {
    expect(Object.keys(PAGES).sort()).to.deep.equal(pagesThereAre());
    const open = async (who: Coordinator | null, path: string) => {
      const made = await fetch(stage.url + path, { headers: who ? { cookie: who.cookie } : {}, redirect: 'manual' });
      return { status: made.status, to: made.headers.get('location') ?? '', text: await made.text() };
    };
    const nobody = '01999999-0000-7000-8000-0000000000ff';
    for (const [file, of] of Object.entries(PAGES)) {
      const path = pageAddress(file, named[of]);
      expect((await open(oona, path)).status, path).to.equal(200);
      expect((await open(null, path)).to, path).to.match(/^\/sign-in/);
      for (const [who, at] of [
        [eve, path],
        [oona, pageAddress(file, 'nonsense')],
        [oona, pageAddress(file, nobody)],
      ] as const) {
        const shut = await open(who, at);
        expect([shut.status, at]).to.deep.equal([404, at]);
        expect(shut.text, at).to.match(/not here/i);
      }
    }
  });

  const role = (is: Role, whose: WhoseLeads = 'all') =>
    stage.db.query(
      `update membership set role = $1, whose_leads = $2 where person_id = (select id from person where email = 'tomas@wrenfield.example')`,
      [is, whose],
    );
  const asTomas = () => signedIn(stage, { email: 'tomas@wrenfield.example', password: SIGN_IN.password });
  const NOBODY = '01999999-0000-7000-8000-0000000000ff';
  const nothing = () => Object.fromEntries(Object.keys(named).map((key) => [key, NOBODY])) as unknown as Named;

  for (const is of ROLES)
    it(`lets whoever is ${is} do what the table of rights says, and nothing else`, async function () {
      this.timeout(120_000);
      await role(is);
      const tomas = await asTomas();
      const before = await fingerprint();
      for (const route of [...TO_ONE, ...TO_ALL]) {
        const mays = mayDo(is, rightOf(route));
        // What they may is asked of what is not there, so that nothing comes of it; what cannot be asked in that way is left out.
        if (mays && route.method !== 'GET' && !route.path.includes(':') && !route.body) continue;
        const answer = await asks(tomas, route, mays ? nothing() : named, mays ? undefined : route.body?.(named));
        if (mays) expect(answer.status, `${nameOf(route)}: ${JSON.stringify(answer.body)}`).not.to.equal(403);
        else {
          expect(answer.status, `${nameOf(route)}: ${JSON.stringify(answer.body)}`).to.equal(403);
          expect(answer.body.detail, nameOf(route)).to.equal(RIGHT[rightOf(route)].refusal);
        }
      }
      const pages = readdirSync(join(import.meta.dirname, '../../src/pages'), { recursive: true, encoding: 'utf8' })
        .filter(
          (file) =>
            file.endsWith('.astro') &&
            !/\[(?!id)|^(404|allowed|sign-in|set-up|forgotten|not-here|not-yours)/.test(file),
        )
        .map((file) =>
          pageAddress(file.replace(/^index/, ''), PAGES[file] ? named[PAGES[file]] : '').replace(/\/$/, ''),
        );
      for (const path of pages) {
        const right = pageRight(path || '/');
        expect(right, path).not.to.equal(null);
        const made = await fetch(stage.url + path, { headers: { cookie: tomas.cookie }, redirect: 'manual' });
        expect(made.status === 403, `${path} as ${is}: ${made.status}`).to.equal(!mayDo(is, right!));
        expect(made.status, path).to.be.below(500);
      }
      const after = await fingerprint();
      // What is taken out as a file is noted, and when an account was asked last and how it did: that is written a moment later.
      const { audit, connection, connection_health, connection_hour } = before;
      expect({ ...after, audit, connection, connection_health, connection_hour }).to.deep.equal(before);
    });

  it('shows whoever works with their own leads nothing of anybody else’s, by whichever door or page', async function () {
    this.timeout(120_000);
    const tomasId = await first(`select id from person where email = 'tomas@wrenfield.example'`);
    const hidden = 'Zzhidden';
    await stage.db.query('update lead set first_name = $1, last_name = $1, owner_id = null where id <> $2', [
      hidden,
      named.lead,
    ]);
    await stage.db.query('update lead set owner_id = $1 where id = $2', [tomasId, named.lead]);
    await stage.db.query('update conversation set assignee_id = null, taken_by_id = null where lead_id <> $1', [
      named.lead,
    ]);
    await stage.db.query(
      'update calendar_entry set title = case when lead_id = $3 then title else $1 end, colleague_id = $2',
      [hidden, await first(`select id from person where email = 'oona@wrenfield.example'`), named.lead],
    );
    await stage.db.query(`update task set title = $1, colleague_id = null where lead_id <> $2`, [hidden, named.lead]);
    await stage.db.query(`update delivery set lead_id = $1 where id = $2`, [named.lead2, named.draft]);
    await role('desk', 'own');
    const tomas = await asTomas();
    const of = async (table: string) => first(`select t.id from ${table} t where t.lead_id <> '${named.lead}'`);
    const others: Named = {
      ...named,
      ...{ lead: named.lead2, lead2: named.lead2, deal: await of('deal'), conversation: await of('conversation') },
      ...{
        task: await first(
          `insert into task (id, business_id, lead_id, title, due_at, created_at) select gen_random_uuid(), business_id, id, 'Zzhidden', now(), now() from lead where id = '${named.lead2}' returning id`,
        ),
      },
    };
    const OF_LEADS = /:(lead|deal|conversation|task|appointment|draft)\b/;
    for (const route of TO_ONE.filter(({ path }) => OF_LEADS.test(path))) {
      const answer = await asks(tomas, route, others, route.body?.(others));
      expect(answer.status, `${nameOf(route)}: ${JSON.stringify(answer.body)}`).to.be.oneOf([403, 404]);
    }
    for (const route of TO_ALL.filter(({ body }) => JSON.stringify(body?.(others) ?? '').includes(others.lead)))
      expect((await asks(tomas, route, others, route.body!(others))).status, nameOf(route)).to.be.oneOf([403, 404]);
    for (const route of TO_ALL.filter(({ method }) => method === 'GET')) {
      const answer = await tomas.call<unknown>(
        'GET',
        `${addressOf(route, named)}${route.path === '/find' ? '?q=zzh' : ''}`.replace('/api/live', '/api/people'),
      );
      expect(JSON.stringify(answer.body), nameOf(route)).not.to.include(hidden);
    }
    for (const path of [
      '/',
      '/leads',
      '/leads?search=zz',
      '/conversations',
      '/pipeline',
      '/calendar',
      `/pipeline/${named.pipeline}`,
      `/leads/${named.lead}`,
    ]) {
      const made = await fetch(stage.url + path, { headers: { cookie: tomas.cookie } });
      expect(await made.text(), path).not.to.include(hidden);
      expect(made.status, path).to.equal(200);
    }
    for (const path of [
      `/leads/${named.lead2}`,
      `/leads/${named.lead2}/consent`,
      `/conversations?open=${others.conversation}`,
    ]) {
      const made = await fetch(stage.url + path, { headers: { cookie: tomas.cookie } });
      expect(await made.text(), path).not.to.include(hidden);
    }
    // A colleague's of their team is there with the team, and gone without it.
    const seen = async () => (await tomas.call('GET', `/api/leads/${named.lead2}`)).status;
    await stage.db.query('update lead set owner_id = $1 where id = $2', [named.person, named.lead2]);
    await role('desk', 'team');
    expect(await seen(), 'in no team').to.equal(404);
    await stage.db.query(
      'insert into team_member (team_id, membership_id) select $1, id from membership where person_id = any($2::uuid[])',
      [named.team, [named.person, tomasId]],
    );
    expect(await seen(), 'in one team').to.equal(200);
    await role('desk', 'own');
    expect(await seen(), 'their own only').to.equal(404);
    await stage.db.query('delete from team_member where team_id = $1', [named.team]);
    // What is given to them is there at once.
    await stage.db.query('update lead set owner_id = $1 where id = $2', [tomasId, named.lead2]);
    expect((await tomas.call('GET', `/api/leads/${named.lead2}`)).status).to.equal(200);
    expect(
      (await tomas.call<{ rows: { id: string }[] }>('GET', '/api/leads')).body.rows.map(({ id }) => id),
    ).to.have.members([named.lead, named.lead2]);
  });

  it('says of an id that is none, or of nothing, that it is not here', async function () {
    this.timeout(60_000);
    for (const id of ['nonsense', '01999999-0000-7000-8000-0000000000ff'])
      for (const route of TO_ONE) {
        const nothing = Object.fromEntries(Object.keys(named).map((key) => [key, id])) as unknown as Named;
        const answer = await asks(oona, route, nothing, route.body?.(named));
        expect(answer.status, `${nameOf(route)} ${id}: ${JSON.stringify(answer.body)}`).to.equal(404);
        isProblem(answer, route);
      }
  });

  it('takes whatever is sent to it with an answer in words, never a failure', async function () {
    this.timeout(120_000);
    const ids = nothing();
    for (const route of [...TO_ONE, ...TO_ALL].filter((routeCase) => routeCase.body)) {
      const right = route.body!(named) as Record<string, unknown>;
      // What is right but for one thing reaches further than what is wrong throughout.
      const almost = fc
        .tuple(fc.constantFrom(...Object.keys(right), 'more'), fc.jsonValue({ maxDepth: 2 }))
        .map(([key, value]) => ({ ...right, [key]: value }));
      await fc.assert(
        fc.asyncProperty(
          fc.oneof({ weight: 1, arbitrary: fc.jsonValue({ maxDepth: 2 }) }, { weight: 3, arbitrary: almost }),
          async (body) => {
            const answer = await asks(eve, route, ids, body);
            // That a service could not be asked is said in words too.
            const away = answer.status === 502 && JSON.stringify(answer.body).includes(':not-tried"');
            expect(
              away || answer.status < 500,
              `${nameOf(route)} ${JSON.stringify(body)}: ${answer.status} ${JSON.stringify(answer.body)}`,
            ).to.equal(true);
            if (answer.status >= 400) isProblem(answer, route);
          },
        ),
        { numRuns: 12 },
      );
    }
  });

  /** What is kept otherwise, or looks only though it is no GET. */
  const OTHERWISE: Record<string, string> = {
    'PUT /workflows/:workflow': 'saved with every pause of typing; what goes live is kept as a version',
    'POST /sources/:source/sample': 'what it is looked at by is kept as a sample, and says so',
    'POST /devices/:device/try': 'a notice to oneself changes nothing',
    'POST /tabs/:tab/rows': 'the history of the row says who wrote it',
  };

  it('writes nothing at all where the note of who did it cannot be written', async function () {
    this.timeout(120_000);
    await stage.db.query(
      `create function no_note() returns trigger language plpgsql as $$ begin raise exception 'the trail is shut'; end $$;
       create trigger no_note before insert on audit for each row execute function no_note()`,
    );
    try {
      const before = await fingerprint();
      const failed: string[] = [];
      for (const route of [...TO_ALL, ...TO_ONE].filter(
        (routeCase) => routeCase.method !== 'GET' && !routeCase.looks && !routeCase.own,
      )) {
        const { status } = await asks(oona, route, named, route.body?.(named));
        if (status === 500) failed.push(nameOf(route));
        if (nameOf(route) in OTHERWISE) Object.assign(before, await fingerprint());
        expect(await fingerprint(), nameOf(route)).to.deep.equal(before);
      }
      expect(failed.length, failed.join(', ')).to.be.greaterThan(60);
    } finally {
      await stage.db.query('drop trigger no_note on audit; drop function no_note()');
    }
  });

  it('puts on the trail whatever is changed, taken out as a file, and who came in or tried to', async function () {
    this.timeout(120_000);
    const trail = async () =>
      (await stage.db.query<{ n: number }>('select count(*)::int as n from audit where business_id <> $1', [other]))
        .rows[0]!.n;
    const silent: string[] = [];
    // What takes a thing away comes last.
    const changing = [...TO_ALL, ...TO_ONE].filter(
      (routeCase) => routeCase.method !== 'GET' && !routeCase.looks && !routeCase.own,
    );
    changing.sort((a, b) => Number(a.method === 'DELETE') - Number(b.method === 'DELETE'));
    let done = 0;
    let [noted, marks] = [await trail(), await fingerprint()];
    for (const route of changing) {
      const before = noted;
      const answer = await asks(oona, route, named, route.body?.(named));
      if (answer.status !== 200) continue;
      done += 1;
      const after = await fingerprint();
      const changed = Object.keys(after).filter((table) => table !== 'audit' && after[table] !== marks[table]);
      [noted, marks] = [await trail(), after];
      if (changed.length > 0 && noted === before && !(nameOf(route) in OTHERWISE))
        silent.push(`${nameOf(route)} (${changed.join(', ')})`);
    }
    expect(done, 'routes that did something').to.be.greaterThan(50);
    expect(silent).to.deep.equal([]);
    const actions = async (since: number) =>
      (
        await stage.db.query<{ action: string }>(
          'select action from audit where business_id <> $1 order by at offset $2',
          [other, since],
        )
      ).rows.map((row) => row.action);
    const before = await trail();
    const sign = (password: string) =>
      fetch(`${stage.url}/sign-in`, {
        method: 'POST',
        headers: { origin: stage.url },
        body: new URLSearchParams({ email: SIGN_IN.email, password }),
        redirect: 'manual',
      });
    await sign('wrong-password');
    const cookie = (await sign(SIGN_IN.password)).headers.get('set-cookie')!.split(';')[0]!;
    await fetch(`${stage.url}/api/leads/file?format=csv`, { headers: { cookie } });
    await fetch(`${stage.url}/api/tabs/${named.tab}/file?format=csv`, { headers: { cookie } });
    await fetch(`${stage.url}/sign-out`, {
      method: 'POST',
      headers: { origin: stage.url, cookie },
      redirect: 'manual',
    });
    expect((await actions(before)).sort()).to.include.members([
      'sign_in',
      'sign_in.failed',
      'sign_out',
      'leads.export',
    ]);
  });

  it('gives a viewer no file to take out, by whichever route', async () => {
    await stage.db.query(
      `update membership set role = 'viewer' where person_id = (select id from person where email = 'tomas@wrenfield.example')`,
    );
    const tomas = await signedIn(stage, { email: 'tomas@wrenfield.example', password: SIGN_IN.password });
    for (const path of [
      'leads/file?format=csv',
      'leads/consents?format=csv',
      `leads/${named.lead2}/export`,
      `tabs/${named.tab}/file?format=csv`,
      `sources/${named.source}/import/file`,
    ])
      expect((await tomas.call('GET', `/api/${path}`)).status, path).to.be.oneOf([403, 404]);
  });

  it('ends the live stream with the session it was opened by', async function () {
    this.timeout(40_000);
    const { cookie } = await signedIn(stage);
    const stream = await fetch(`${stage.url}/api/live`, { headers: { cookie } });
    const reader = stream.body!.getReader();
    await reader.read();
    await fetch(`${stage.url}/sign-out`, {
      method: 'POST',
      headers: { origin: stage.url, cookie },
      redirect: 'manual',
    });
    for (;;) if ((await reader.read()).done) break;
  });
});
