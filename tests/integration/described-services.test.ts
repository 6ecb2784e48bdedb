import { readFileSync } from 'node:fs';
import { expect } from 'chai';
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

  it('how a service does is written down', async () => {
    const health = await until('its health', () =>
      one<{ calls: number; failed: number }>(
        `select sum(calls)::int as calls, sum(failed)::int as failed from connection_hour h join connection c on c.id = h.connection_id where c.kind = 'text_carrier' having sum(calls) > 5`,
      ),
    );
    expect(health.failed).to.be.greaterThan(2);
  });
});
