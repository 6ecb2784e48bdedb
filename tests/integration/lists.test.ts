import { randomUUID } from 'node:crypto';
import { expect } from 'chai';
import { v7 as uuidv7 } from 'uuid';
import type { TodayView } from '../../src/app/today/today.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { atTheDesk, type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

describe('lists: joining, confirming, leaving, coming back', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
  });

  const one = async <T = Record<string, unknown>>(sql: string, values: unknown[] = []) =>
    (await stage.db.query(sql, values)).rows[0] as T;
  const mailsOf = (mailbox: string, subject = '') =>
    stage.desk.world.state.mails.filter((mail) => mail.mailbox === mailbox && mail.subject.startsWith(subject));
  const mail = (mailbox: string, subject: string) =>
    until(`the mail “${subject}” to ${mailbox}`, () => mailsOf(mailbox, subject)[0] ?? null);
  const header = (of: { headers: { name: string; value: string }[] }, name: string) =>
    of.headers.find((each) => each.name === name)?.value ?? '';
  const list = async (name: string, more: object = {}) => {
    const { id } = (await oona.call<{ id: string }>('POST', '/api/lists', { name })).body;
    if (Object.keys(more).length > 0)
      expect((await oona.call('PUT', `/api/lists/${id}`, { name, ...more })).status).to.equal(200);
    return id;
  };
  const state = async (email: string, listId: string) =>
    (
      await one<{ state: string } | undefined>(
        `select m.state from list_member m join lead l on l.id = m.lead_id where l.email = $1 and m.list_id = $2`,
        [email, listId],
      )
    )?.state;
  const consent = async (email: string) =>
    (await one<{ state: string; how: string } | undefined>(
      `select c.state, c.how from consent c join lead l on l.id = c.lead_id where l.email = $1 and c.channel = 'email' order by c.at desc, c.id desc limit 1`,
      [email],
    )) ?? null;
  const joiner = (listId: string, more: object = {}) =>
    liveFlow(
      stage,
      oona,
      [
        momentOf('a', {
          lanes: { lead: [], record: [freshStep('list', 'j', { action: 'add', list: listId, ...more })], team: [] },
        }),
      ],
      { samePerson: 'run_again' },
    );
  /** A workflow that listens to the list itself: a sequence. */
  const sequence = async (listId: string, steps: ReturnType<typeof freshStep>[], later = steps.length > 1) => {
    const flow = await liveFlow(stage, oona, [
      momentOf('a', { lanes: { lead: steps.slice(0, 1), record: [], team: [] } }),
      ...(later
        ? [
            momentOf('b', {
              at: { kind: 'later', span: { amount: 2, unit: 'seconds' } },
              lanes: { lead: steps.slice(1), record: [], team: [] },
            }),
          ]
        : []),
    ]);
    const { source_id } = await one<{ source_id: string }>('select source_id from nurture_list where id = $1', [
      listId,
    ]);
    const { body } = await oona.call<{ workflow: { draft: Parameters<typeof flow.put>[0] } }>(
      'GET',
      `/api/workflows/${flow.id}`,
    );
    await flow.put({ ...body.workflow.draft, sources: [source_id] });
    return flow;
  };

  it('joining starts the list’s sequence; one click takes them off, ends it, and a table does not bring them back', async () => {
    const id = await list('Weekly');
    const flow = await sequence(id, [
      freshStep('email', 'e1', { subject: 'One', message: 'First' }),
      freshStep('email', 'e2', { subject: 'Two', message: 'Second' }),
    ]);
    const join = await joiner(id);
    await join.send({ email: 'weekly@example.org' });
    const first = await mail('weekly@example.org', 'One');
    expect(first.text).to.match(/First\s+No more of these emails: http/);
    expect(header(first, 'list-unsubscribe-post')).to.equal('List-Unsubscribe=One-Click');
    const [, address = ''] = /<([^>]+)>/.exec(header(first, 'list-unsubscribe')) ?? [];
    expect((await fetch(address)).status, 'looking takes nobody off').to.equal(200);
    expect(await state('weekly@example.org', id)).to.equal('active');
    expect((await fetch(address, { method: 'POST', body: 'x=y' })).status).to.equal(400);
    await atTheDesk(stage, `/mails/${first.id}/unsubscribe`, {});
    expect(await state('weekly@example.org', id)).to.equal('unsubscribed');
    expect((await flow.over('weekly@example.org')).outcome).to.equal('Ended early: they unsubscribed from the list');
    await join.send({ email: 'weekly@example.org' });
    await new Promise((r) => setTimeout(r, 2500));
    expect(mailsOf('weekly@example.org').map((each) => each.subject)).to.deep.equal(['One']);
    expect(await state('weekly@example.org', id)).to.equal('unsubscribed');
    expect((await fetch(`${address}x`, { method: 'POST', body: 'List-Unsubscribe=One-Click' })).status).to.equal(404);
  });

  it('joining a list is no ringing in: the source, what is heard of them and Today’s figures stay those of the form', async () => {
    const id = await list('No ringing in');
    await sequence(id, [freshStep('email', 'e', { subject: 'Tips', message: 'Ten minutes a day' })]);
    const today = async () => {
      const { body } = await oona.call<TodayView>('GET', '/api/today');
      return {
        leads: body.newLeads,
        answered: body.answered,
        byHour: body.byHour.today.reduce((sum, n) => sum + n, 0),
        ring: body.ring.map((row) => row.sourceName),
      };
    };
    const before = await today();
    const waiting = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: { lead: [], record: [freshStep('list', 'j', { action: 'add', list: id })], team: [] },
      }),
      momentOf('b', {
        at: {
          ...{ kind: 'event', event: 'arrival', words: '', sources: [], tag: '', list: '', stage: '', step: '' },
          within: { amount: 1, unit: 'hours' },
        } as never,
      }),
    ]);
    await waiting.send({ name: 'Ilse', email: 'no-ring@example.org' });
    await mail('no-ring@example.org', 'Tips');
    await waiting.waits('no-ring@example.org');
    const after = await today();
    expect([after.leads - before.leads, after.byHour - before.byHour]).to.deep.equal([1, 1]);
    expect(after.answered, 'the form’s own run has sent nothing').to.equal(before.answered);
    expect(after.ring).not.to.include('No ringing in');
    const { body } = await oona.call<{ rows: { sourceName: string }[] }>(
      'GET',
      `/api/leads?search=${encodeURIComponent('no-ring@example.org')}`,
    );
    expect(body.rows.map((row) => row.sourceName)).to.deep.equal([waiting.source.name]);
    const { heard, came } = await one<{ heard: Date; came: Date }>(
      `select l.last_arrival_at as heard, a.received_at as came from lead l join arrival a on a.lead_id = l.id and a.source_id = $2 where l.email = $1`,
      ['no-ring@example.org', waiting.source.id],
    );
    expect(heard.getTime()).to.equal(came.getTime());
  });

  it('a sequence counts replies to its emails: those by email, not a text about something else', async () => {
    const id = await list('Counted');
    await sequence(id, [freshStep('email', 'e', { subject: 'Counted', message: 'Write back!' })]);
    await (await joiner(id)).send({ email: 'counted-reply@example.org', phone: '+61491570931' });
    await mail('counted-reply@example.org', 'Counted');
    const replied = async () => {
      const page = await (
        await fetch(`${stage.url}/lists/${id}/sequences`, { headers: { cookie: oona.cookie } })
      ).text();
      const [row = ''] = /<tr[^>]*>(?:(?!<\/tr>)[\s\S])*step=e"[\s\S]*?<\/tr>/.exec(page) ?? [];
      // Sent, opened, followed, replied, left.
      return [...row.matchAll(/<td class="text-right"[^>]*>(\d+)/g)].map((cell) => Number(cell[1]))[3];
    };
    await until('the email to be counted', async () => (await replied()) === 0);
    const writes = (channel: string) =>
      stage.db.query(
        `insert into inbound (id, business_id, connection_id, remote_id, channel, sender, lead_id, text, received_at)
         select gen_random_uuid(), d.business_id, d.connection_id, gen_random_uuid()::text, $1, 'x', d.lead_id, 'Yes', now()
         from delivery d where d.recipient = 'counted-reply@example.org' and d.step_id = 'e'`,
        [channel],
      );
    await writes('text');
    expect(await replied()).to.equal(0);
    await writes('email');
    expect(await replied()).to.equal(1);
  });

  it('a list that asks: nobody is on it before they said yes; what is proven at the source is not asked again', async () => {
    const id = await list('Asked', {
      optIn: 'double',
      confirmSubject: 'Would you like {{ item.list }}?',
      confirmMessage: 'Yes: {{ item.link }}',
    });
    await sequence(id, [freshStep('email', 'e', { subject: 'Welcome', message: 'On it' })]);
    const join = await joiner(id);
    const proven = await joiner(id, { proven: true });
    await join.send({ email: 'asked@example.org' });
    const asking = await mail('asked@example.org', 'Would you like Asked?');
    expect(await state('asked@example.org', id)).to.equal('waiting');
    const [, link = ''] = /(http\S+\/confirm\/\S+)/.exec(asking.text) ?? [];
    const page = await (await fetch(link)).text();
    expect(page).to.include('Yes, send it to me');
    expect(await state('asked@example.org', id), 'a scanner that looks confirms nothing').to.equal('waiting');
    expect(mailsOf('asked@example.org', 'Welcome')).to.have.length(0);
    const origin = { origin: stage.url, 'content-type': 'application/x-www-form-urlencoded' };
    expect(await (await fetch(link, { method: 'POST', headers: origin })).text()).to.include(
      'It comes to you from now on',
    );
    await mail('asked@example.org', 'Welcome');
    expect(await consent('asked@example.org')).to.deep.equal({ state: 'given', how: 'Confirmed “Asked” by the link' });
    expect(await (await fetch(link, { method: 'POST', headers: origin })).text()).to.include('confirmed this already');
    await proven.send({ email: 'proven@example.org' });
    await mail('proven@example.org', 'Welcome');
    expect(mailsOf('proven@example.org', 'Would')).to.have.length(0);
  });

  it('the preference page: one list kept, one left, all stopped, and back by their own wish', async () => {
    const [a, b] = [await list('Tips A'), await list('Tips B')];
    const join = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: {
          lead: [freshStep('email', 'e', { subject: 'Hello', message: 'No more: {{ lead.leave_link }}' })],
          record: [
            freshStep('list', 'a', { action: 'add', list: a }),
            freshStep('list', 'b', { action: 'add', list: b }),
          ],
          team: [],
        },
      }),
    ]);
    await join.send({ email: 'prefers@example.org' });
    const hello = await mail('prefers@example.org', 'Hello');
    const [, address = ''] = /No more: (\S+)/.exec(hello.text) ?? [];
    await join.over('prefers@example.org');
    const page = await (await fetch(address)).text();
    expect(page).to.include('Tips A').and.include('Tips B').and.include('p…@example.org').and.not.include('prefers@');
    const choose = (body: string) =>
      fetch(`${address}?choose`, {
        method: 'POST',
        headers: { origin: stage.url, 'content-type': 'application/x-www-form-urlencoded' },
        body,
      });
    await choose(`what=some&keep=${a}`);
    expect([await state('prefers@example.org', a), await state('prefers@example.org', b)]).to.deep.equal([
      'active',
      'unsubscribed',
    ]);
    await choose('what=all');
    expect(await state('prefers@example.org', a)).to.equal('unsubscribed');
    expect((await consent('prefers@example.org'))?.state).to.equal('withdrawn');
    await choose(`what=some&keep=${b}`);
    expect(await state('prefers@example.org', b)).to.equal('active');
    expect((await consent('prefers@example.org'))?.state).to.equal('given');
    await choose('what=news');
    expect(await state('prefers@example.org', b), 'a list is news').to.equal('unsubscribed');
    const said = await one<{ service: object; marketing: object }>(
      `select consents_of(id, 'service') as service, consents_of(id, 'marketing') as marketing from lead where email = 'prefers@example.org'`,
    );
    expect([said.service, said.marketing]).to.deep.include.members([
      { email: 'given', text: 'given' },
      { email: 'withdrawn', text: 'given' },
    ]);
  });

  it('a mail that comes back for good, and one called spam, end all mail; a full mailbox does not', async () => {
    const id = await list('Bounces');
    const join = await liveFlow(
      stage,
      oona,
      [
        momentOf('a', {
          lanes: {
            lead: [freshStep('email', 'e', { subject: 'Hi', message: 'There' })],
            record: [freshStep('list', 'j', { action: 'add', list: id })],
            team: [],
          },
        }),
      ],
      { samePerson: 'run_again' },
    );
    for (const name of ['full', 'gone', 'cross']) await join.send({ email: `${name}@example.org` });
    const [full, gone, cross] = [
      await mail('full@example.org', 'Hi'),
      await mail('gone@example.org', 'Hi'),
      await mail('cross@example.org', 'Hi'),
    ];
    await Promise.all(['full', 'gone', 'cross'].map((name) => join.over(`${name}@example.org`)));
    expect(gone.returnPath).to.match(/^bounce-[0-9a-f-]{36}@/);
    await atTheDesk(stage, `/mails/${full.id}/full`, {});
    await atTheDesk(stage, `/mails/${gone.id}/no-such-user`, {});
    await atTheDesk(stage, `/mails/${cross.id}/spam`, {});
    expect([
      await state('full@example.org', id),
      await state('gone@example.org', id),
      await state('cross@example.org', id),
    ]).to.deep.equal(['active', 'bounced', 'complained']);
    expect(await consent('gone@example.org')).to.deep.equal({
      state: 'withdrawn',
      how: 'Came back: 5.1.1 550 5.1.1 No such user here',
    });
    expect((await consent('cross@example.org'))?.how).to.equal('Called our mail spam');
    // What cannot be read stands on the lead, with the mail itself, and a person is asked; nothing is decided by it.
    await atTheDesk(stage, `/mails/${full.id}/riddle`, {});
    const [unread] = (
      await stage.db.query(
        `select n.title, n.detail, n.lead_id from needs_you n join lead l on l.id = n.lead_id where l.email = 'full@example.org' and n.kind = 'mail_unread'`,
      )
    ).rows;
    expect(unread.title).to.equal('A mail came back that we could not read');
    expect(unread.detail).to.include('About your letter');
    const { body: page } = await oona.call<{ events: { kind: string; text?: string; problem?: string }[] }>(
      'GET',
      `/api/leads/${unread.lead_id}`,
    );
    expect(page.events.find((event) => event.kind === 'in')).to.deep.include({
      problem: 'A mail came back that we could not read',
    });
    expect(page.events.find((event) => event.kind === 'in')!.text).to.include('The pigeon came home');
    expect(await state('full@example.org', id)).to.equal('active');
    await join.send({ email: 'gone@example.org' });
    await until(
      'the second run',
      async () =>
        (
          await one<{ n: number }>(
            `select count(*)::int as n from run r join lead l on l.id = r.lead_id where l.email = 'gone@example.org' and r.due_at is null`,
          )
        ).n === 2,
    );
    expect(mailsOf('gone@example.org')).to.have.length(1);
  });

  it('who has asked for no more is not brought back by a table that says they agreed', async () => {
    const sheet = (
      await oona.call<{ id: string; tabs: { id: string; columns: { id: string; name: string }[] }[] }>(
        'POST',
        '/api/sheets',
        { name: 'Old list', columns: ['Email', 'Agreed'] },
      )
    ).body;
    const [tab] = sheet.tabs;
    const [email, agreed] = tab!.columns.map((column) => column.id) as [string, string];
    const source = (
      await oona.call<{ id: string }>('POST', '/api/sources', {
        kind: 'sheet',
        tabId: tab!.id,
        when: 'new',
        fromRow: null,
        filter: null,
        everyMinutes: 0,
      })
    ).body;
    await oona.call('PUT', `/api/sources/${source.id}/card`, {
      fields: { email },
      consent: { kind: 'field', key: agreed, wordingKey: null },
    });
    await stage.db.query(
      `with l as (insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
         select gen_random_uuid(), id, 'Never', 'Again', 'never@example.org', '', '{}', now(), now() from business where key = 'wrenfield-music-school' returning id, business_id),
       i as (insert into lead_identity (business_id, kind, value, lead_id) select business_id, 'email', 'never@example.org', id from l)
       insert into consent (id, business_id, lead_id, channel, state, wording, how, at) select gen_random_uuid(), business_id, id, 'email', 'withdrawn', '', 'By link', now() from l`,
    );
    await oona.call('POST', `/api/tabs/${tab!.id}/rows`, {
      insert: ['never', 'fresh'].map((name) => ({
        id: randomUUID(),
        after: null,
        cells: { [email]: `${name}@example.org`, [agreed]: 'yes' },
      })),
    });
    await until('the new one', async () => (await consent('fresh@example.org'))?.state === 'given', 20_000);
    // What the table says is kept as evidence, and their own word counts.
    expect(
      await one(`select consents_of(id, 'service') ->> 'email' as state from lead where email = 'never@example.org'`),
    ).to.deep.equal({ state: 'withdrawn' });
  });

  /** A list of its own with so many people on it. */
  const crowd = async (name: string, count: number) => {
    const id = await list(name);
    await stage.db.query(
      `with made as (insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
         select gen_random_uuid(), b.id, 'R' || n, '', lower(replace($2, ' ', '')) || n || '@example.net', '', '{}', now(), now() from business b, generate_series(1, $3) n where b.key = 'wrenfield-music-school' returning id)
       insert into list_member (list_id, lead_id, state, how, joined_at, changed_at) select $1, id, 'active', 'For the test', now(), now() from made`,
      [id, name, count],
    );
    return id;
  };
  const email = (subject: string) => ({ subject, message: 'Hello {{ lead.first_name }}', needsConsent: false });
  const mailing = async (body: object) => {
    const came = await oona.call<{ id: string; detail?: string }>('POST', '/api/mailings', body);
    expect(came.status, came.body.detail).to.equal(200);
    return came.body.id;
  };
  const counts = (id: string) =>
    one<{ sent: number; waiting: number; a: number; b: number; rest: number }>(
      `select count(*) filter (where accepted_at is not null)::int as sent, count(*) filter (where state = 'sending')::int as waiting,
         count(*) filter (where variant = 'a')::int as a, count(*) filter (where variant = 'b')::int as b, count(*)::int as rest from delivery where mailing_id = $1`,
      [id],
    );

  it('one email to many waits for its time, is spread over its hours, and can be stopped midway', async () => {
    const id = await crowd('Spread', 60);
    const soon = await mailing({
      to: `list:${id}`,
      email: email('Later'),
      at: new Date(Date.now() + 3_600_000).toISOString(),
    });
    const made = await mailing({ to: `list:${id}`, email: email('Over an hour'), spreadMinutes: 60 });
    await until('all to be made', async () => (await counts(made)).rest === 60);
    const times = (
      await stage.db.query(`select due_at, accepted_at from delivery where mailing_id = $1`, [made])
    ).rows.flatMap((row) => (row.due_at ? [row.due_at.getTime()] : []));
    expect((Math.max(...times) - Date.now()) / 60_000).to.be.within(57, 60);
    expect((await counts(made)).sent).to.be.lessThan(4);
    const stopped = await oona.call<{ kept: number }>('POST', `/api/mailings/${made}/stop`);
    expect(stopped.body.kept).to.be.greaterThan(56);
    // One that was being handed over in that very moment still goes.
    await until('none to wait', async () => (await counts(made)).waiting === 0);
    expect((await counts(soon)).rest, 'its time has not come').to.equal(0);
    expect((await oona.call('POST', '/api/mailings', { to: `list:${id}`, email: email('') })).status).to.equal(422);
  });

  it('of two subjects tried on a part, the rest gets the one more people opened; nobody gets two', async () => {
    const id = await crowd('Two subjects', 400);
    const made = await mailing({
      to: `list:${id}`,
      email: email('First subject'),
      subjectB: 'Second subject',
      part: 50,
      decideAfter: 10,
    });
    await until('the part to be tried', async () => {
      const now = await counts(made);
      return (
        now.rest > 150 &&
        now.waiting === 0 &&
        (await one<{ state: string }>('select state from mailing where id = $1', [made])).state === 'trying'
      );
    });
    const tried = await counts(made);
    expect(tried.a + tried.b).to.equal(tried.rest);
    expect(tried.rest, 'about half of 400').to.be.within(150, 250);
    expect(tried.a / tried.rest, 'about half each').to.be.within(0.35, 0.65);
    // Far more people open the second.
    await stage.db.query(
      `insert into visit (id, business_id, token, delivery_id, step_id, lead_id, kind, machine, agent, at)
       select gen_random_uuid(), business_id, 'x', id, step_id, lead_id, 'opened', false, 'test', now() from (
         select *, row_number() over (partition by variant order by id) as n from delivery where mailing_id = $1) d where (variant = 'a' and n <= 10) or (variant = 'b' and n <= 50)`,
      [made],
    );
    await stage.db.query('update mailing set decide_at = now() where id = $1', [made]);
    await until(
      'the rest',
      async () => (await counts(made)).rest === 400 && (await counts(made)).waiting === 0,
      30_000,
    );
    expect(await one('select winner, state from mailing where id = $1', [made])).to.deep.equal({
      winner: 'b',
      state: 'sending',
    });
    const got = stage.desk.world.state.mails.filter((each) => each.mailbox.startsWith('twosubjects'));
    expect(new Set(got.map((each) => each.mailbox)).size).to.equal(400);
    expect(got).to.have.length(400);
    expect(got.filter((each) => each.subject === 'First subject')).to.have.length(tried.a);
    const page = await (await fetch(`${stage.url}/messages/emails`, { headers: { cookie: oona.cookie } })).text();
    expect(page).to.include('The second has won.');
  }).timeout(60_000);

  it('an address with an id or a time that is none leads to nothing, and says so', async () => {
    const id = await list('Addresses');
    const page = async (path: string) => (await fetch(stage.url + path, { headers: { cookie: oona.cookie } })).status;
    for (const path of [
      '/lists/nonsense',
      '/messages/templates/nonsense',
      '/pipeline/nonsense',
      '/leave/nonsensenonsensenonsense',
    ])
      expect(await page(path), path).to.equal(404);
    expect(
      await page(`/lists/${id}?before=nonsense&if=nonsense&state=nonsense`),
      'what makes no sense is left out',
    ).to.equal(200);
    for (const [method, path, body] of [
      ['POST', '/api/drafts/nonsense/send', {}],
      ['DELETE', '/api/drafts/nonsense', undefined],
      ['POST', '/api/mailings/nonsense/stop', undefined],
      ['PUT', '/api/deals/nonsense', { nextStep: 'x' }],
      ['PUT', `/api/lists/${id}/members/nonsense`, { on: true }],
      ['GET', '/api/leads/nonsense/merge?with=nonsense', undefined],
      ['POST', '/api/leads/nonsense/erase', { name: 'x' }],
      ['POST', '/api/merges/nonsense/undo', undefined],
      ['GET', '/api/audience?to=list:nonsense', undefined],
    ] as const)
      expect((await oona.call(method, path, body)).status, path).to.equal(404);
  });

  it('news to a list: said beforehand who gets it, in their inboxes afterwards, and who got none stands there with the reason', async () => {
    const id = await list('Agreed to news');
    const add = async (email: string, said: [purpose: string | null, state: string][]) => {
      const lead = uuidv7();
      await stage.db.query(
        `insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
         select $1, id, initcap(split_part($2, '.', 1)), '', $2, '', '{}', now(), now() from business where key = 'wrenfield-music-school'`,
        [lead, email],
      );
      for (const [purpose, state] of said)
        await stage.db.query(
          `insert into consent (id, business_id, lead_id, channel, purpose, state, wording, how, at) select $1, business_id, id, 'email', $3, $4, '', 'For the test', now() from lead where id = $2`,
          [uuidv7(), lead, purpose, state],
        );
      await stage.db.query(
        `insert into list_member (list_id, lead_id, state, how, joined_at, changed_at) values ($1, $2, 'active', 'For the test', now(), now())`,
        [id, lead],
      );
      return lead;
    };
    await add('yes.news@example.net', [['marketing', 'given']]);
    await add('all.news@example.net', [[null, 'given']]);
    const service = await add('service.only@example.net', [['service', 'given']]);
    await add('no.news@example.net', [
      [null, 'given'],
      ['marketing', 'withdrawn'],
    ]);
    await add('never.asked@example.net', []);
    await add('not.an.address@', []);
    const query = `to=list:${id}&consent=&purpose=marketing`;
    const { body: reach } = await oona.call<{ people: number; reached: number; left: object[] }>(
      'GET',
      `/api/audience?${query}`,
    );
    expect(reach).to.deep.equal({
      people: 6,
      reached: 2,
      left: [
        { code: 'bad_address', count: 1 },
        { code: 'withdrawn', count: 1 },
        { code: 'no_consent', count: 2 },
      ],
    });
    const { body: behind } = await oona.call<{ people: { id: string; email: string }[] }>(
      'GET',
      `/api/audience/people?${query}&code=no_consent`,
    );
    expect(behind.people.map((person) => person.email).sort()).to.deep.equal([
      'never.asked@example.net',
      'service.only@example.net',
    ]);
    expect(behind.people.map((person) => person.id)).to.include(service);
    const email = {
      ...(stepKinds.get('email')!.blank() as object),
      subject: 'Recital on Friday',
      message: 'Come',
      needsConsent: false,
      purpose: 'marketing',
    };
    const { body: made } = await oona.call<{ id: string }>('POST', '/api/mailings', { to: `list:${id}`, email });
    const got = () =>
      stage.desk.world.state.mails
        .filter((mail) => mail.subject === 'Recital on Friday')
        .map((mail) => mail.mailbox)
        .sort();
    await until('both emails', () => got().length === 2);
    expect(got()).to.deep.equal(['all.news@example.net', 'yes.news@example.net']);
    const page = await until('the page to say so', async () => {
      const { body } = await oona.call<string>('GET', `/messages/mailings/${made.id}`);
      return body.includes('Sent: 2') ? body : null;
    });
    expect(page).to.include('Left out: 4').and.include('Stopped: no consent to news and offers by email');
    expect(page.match(/yes\.news@example\.net/g)).to.have.length(1);
    // An email that nobody gets is never called sent, and what waits says for what.
    const nobody = await list('Nobody agreed');
    const { body: none } = await oona.call<{ id: string }>('POST', '/api/mailings', { to: `list:${nobody}`, email });
    await until('it to be over', async () =>
      (await oona.call<string>('GET', `/messages/mailings/${none.id}`)).body.includes('Nobody got it'),
    );
    await stage.db.query('update business set marketing_per_day = 1');
    try {
      const { body: second } = await oona.call<{ id: string }>('POST', '/api/mailings', { to: `list:${id}`, email });
      await until('the second to be held, in words', async () =>
        (await oona.call<string>('GET', `/messages/mailings/${second.id}`)).body.includes(
          '2: Held until tomorrow: they have had as many news and offers as one person gets in a day. Next try',
        ),
      );
      expect((await oona.call('POST', `/api/mailings/${second.id}/stop`)).status).to.equal(200);
    } finally {
      await stage.db.query('update business set marketing_per_day = 3');
    }
  }).timeout(60_000);

  it('a step that takes somebody off a list ends its sequence too', async () => {
    const id = await list('Taken off');
    const flow = await sequence(id, [
      freshStep('email', 'e1', { subject: 'Now', message: 'x' }),
      freshStep('email', 'e2', { subject: 'Then', message: 'x' }),
    ]);
    await (await joiner(id)).send({ email: 'off@example.org' });
    await mail('off@example.org', 'Now');
    await flow.waits('off@example.org');
    const off = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: { lead: [], record: [freshStep('list', 'o', { action: 'remove', list: id })], team: [] },
      }),
    ]);
    await off.send({ email: 'off@example.org' });
    expect((await flow.over('off@example.org')).outcome).to.equal('Ended early: they unsubscribed from the list');
  });
});
