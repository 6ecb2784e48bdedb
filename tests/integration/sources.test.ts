import { createHmac } from 'node:crypto';
import { expect } from 'chai';
import type { ArrivalView, SampleView } from '../../src/app/sources/arrivals.ts';
import type { SourceView } from '../../src/app/sources/sources.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

type Refused = { detail?: string; status?: number };

describe('every kind of source, from its practice service to the phone', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Awaited<ReturnType<typeof signedIn>>;
  before(async () => {
    stage = await openStage();
    oona = await signedIn(stage);
  });
  after(() => stage.close());

  const desk = (path: string, body: unknown) =>
    fetch(`${stage.desk.url}/api${path}`, { method: 'POST', body: JSON.stringify(body) }).then((answer) =>
      answer.json(),
    );
  const trouble = (change: object) => {
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, ...change };
  };
  const texts = (number: string) =>
    (stage.desk.world.state.phones[number]?.messages ?? [])
      .filter((message) => message.direction === 'to_phone')
      .map((message) => message.text);
  const texted = (number: string) => until(`a text to ${number}`, () => texts(number)[0]);
  const mails = (address: string) => stage.desk.world.state.mails.filter((mail) => mail.mailbox === address);
  const idOf = async (name: string): Promise<string> =>
    (await stage.db.query('select id from source where name = $1', [name])).rows[0].id;
  const arrivals = async (name: string, where = 'true') =>
    (
      await stage.db.query(
        `select a.* from arrival a join source s on s.id = a.source_id where s.name = $1 and ${where} order by a.received_at`,
        [name],
      )
    ).rows;
  const source = async (name: string) => (await oona.call<SourceView>('GET', `/api/sources/${await idOf(name)}`)).body;

  it('ad form, every form of a page: one made later is listened to as well', async () => {
    const { form } = (await desk('/forms/form-evening-choir/copy', { name: 'Spring choir' })) as {
      form: { id: string };
    };
    await desk(`/forms/${form.id}/entries`, {
      answers: { full_name: 'Ada Venn', phone: '0491 570 006', email: 'ada.choir@example.org', consent: 'true' },
    });
    const [arrival] = await until('the arrival', async () => {
      const found = await arrivals('All forms of Wrenfield Evenings');
      return found.length > 0 ? found : null;
    });
    expect(arrival.where_from).to.deep.include({
      form: 'Spring choir',
      page: 'Wrenfield Evenings',
      campaign: 'evening-choir',
    });
  });

  it('funnel page: opt-in and purchase', async () => {
    const person = {
      first_name: 'Bea',
      last_name: 'Lund',
      email: 'bea@example.org',
      phone: '07700 900702',
      consent: 'true',
    };
    await desk('/steps/step-0001/visit', { person, buys: false });
    await until('the planner by email', () => mails('bea@example.org').length === 1);
    await desk('/steps/step-0001/visit', { person, buys: true });
    await until('the purchase too', () => mails('bea@example.org').length === 2);
    const [, purchase] = await arrivals('Practice planner: Opt-in page').then(async (all) =>
      all.length === 1 ? [null, null] : all,
    );
    // The offer is another step: it is told where somebody listens to it.
    expect(purchase).to.not.equal(undefined);
  });

  it('funnel page: 400 funnels load page by page, a search goes over all of them, and an address will do', async () => {
    const { rows } = await stage.db.query(`select id from connection where kind = 'funnel_host'`);
    const ask = (more: string) =>
      oona.call<{ choices: { id: string; group: string }[]; next: string | null }>(
        'GET',
        `/api/sources/choices/funnel?connection=${rows[0].id}${more}`,
      );
    const seen = new Set<string>();
    let after = '';
    for (let pages = 0; pages < 20; pages++) {
      const page = (await ask(after)).body;
      for (const choice of page.choices) seen.add(choice.group);
      if (page.next === null) break;
      after = `&after=${page.next}`;
    }
    expect(seen.size).to.equal(400);
    const found = (await ask('&q=harmony%20sampler')).body.choices;
    expect(found.length).to.be.greaterThan(0);
    expect(found.every((choice) => choice.group.toLowerCase().startsWith('harmony sampler'))).to.equal(true);
    const made = await oona.call<SourceView>('POST', '/api/sources', {
      kind: 'funnel',
      connectionId: rows[0].id,
      step: `https://pages.wrenfield.example/any/${found[0]!.id}?ref=1`,
      events: ['opt-in'],
    });
    expect(made.body.settings).to.include({ stepId: found[0]!.id });
    const none = await oona.call<Refused>('POST', '/api/sources', {
      kind: 'funnel',
      connectionId: rows[0].id,
      step: 'https://pages.wrenfield.example/',
      events: ['opt-in'],
    });
    expect(none.body.detail).to.match(/no page ID/);
  });

  it('shop: signed by the base64 HMAC of the body; a wrong one is refused and kept; sent twice is taken once', async () => {
    trouble({ shopSendsTwice: true });
    await desk('/shop/customers', {
      first_name: 'Cai',
      last_name: 'Moor',
      email: 'cai@example.org',
      phone: '07700 900703',
      accepts_marketing: true,
    });
    const customerId = stage.desk.world.state.customers.at(-1)!.id;
    await desk('/shop/orders', {
      customerId,
      lines: [
        { sku: 'STR-VLN-SET', quantity: 1 },
        { sku: 'ROSIN-AMB', quantity: 2 },
      ],
    });
    expect(await texted('+447700900703')).to.contain('1 × Violin strings, set of four, 2 × Amber rosin');
    trouble({ shopSendsTwice: false, shopWrongSignature: true });
    await desk('/shop/orders', { customerId, lines: [{ sku: 'ROSIN-AMB', quantity: 1 }] });
    trouble({ shopWrongSignature: false });
    expect((await arrivals('Instrument shop')).map((one) => [one.state, one.repeats])).to.deep.equal([
      ['aside', 1],
      ['read', 1],
      ['refused', 0],
    ]);
    expect(texts('+447700900703')).to.have.length(1);
    const shop = await stage.source('Instrument shop');
    const body = '{"event":"order.created","id":"x"}';
    const answer = await fetch(shop.url, {
      method: 'POST',
      headers: {
        'content-type': 'application/json',
        'shop-signature': createHmac('sha256', shop.secret).update(body).digest('base64'),
      },
      body,
    });
    expect([answer.status, ((await answer.json()) as Refused).detail]).to.deep.equal([
      422,
      'This is not what a shop sends: it does not say which customer: neither their name there nor an email or a phone number.',
    ]);
  });

  it('booking calendar: booked is answered, and counts on Today', async () => {
    const start = new Date(Date.now() + 86_400_000).toISOString();
    await desk('/appointments', {
      calendar: 'cal-piano',
      title: 'Trial lesson',
      start,
      end: start,
      bookedBy: 'staff',
      person: { name: 'Dov Reed', email: 'dov@example.org', phone: '07700 900704' },
    });
    expect(await texted('+447700900704')).to.contain('your trial lesson in the piano room is booked');
    expect((await oona.call<{ booked: number }>('GET', '/api/today')).body.booked).to.equal(1);
    await desk(`/appointments/${stage.desk.world.state.appointments[0]!.id}`, { status: 'confirmed' });
    expect((await arrivals('Bookings')).map((one) => one.state)).to.deep.equal(['read', 'aside']);
  });

  it('content feed: only what is new, told to the team, and to nobody as a lead', async () => {
    await desk('/episodes', { title: 'Breath & bow', summary: 'One' });
    await stage.db.query(`update pull set next_at = now() where source_id = $1`, [await idOf('The Wrenfield Hour')]);
    const mail = await until('the news', () =>
      mails('tomas@wrenfield.example').find((mail) => mail.subject.startsWith('New episode')),
    );
    expect(mail.subject).to.equal('New episode: Breath & bow');
    expect(await arrivals('The Wrenfield Hour')).to.have.length(1);
    const leads = await oona.call<{ rows: { name: string }[] }>('GET', '/api/today');
    expect(JSON.stringify(leads.body)).to.not.contain('"newLeads":0');
    expect((await stage.db.query(`select 1 from lead where is_person = false`)).rowCount).to.equal(1);
    expect(
      (await stage.db.query(`select 1 from touch t join lead l on l.id = t.lead_id where not l.is_person`)).rowCount,
    ).to.equal(0);
  });

  it('a feed in trouble is told once for each outage, honours Retry-After, and is well again by itself', async () => {
    const id = await idOf('The Wrenfield Hour');
    const state = async () => (await stage.db.query('select * from pull where source_id = $1', [id])).rows[0];
    const needs = async () =>
      (
        await stage.db.query(
          `select subject, settled_at from needs_you where source_id = $1 and kind = 'source_trouble'`,
          [id],
        )
      ).rows;
    const look = async () => {
      const before = await state();
      await stage.db.query('update pull set next_at = now() where source_id = $1', [id]);
      return until('a look', async () => {
        const now = await state();
        return now.failures !== before.failures || now.last_ok_at > before.last_ok_at ? now : null;
      });
    };
    trouble({ feedDown: true });
    const first = await look();
    // The feed asks for 30 seconds.
    expect(first.next_at.getTime() - Date.now()).to.be.greaterThan(25_000);
    expect(await needs()).to.have.length(0);
    for (let i = 0; i < 4; i++) await look();
    expect(await needs()).to.have.length(1);
    trouble({ feedDown: false, feedBroken: true });
    expect((await look()).problem).to.match(/broken XML/);
    trouble({ feedBroken: false, feedHuge: true });
    expect((await look()).problem).to.match(/larger than 5 MB/);
    trouble({ feedHuge: false });
    const well = await look();
    expect([well.failures, well.trouble_since, well.problem]).to.deep.equal([0, null, null]);
    expect((await needs()).map((one) => one.settled_at !== null)).to.deep.equal([true]);
    // Asked to wait for weeks, it is told at once and asked again within the hour.
    trouble({ feedAsksWeeks: true });
    const asked = await look();
    expect(asked.failures).to.equal(1);
    expect(asked.next_at.getTime() - Date.now()).to.be.within(55 * 60_000, 62 * 60_000);
    const told = (
      await stage.db.query(
        `select detail from needs_you where source_id = $1 and kind = 'source_trouble' and settled_at is null`,
        [id],
      )
    ).rows;
    expect(told.map((one) => one.detail)).to.deep.equal([
      'The feed answered 503. It asks us to wait 23 days; we ask again in an hour.',
    ]);
    trouble({ feedAsksWeeks: false });
    expect((await look()).failures).to.equal(0);
  });

  it('mailbox: a forwarded mail becomes a lead, attachments stay with it; an automatic reply is kept out; nobody else is relayed for', async () => {
    const { address } = await source('Website enquiries');
    const send = (change: object) =>
      desk('/mails', {
        to: address,
        from: 'Web <web@site.example>',
        subject: 'New enquiry',
        text: 'Name: Ewa Lind\nEmail: ewa@example.org\nPhone: 07700 900705\nConsent: yes\n',
        ...change,
      }) as Promise<{ told: string }>;
    expect((await send({})).told).to.match(/^250/);
    expect(await texted('+447700900705')).to.match(/^Hi Ewa/);
    expect((await send({ automatic: true })).told).to.match(/^250/);
    expect((await send({ subject: 'Something else' })).told).to.match(/^250/);
    expect((await send({ to: 'nobody@in.wrenfield.example' })).told).to.match(/550/);
    expect((await send({ to: 'somebody@else.example' })).told).to.match(/550/);
    expect((await arrivals('Website enquiries')).map((one) => one.state)).to.deep.equal(['read', 'aside', 'aside']);
  });

  it('form page: fills in without JavaScript, keeps where the visitor came from and the proof of consent', async () => {
    const { address, id } = await source('Book a free trial lesson');
    const page = await fetch(`${address}?utm_source=poster&utm_campaign=bus`, {
      headers: { referer: 'https://town.example/' },
    });
    const html = await page.text();
    expect(page.headers.get('content-security-policy')).to.contain('frame-ancestors *');
    const hidden = (name: string) =>
      new RegExp(`name="${name}" value="([^"]*)"`).exec(html)![1]!.replaceAll('&#38;', '&').replaceAll('&amp;', '&');
    const typed = {
      ticket: hidden('ticket'),
      visit: hidden('visit'),
      referrer: hidden('referrer'),
      website: '',
      instrument: 'Cello',
      first_name: 'Finn',
      email: 'finn@example.org',
      phone: '07700 900706',
      consent: 'true',
    };
    const post = (change: object) =>
      fetch(address, {
        method: 'POST',
        headers: { origin: stage.url },
        body: new URLSearchParams({ ...typed, ...change }),
        redirect: 'manual',
      });
    const wrong = await post({ email: 'finn' });
    expect(wrong.status).to.equal(422);
    const again = await wrong.text();
    expect(again).to.contain('This does not look like an email address').and.to.contain('07700 900706');
    await new Promise((resolve) => setTimeout(resolve, 1600));
    const good = await post({});
    expect([good.status, good.headers.get('location')]).to.deep.equal([303, `${new URL(address).pathname}?thanks`]);
    // Sent twice by an impatient finger.
    expect((await post({})).status).to.equal(303);
    expect(await texted('+447700900706')).to.match(/^Hi Finn/);
    const [kept, ...rest] = await arrivals('Book a free trial lesson');
    expect(rest).to.have.length(0);
    expect(kept.where_from).to.deep.include({
      utm_source: 'poster',
      utm_campaign: 'bus',
      referrer: 'https://town.example/',
    });
    const { rows } = await stage.db.query(`select wording, version, address from consent where arrival_id = $1`, [
      kept.id,
    ]);
    expect(rows).to.have.length(2);
    expect(rows[0]).to.deep.include({
      version: '2',
      wording: 'Wrenfield may text and email me about lessons. I can stop this at any time.',
    });
    expect(rows[0].address).to.match(/127\.0\.0\.1/);
    // A machine: the hidden field filled in, or far too quick. It is thanked, kept, and answered by nobody.
    expect(
      (await post({ website: 'http://spam.example', ticket: `${typed.ticket}x`, email: 'bot@example.org' })).status,
    ).to.equal(303);
    expect((await arrivals('Book a free trial lesson', `a.state = 'aside'`)).map((one) => one.problem)).to.deep.equal([
      'Caught by the spam trap: a field that people do not see was filled in.',
    ]);
    for (let i = 0; i < 12; i++) await post({ website: 'x' });
    expect((await post({})).status).to.equal(429);
    expect(
      (await fetch(`${stage.url}/in/${address.split('/').at(-1)}`, { method: 'POST', body: '{}' })).status,
    ).to.equal(404);
    expect(id).to.be.a('string');
  });

  it('webhook: a limit per minute, a new address when the old one has leaked', async () => {
    const made = (
      await oona.call<SourceView>('POST', '/api/sources', { kind: 'webhook', name: 'Leaky', signed: false })
    ).body;
    await oona.call('PUT', `/api/sources/${made.id}`, { mostPerMinute: 2 });
    const send = () =>
      fetch(made.address, { method: 'POST', headers: { 'content-type': 'application/json' }, body: '{"a":1}' });
    const answers = [await send(), await send(), await send()];
    expect(answers.map((answer) => answer.status)).to.deep.equal([202, 202, 429]);
    expect(Number(answers[2]!.headers.get('retry-after'))).to.be.within(1, 60);
    const moved = (await oona.call<SourceView>('POST', `/api/sources/${made.id}/address`)).body;
    expect(moved.address).to.not.equal(made.address);
    expect((await send()).status).to.equal(404);
  });

  it('handles kept arrivals again, and writes to nobody twice by it', async () => {
    const made = await stage.source('Open day sign-in');
    const send = (body: object) =>
      fetch(made.url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) });
    await oona.call('PUT', `/api/sources/${made.id}`, { paused: true });
    await send({ name: 'Gus Hale', contact_number: '07700 900707', agrees_to_texts: 'yes' });
    await send({ name: 'Nobody at all' });
    await oona.call('PUT', `/api/sources/${made.id}`, { paused: false });
    const kept = (await oona.call<SampleView[]>('GET', `/api/sources/${made.id}/arrivals?state=held`)).body;
    expect(kept).to.have.length(2);
    const again = () =>
      oona.call<{ read: number }>('POST', `/api/sources/${made.id}/again`, {
        arrivalIds: kept.map((sampleView) => sampleView.arrivalId),
      });
    expect((await again()).body).to.include({ read: 2 });
    expect(await texted('+447700900707')).to.match(/^Hi Gus/);
    expect((await again()).body).to.include({ read: 2 });
    await new Promise((resolve) => setTimeout(resolve, 1500));
    expect(texts('+447700900707')).to.have.length(1);
    expect(
      (
        await stage.db.query(
          `select 1 from consent c join lead_identity i on i.lead_id = c.lead_id where i.value = '+447700900707'`,
        )
      ).rowCount,
    ).to.equal(2);
    const full = (await oona.call<ArrivalView>('GET', `/api/sources/${made.id}/arrivals/${kept[0]!.arrivalId}`)).body;
    expect(full.text).to.contain('"name"');
  });

  it('a source on a schedule: everything still held, oldest first, each once, through an outage and a killed worker', async () => {
    const { rows } = await stage.db.query(`select id from connection where name = 'Practice ad account'`);
    const made = (
      await oona.call<SourceView>('POST', '/api/sources', {
        kind: 'ad-form',
        connectionId: rows[0].id,
        scope: 'form',
        targetId: 'form-summer-camp',
        how: 'pull',
        everyMinutes: 1,
        from: 'held',
      })
    ).body;
    expect(made.pull?.backlog).to.deep.equal({ total: 140, done: 0 });
    const sample = (await oona.call<SampleView>('POST', `/api/sources/${made.id}/sample`)).body;
    expect(sample.fields.map((field) => field.key)).to.include('child_age');
    trouble({ adsBusy: true });
    await oona.call('PUT', `/api/sources/${made.id}/card`, {
      fields: { full_name: 'full_name', email: 'email', phone: 'mobile' },
      consent: { kind: 'not_asked' },
    });
    const pull = async () => (await oona.call<SourceView>('GET', `/api/sources/${made.id}`)).body.pull!;
    await until('the trouble', async () => (await pull()).problem?.includes('come back later'));
    expect(Date.parse((await pull()).nextAt) - Date.now()).to.be.greaterThan(5000);
    trouble({ adsBusy: false });
    await stage.db.query('update pull set next_at = now() where source_id = $1', [made.id]);
    await until('some of them', async () => ((await pull()).backlog?.done ?? 0) > 0);
    stage.worker!.child.kill('SIGKILL');
    await stage.worker!.ended;
    await stage.startWorker();
    await stage.db.query('update pull set lease_until = null, next_at = now() where source_id = $1', [made.id]);
    await until('all of them', async () => ((await pull()).backlog?.done ?? 0) === 140, 30_000);
    const kept = await stage.db.query(
      `select external_id from arrival where source_id = $1 and state = 'read' order by received_at, id`,
      [made.id],
    );
    expect(kept.rows.map((row) => row.external_id)).to.deep.equal(
      Array.from({ length: 140 }, (_, i) => `camp-${String(i + 1).padStart(4, '0')}`),
    );
  });

  it('warns while a paused source’s entries are about to be thrown away', async () => {
    const id = (
      await stage.db.query(
        `select source_id from pull p join source s on s.id = p.source_id where s.kind = 'ad-form' and s.name = 'Summer camp, fetched'`,
      )
    ).rows[0].source_id;
    await oona.call('PUT', `/api/sources/${id}`, { paused: true });
    await stage.db.query(`update pull set cursor = 'null' where source_id = $1`, [id]);
    await stage.db.query(`select graphile_worker.add_job('unfetched')`);
    const need = await until(
      'the warning',
      async () =>
        (await stage.db.query(`select detail from needs_you where source_id = $1 and kind = 'entries_expiring'`, [id]))
          .rows[0],
    );
    expect(need.detail).to.match(/140 not fetched yet/);
    expect((await oona.call<SourceView>('GET', `/api/sources/${id}`)).body.pull?.unfetched?.count).to.equal(140);
  });
});
