import { createHmac } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { expect } from 'chai';
import { SHIPPED } from '../../src/core/described/shipped/registry.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { type Invented, lantern, marlow, pennyPost } from '../stage/invented-services.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

const example = (name: string) => JSON.parse(readFileSync(`docs/connect/examples/${name}.json`, 'utf8'));

describe('services a business has described itself, in real processes', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Coordinator;
  const penny = pennyPost();
  const records = marlow();
  const portal = lantern();
  let pennyPostAt: Invented;
  let marlowAt: Invented;
  let lanternAt: Invented;
  const one = async <T>(sql: string, values: unknown[] = []) => (await stage.db.query(sql, values)).rows[0] as T;
  const connect = (more: Record<string, unknown>) =>
    oona.call<{ id: string; found: string; detail?: string; hasSecret: boolean; filled: string[]; settings: object }>(
      'POST',
      '/api/connections',
      more,
    );

  before(async () => {
    [stage, pennyPostAt, marlowAt, lanternAt] = await Promise.all([
      openStage(),
      penny.service,
      records.service,
      portal.service,
    ]);
    oona = await signedIn(stage);
    // The one carrier there is becomes another: whatever is sent by text goes there from now on.
    const { id } = await one<{ id: string }>(`select id from connection where kind = 'text_carrier'`);
    const changed = await oona.call<{ found: string; detail: string }>('PUT', `/api/connections/${id}`, {
      kind: 'text_carrier',
      name: 'Penny Post',
      sender: 'Wrenfield',
      description: example('penny-post-texts'),
      values: { address: pennyPostAt.address, account: '7781', key: 'penny-key' },
    });
    expect(changed.status, changed.body.detail).to.equal(200);
    expect(changed.body.found).to.equal('It lets us in: Wrenfield Music School, 412 texts.');
    // One that was spoken to as it ships keeps its key when its description is changed.
    const chat = await one<{ id: string; settings: { address: string; sender: string } }>(
      `select id, settings from connection where kind = 'chat_network'`,
    );
    const own = await oona.call<{ found: string; detail: string }>('PUT', `/api/connections/${chat.id}`, {
      kind: 'chat_network',
      name: 'Chat',
      sender: chat.settings.sender,
      description: { ...SHIPPED.chat_network, name: 'Our chat' },
      values: { address: chat.settings.address },
    });
    expect(own.status, own.body.detail).to.equal(200);
    expect(own.body.found).to.include('It lets us in');
  });
  after(async () => {
    await stage?.close();
    await Promise.all([pennyPostAt, marlowAt, lanternAt].map((service) => service?.close()));
  });

  const textFlow = () =>
    liveFlow(stage, oona, [
      momentOf('m', toTheLead(freshStep('text', 't', { message: 'Hello {{ lead.first_name }}' }))),
    ]);
  const statesOf = (email: string) =>
    one<{ state: string; begun_at: Date | null }>(
      'select d.state, d.begun_at from delivery d join lead l on l.id = d.lead_id where l.email = $1 order by d.created_at desc limit 1',
      [email],
    );

  it('a text goes by form fields, its report comes back by their own name for it, and what they write is heard', async () => {
    const flow = await textFlow();
    await flow.send({ name: 'Ada', email: 'ada.penny@example.com', phone: '07700 900161' });
    await flow.over('ada.penny@example.com');
    const text = penny.texts.find(({ dest }) => dest === '+447700900161')!;
    expect(text.body).to.equal('Hello Ada');
    const report = await fetch(text.reportTo, {
      method: 'POST',
      headers: { 'content-type': 'application/x-www-form-urlencoded' },
      body: new URLSearchParams({ event: 'dlr-ok', ticket: text.ticket, when: String(Math.floor(Date.now() / 1000)) }),
    });
    expect([report.status, await report.text()]).to.deep.equal([200, 'OK']);
    expect((await statesOf('ada.penny@example.com')).state).to.equal('delivered');
    const reply = await fetch(text.reportTo, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ event: 'inbound', ticket: 'IN1', orig: '447700900161', dest: 'Wrenfield', body: 'STOP' }),
    });
    await reply.text();
    // STOP stays ours, whoever carries the texts.
    await until('the STOP to hold', () =>
      one(
        `select from consent c join lead l on l.id = c.lead_id where l.email = 'ada.penny@example.com' and c.channel = 'text' and c.state = 'withdrawn'`,
      ),
    );
    // An event of no kind that is named is let go.
    expect((await fetch(text.reportTo, { method: 'POST', body: '{"event":"billing"}' })).status).to.equal(200);
  });

  it('a carrier that takes a text and dies is asked before it is sent again: one text', async () => {
    const flow = await textFlow();
    pennyPostAt.once(({ body }) => {
      const form = new URLSearchParams(body);
      penny.texts.push({
        ticket: 'PP-dead',
        ref: form.get('ref')!,
        dest: form.get('dest')!,
        body: form.get('body')!,
        reportTo: '',
      });
      return 'breaks off';
    });
    await flow.send({ name: 'Bo', email: 'bo.penny@example.com', phone: '07700 900162' });
    await flow.over('bo.penny@example.com');
    expect(penny.texts.filter(({ dest }) => dest === '+447700900162')).to.have.length(1);
    expect(await one('select state, remote_id from delivery where recipient = $1', ['+447700900162'])).to.deep.equal({
      state: 'accepted',
      remote_id: 'PP-dead',
    });
  });

  it('one that did not take it before it died is asked, and sent it then', async () => {
    const flow = await textFlow();
    pennyPostAt.once(() => 'breaks off');
    // While it cannot be asked either nothing is sent.
    await flow.send({ name: 'Cy', email: 'cy.penny@example.com', phone: '07700 900163' });
    await flow.over('cy.penny@example.com');
    expect(penny.texts.filter(({ dest }) => dest === '+447700900163')).to.have.length(1);
  });

  it('one that cannot be asked is a matter for a person, and a late report settles it', async () => {
    const { id, settings } = await one<{ id: string; settings: { sender: string } }>(
      `select id, settings from connection where kind = 'text_carrier'`,
    );
    const { look: _, ...calls } = example('penny-post-texts').calls;
    calls.send.again = 'twice';
    const changed = await oona.call('PUT', `/api/connections/${id}`, {
      kind: 'text_carrier',
      name: 'Penny Post',
      sender: settings.sender,
      description: { ...example('penny-post-texts'), calls },
      values: { address: pennyPostAt.address, account: '7781', key: '' },
    });
    expect(changed.status).to.equal(200);
    const flow = await textFlow();
    let reportTo = '';
    pennyPostAt.once(({ body }) => {
      reportTo = new URLSearchParams(body).get('dlr_url')!;
      return { status: 502, body: '<html>Bad gateway</html>', headers: { 'content-type': 'text/html' } };
    });
    const before = pennyPostAt.seen.length;
    await flow.send({ name: 'Di', email: 'di.penny@example.com', phone: '07700 900164' });
    const run = await flow.over('di.penny@example.com');
    expect(run.state).to.equal('needs_you');
    expect((await statesOf('di.penny@example.com')).state).to.equal('unsure');
    expect(await one('select kind, title from needs_you where run_id = $1', [run.id])).to.deep.equal({
      kind: 'message_unsure',
      title: 'Text may have gone out',
    });
    expect(pennyPostAt.seen.length).to.equal(before + 1);
    // Sending it again is not done without saying so.
    const again = (sendAgain: boolean) =>
      oona.call<{ type: string }>('POST', `/api/workflows/${flow.id}/runs/${run.id}/again`, {
        stepId: 't',
        sendAgain,
        key: crypto.randomUUID(),
      });
    expect((await again(false)).body.type).to.equal('urn:pine-bell:already-sent');
    const { delivery } = await one<{ delivery: string }>('select id as delivery from delivery where run_id = $1', [
      run.id,
    ]);
    await stage.db.query(
      `insert into taken_message (connection_id, remote_id, business_id, delivery_id, at) select $1, 'PP-late', business_id, id, now() from delivery where id = $2`,
      [id, delivery],
    );
    const report = await fetch(reportTo, {
      method: 'POST',
      body: JSON.stringify({ event: 'dlr-ok', ticket: 'PP-late', when: '2026-12-02T10:00:00Z' }),
    });
    expect(report.status).to.equal(200);
    expect((await statesOf('di.penny@example.com')).state).to.equal('delivered');
    expect(await one('select state from run where id = $1', [run.id])).to.deep.equal({ state: 'done' });
  });

  it('contacts are found before they are made, made once whatever breaks, and brought up to date the second time', async () => {
    const made = await connect({
      kind: 'service',
      name: 'Marlow',
      description: example('marlow-records'),
      values: { site: marlowAt.address, client: 'wren', client_secret: 'hush-hush' },
    });
    expect(made.body.found, made.body.detail).to.equal('It lets us in: Wrenfield, Small.');
    expect(made.body.filled).to.deep.equal(['client_secret']);
    expect(JSON.stringify(made.body)).not.to.include('hush-hush');
    const step = freshStep('service-record', 'r', {
      connection: made.body.id,
      record: 'contact',
      values: {
        email: '{{ lead.email }}',
        first_name: '{{ lead.first_name }}',
        phone: '{{ lead.phone }}',
        budget: '{{ answers.budget }}',
      },
    });
    const ask = freshStep('service-look-up', 'q', {
      name: 'Organisation',
      key: '',
      connection: made.body.id,
      lookUp: 'organisation',
      values: { domain: 'harrow-mills.example' },
      whenNone: 'blanks',
    });
    const note = freshStep('note', 'n', {
      text: '{{ found["organisation.name"] }}, {{ found["organisation.spent"] }}',
    });
    const sheet = momentOf('m', { first: [ask], lanes: { lead: [], record: [step, note], team: [] } });
    const flow = await liveFlow(stage, oona, [sheet], { samePerson: 'run_again' });
    // The token has run out by the time it is used; the contact is made and the answer lost.
    records.tokens.clear();
    const email = 'eve.marlow@example.com';
    await flow.send({ name: 'Eve', email, phone: '07700 900165', budget: '250' });
    await flow.over(email);
    expect(records.contacts).to.have.length(1);
    expect(records.contacts[0]!.attributes).to.deep.include({ name: { given: 'Eve', family: '' }, budget: 250 });
    expect((await one<{ text: string }>('select text from lead_note where text like $1', ['Harrow%'])).text).to.equal(
      'Harrow Mills, 1250.50',
    );
    await flow.send({ name: 'Evelyn', email, phone: '07700 900165', budget: '300' });
    await until('the second to change the first', () => records.contacts[0]!.attributes.budget === 300);
    expect(records.contacts).to.have.length(1);
    // Made, and the answer lost: it is looked for before it is made again.
    const lostOne = 'fay.marlow@example.com';
    let answers = 0;
    const breaking = () => {
      marlowAt.once((seen) => {
        if (seen.method !== 'POST' || seen.url.pathname !== '/v2/contacts') {
          breaking();
          return through(seen);
        }
        answers += 1;
        records.contacts.push({ id: 'c-lost', attributes: JSON.parse(seen.body).data.attributes });
        return 'breaks off';
      });
    };
    const through = (seen: Parameters<Parameters<Invented['once']>[0]>[0]) => records.answer(seen);
    breaking();
    await flow.send({ name: 'Fay', email: lostOne, phone: '07700 900166' });
    await flow.over(lostOne);
    expect(answers).to.equal(1);
    expect(records.contacts.filter(({ attributes }) => attributes.emails[0]!.address === lostOne)).to.have.length(1);
    expect(
      await one('select e.remote_id from elsewhere_record e join lead l on l.id = e.lead_id where l.email = $1', [
        lostOne,
      ]),
    ).to.deep.equal({ remote_id: 'c-lost' });
  });

  it('a description that is wrong, a key that is, and a service of another kind are refused with what to do', async () => {
    const base = { kind: 'service', name: 'Portal', description: example('lantern-enquiries') };
    const values = { address: `${lanternAt.address}`, user: 'wren', password: 'Grün & blau' };
    expect((await connect({ ...base, values: { ...values, password: '' } })).body.detail).to.equal(
      'Fill in “Password”.',
    );
    expect((await connect({ ...base, values: { ...values, password: 'wrong' } })).body).to.include({
      type: 'urn:pine-bell:key',
    });
    const broken = structuredClone(base.description);
    broken.records[0].create = 'nowhere';
    expect((await connect({ ...base, description: broken, values })).body.detail).to.include(
      'there is no call “nowhere”',
    );
    expect(
      (await connect({ ...base, kind: 'mail_server', address: 'smtp://x:1', fromAddress: 'a@b.example', values }))
        .status,
    ).to.equal(422);
    expect((await connect({ kind: 'service', name: 'x' })).body.detail).to.include('Say how the service is called');
    const made = await connect({ ...base, values });
    expect(made.body.found, made.body.detail).to.equal('It lets us in: Wrenfield, Harrow.');
    // What is secret is sealed, and stands nowhere in the open.
    const row = await one<{ row: string }>(`select c::text as row from connection c where id = $1`, [made.body.id]);
    expect(row.row).not.to.include('blau');
  });

  it('enquiries are fetched as XML since the last one, each once, past a service that is busy or answers nonsense', async () => {
    const { id } = await one<{ id: string }>(`select id from connection where name = 'Portal'`);
    const choices = await oona.call<{ choices: { id: string }[] }>(
      'GET',
      `/api/sources/choices/service?connection=${id}&of=what`,
    );
    expect(
      choices.body.choices.map((choice) => choice.id),
      JSON.stringify(choices.body),
    ).to.deep.equal(['fetch:enquiries']);
    const source = await oona.call<{ id: string; name: string; detail: string }>('POST', '/api/sources', {
      kind: 'service',
      connectionId: id,
      what: 'fetch:enquiries',
      everyMinutes: 1,
      from: 'new',
    });
    expect(source.status, source.body.detail).to.equal(200);
    expect(source.body.name).to.equal('New enquiries');
    await oona.call('PUT', `/api/sources/${source.body.id}/card`, {
      fields: { first_name: 'first_name', last_name: 'last_name', email: 'email', phone: 'phone' },
      consent: { kind: 'not_asked' },
    });
    portal.enquiries.push(
      {
        number: 999,
        forename: 'Ines',
        surname: 'Vale',
        mail: 'ines@example.com',
        telephone: '07700 900171',
        words: 'Cello & viola',
      },
      {
        number: 1000,
        forename: 'Jo',
        surname: 'Ash',
        mail: 'jo@example.com',
        telephone: '07700 900172',
        words: '<Flute>',
      },
    );
    lanternAt.once(() => ({ status: 200, headers: { 'content-type': 'text/html' }, body: '<html>Back soon</html>' }));
    lanternAt.once(() => ({
      status: 200,
      headers: { 'content-type': 'application/xml' },
      body: '<fault><code>BUSY</code><message>Later</message></fault>',
    }));
    const look = () => stage.db.query(`update pull set next_at = now() where source_id = $1`, [source.body.id]);
    const came = await until('both enquiries', async () => {
      await look();
      const { rows } = await stage.db.query<{ email: string }>(
        'select l.email from arrival a join lead l on l.id = a.lead_id where a.source_id = $1 order by l.email',
        [source.body.id],
      );
      return rows.length === 2 ? rows : null;
    });
    expect(came.map(({ email }) => email)).to.deep.equal(['ines@example.com', 'jo@example.com']);
    const asked = lanternAt.seen.length;
    await look();
    await until('another look', () => lanternAt.seen.length > asked);
    expect(lanternAt.seen.at(-1)!.url.searchParams.get('after')).to.equal('1000');
    expect(
      (await one<{ n: number }>('select count(*)::int as n from arrival where source_id = $1', [source.body.id])).n,
    ).to.equal(2);
    expect(
      await one('select l.answers ->> $2 as words from lead l where email = $1', ['jo@example.com', 'message']),
    ).to.deep.equal({ words: '<Flute>' });
    // What is told of while a look is under way, and which that look can no longer have seen, does not wait for the minute to pass.
    lanternAt.once(async () => {
      await look();
      return { status: 200, headers: { 'content-type': 'application/xml' }, body: '<enquiries></enquiries>' };
    });
    portal.enquiries.push({
      ...{ number: 1001, forename: 'Kit', surname: 'Ode', mail: 'kit@example.com' },
      ...{ telephone: '07700 900173', words: 'Drums' },
    });
    await look();
    await until('what came during a look', async () => {
      const { rows } = await stage.db.query(`select from lead where email = 'kit@example.com'`);
      return rows.length;
    });
  });

  it('what a service tells by itself comes in signed, once each, in whatever order, and not at all with a wrong signature', async () => {
    const { id, report_key } = await one<{ id: string; report_key: string }>(
      `select id, report_key from connection where name = 'Marlow'`,
    );
    const changed = await oona.call<{ detail: string }>('PUT', `/api/connections/${id}`, {
      kind: 'service',
      name: 'Marlow',
      description: example('marlow-records'),
      values: { site: marlowAt.address, client: 'wren', client_secret: '', signing: 'shh' },
    });
    expect(changed.status, changed.body.detail).to.equal(200);
    const source = await oona.call<{ id: string; detail: string }>('POST', '/api/sources', {
      kind: 'service',
      connectionId: id,
      what: 'push',
    });
    expect(source.status, source.body.detail).to.equal(200);
    await oona.call('PUT', `/api/sources/${source.body.id}/card`, {
      fields: { first_name: 'first_name', email: 'email', phone: 'phone' },
      consent: { kind: 'not_asked' },
    });
    const event = (n: number) => ({
      topic: 'contact.created',
      event_id: `ev-${n}`,
      resource: { attributes: { name: { given: `Kit ${n}` }, emails: [{ address: `kit${n}@example.com` }] } },
    });
    const tell = async (events: object[], key = 'shh') => {
      const body = JSON.stringify({ events });
      const time = String(Math.floor(Date.now() / 1000));
      const signature = `v0=${createHmac('sha256', key).update(`${time}.${body}`).digest('hex')}`;
      const answer = await fetch(`${stage.url}/reports/${report_key}`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'x-marlow-time': time, 'x-marlow-signature': signature },
        body,
      });
      await answer.text();
      return answer.status;
    };
    const challenge = await fetch(`${stage.url}/reports/${report_key}?challenge=hello-1`);
    expect(await challenge.text()).to.equal('hello-1');
    expect(await tell([event(9)], 'other')).to.equal(401);
    expect(await tell([event(2), event(1)])).to.equal(200);
    expect(await tell([event(1), event(3), { topic: 'unknown' }])).to.equal(200);
    const { rows } = await stage.db.query<{ email: string }>(
      'select l.email from arrival a join lead l on l.id = a.lead_id where a.source_id = $1 order by l.email',
      [source.body.id],
    );
    expect(rows.map(({ email }) => email)).to.deep.equal(['kit1@example.com', 'kit2@example.com', 'kit3@example.com']);
  });

  it('how a service does is written down', async () => {
    const health = await until('its health', () =>
      one<{ calls: number; failed: number }>(
        `select sum(calls)::int as calls, sum(failed)::int as failed from connection_hour h join connection c on c.id = h.connection_id where c.kind = 'text_carrier' having sum(calls) > 5`,
      ),
    );
    expect(health.failed).to.be.greaterThan(2);
  });

  it('an outage is told once, and taken back once it is over', async () => {
    const { id } = await one<{ id: string }>(`select id from connection where kind = 'text_carrier'`);
    const told = () =>
      one<{ n: number; open: number }>(
        `select count(*)::int as n, count(*) filter (where settled_at is null)::int as open from needs_you where kind = 'service_trouble' and subject = $1`,
        [`connection:${id}`],
      );
    const flow = await textFlow();
    for (let i = 0; i < 4; i++) pennyPostAt.once(() => ({ status: 503, body: '' }));
    // It has been so for a while.
    await stage.db.query(
      `insert into connection_health (connection_id, business_id, trouble_since) select id, business_id, now() - interval '10 minutes' from connection where id = $1
       on conflict (connection_id) do update set trouble_since = excluded.trouble_since`,
      [id],
    );
    await flow.send({ name: 'Em', email: 'em.penny@example.com', phone: '07700 900167' });
    await until('the alarm', async () => (await told()).open === 1);
    const page = await oona.call<{ detail: string }>('GET', '/api/connections');
    expect(page.status).to.equal(200);
    await until('the text to go', () => penny.texts.some(({ dest }) => dest === '+447700900167'), 60_000);
    await until('the all-clear', async () => (await told()).open === 0);
    expect((await told()).n).to.equal(1);
  });
});
