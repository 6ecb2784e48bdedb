import { createHmac } from 'node:crypto';
import { deflateRawSync } from 'node:zlib';
import { expect } from 'chai';
import type { ArrivalView, SampleView } from '../../src/app/arrivals.ts';
import type { ImportView } from '../../src/app/imports.ts';
import type { SheetView } from '../../src/app/sheets.ts';
import type { SourceView } from '../../src/app/sources.ts';
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
      .filter((one) => one.direction === 'to_phone')
      .map((one) => one.text);
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
      'This is not what a shop sends: customer Invalid input: expected object, received undefined',
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
      mails('tomas@wrenfield.example').find((one) => one.subject.startsWith('New episode')),
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
    expect(answers.map((one) => one.status)).to.deep.equal([202, 202, 429]);
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
        arrivalIds: kept.map((one) => one.arrivalId),
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
    await stage.db.query('update pull set claimed_until = null, next_at = now() where source_id = $1', [made.id]);
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

  describe('sheets and files', () => {
    it('a row comes in once it has come to rest, with its consent; renamed columns change nothing; deleting asks', async () => {
      const [sheet] = (await oona.call<{ id: string; tabs: { id: string }[] }[]>('GET', '/api/sheets')).body;
      const view = (await oona.call<SheetView>('GET', `/api/sheets/${sheet!.id}`)).body;
      const [tab] = view.tabs;
      const [name, email, mobile, instrument, agrees] = tab!.columns.map((column) => column.id) as [
        string,
        string,
        string,
        string,
        string,
      ];
      await oona.call('PUT', `/api/tabs/${tab!.id}`, {
        name: 'Renamed',
        columns: tab!.columns.map((column) => ({ ...column, name: `${column.name} (new)` })),
      });
      const id = crypto.randomUUID();
      const last = (await oona.call<{ rows: { id: string }[] }>('GET', `/api/tabs/${tab!.id}/rows`)).body.rows.at(
        -1,
      )!.id;
      const edit = (body: object) => oona.call('POST', `/api/tabs/${tab!.id}/rows`, body);
      await edit({ insert: [{ id, after: last, cells: { [name]: 'Hal' } }] });
      await edit({ change: [{ id, cells: { [name]: 'Hal Iver', [mobile]: '07700 900708' } }] });
      await edit({ change: [{ id, cells: { [email]: 'hal@example.org', [instrument]: 'Harp', [agrees]: 'yes' } }] });
      expect(await texted('+447700900708')).to.match(/^Hi Hal,/);
      await edit({ change: [{ id, cells: { [instrument]: 'Lute' } }] });
      const kept = await arrivals('Front desk sheet');
      expect(kept.map((one) => one.fields.map((field: { value: string }) => field.value))).to.deep.equal([
        ['Hal Iver', 'hal@example.org', '07700 900708', 'Harp', 'yes'],
      ]);
      const asked = await oona.call<Refused>('DELETE', `/api/sheets/${sheet!.id}`);
      expect([asked.status, asked.body.detail]).to.deep.equal([
        409,
        '"Front desk sheet" listens to it and would get nothing more.',
      ]);
      const taken = await oona.call<Refused>('PUT', `/api/tabs/${tab!.id}`, { columns: tab!.columns.slice(1) });
      expect(taken.status).to.equal(409);
    });

    it('a sheet goes out as CSV and XLSX and comes back as it was', async () => {
      const made = (await oona.call<SheetView>('POST', '/api/sheets', { name: 'Round' })).body;
      const [tab] = made.tabs;
      const columns = tab!.columns.map((column) => column.id);
      const nasty = ['=1+1', '+447700900142', 'two\nlines', 'a "quote", a comma', '007'];
      await oona.call('POST', `/api/tabs/${tab!.id}/rows`, {
        insert: [
          {
            id: crypto.randomUUID(),
            after: null,
            cells: Object.fromEntries(nasty.map((cell, i) => [columns[i]!, cell])),
          },
        ],
      });
      for (const format of ['csv', 'xlsx']) {
        const file = await fetch(`${stage.url}/api/tabs/${tab!.id}/file?format=${format}`, {
          headers: { cookie: oona.cookie },
        });
        const bytes = Buffer.from(await file.arrayBuffer());
        const back = (await oona.call<SheetView>('POST', '/api/sheets', { name: `Back ${format}` })).body;
        const put = await fetch(`${stage.url}/api/tabs/${back.tabs[0]!.id}/file?name=x`, {
          method: 'POST',
          headers: { cookie: oona.cookie, origin: stage.url, 'content-type': 'application/octet-stream' },
          body: bytes,
        });
        expect(await put.json(), format).to.deep.equal({ rows: 1, columns: 5 });
        const [view] = (await oona.call<SheetView>('GET', `/api/sheets/${back.id}`)).body.tabs;
        const { rows } = (
          await oona.call<{ rows: { cells: Record<string, string> }[] }>('GET', `/api/tabs/${back.tabs[0]!.id}/rows`)
        ).body;
        expect(
          view!.columns.map((column) => rows[0]!.cells[column.id]),
          format,
        ).to.deep.equal(nasty);
      }
    });

    it('a workbook dropped off again: only rows not seen before, whatever was renamed and moved', async () => {
      const { address } = await source('Instrument fair contacts');
      await until(
        'the first file',
        async () => (await arrivals('Instrument fair contacts', `a.state = 'read'`)).length === 3,
      );
      const drop = (text: string) => fetch(address, { method: 'PUT', body: text });
      const second = await drop(
        'Contacts at stand 14,,,\nMobile,E-Mail,Name,Tried\n07700 900621,gideon.marsh@example.com,Gideon Marsh,Cello\n07700 900709,iris@example.org,Iris Mott,"Harp\nand lute"\n',
      );
      expect(second.status).to.equal(202);
      await until(
        'the new row',
        async () => (await arrivals('Instrument fair contacts', `a.state = 'read'`)).length === 4,
      );
      const [iris] = await arrivals('Instrument fair contacts', `a.external_id = 'key:iris@example.org'`);
      expect(
        Object.fromEntries(iris.fields.map((field: { key: string; value: string }) => [field.key, field.value])),
      ).to.deep.equal({
        mobile: '07700 900709',
        email: 'iris@example.org',
        name: 'Iris Mott',
        tried: 'Harp\nand lute',
      });
      const broken = await drop('%PDF-1.7');
      expect([broken.status, ((await broken.json()) as Refused).detail]).to.deep.equal([
        422,
        'This is a PDF. Save the table as XLSX or CSV.',
      ]);
      expect((await fetch(`${address}x`, { method: 'PUT', body: 'a' })).status).to.equal(404);
    });

    it('hostile files are refused with a reason, and the server stays well', async () => {
      const made = (await oona.call<SourceView>('POST', '/api/sources', { kind: 'workbook', name: 'Hostile' })).body;
      const drop = async (bytes: Buffer) => {
        const answer = await fetch(made.address, { method: 'PUT', body: new Uint8Array(bytes) });
        return [answer.status, ((await answer.json()) as Refused).detail] as const;
      };
      const bomb = workbook({ 'xl/worksheets/sheet1.xml': Buffer.alloc(120 * 1024 * 1024, ' ') });
      expect(bomb.length).to.be.lessThan(300_000);
      expect((await drop(bomb))[1]).to.match(/unpacks to far more/);
      await drop(Buffer.from('email\na@example.org\n'));
      await oona.call('PUT', `/api/sources/${made.id}/card`, {
        fields: { email: 'email' },
        consent: { kind: 'not_asked' },
      });
      await drop(Buffer.from(`email\n${'a\n'.repeat(200_001)}`));
      const told = await until(
        'the refusal',
        async () => {
          const files = (await oona.call<{ problem: string | null }[]>('GET', `/api/sources/${made.id}/files`)).body;
          return files.find((one) => one.problem?.includes('rows'));
        },
        30_000,
      );
      expect(told.problem).to.match(/more than 200,000 rows/);
      expect((await drop(Buffer.from([0xd0, 0xcf, 0x11, 0xe0, 1, 2, 3])))[1]).to.match(/old kind/);
      expect((await drop(Buffer.concat([Buffer.from('PK\x03\x04'), Buffer.alloc(200)])))[1]).to.match(
        /not a whole ZIP|damaged/,
      );
      expect((await drop(Buffer.from('GIF89a\0\0\0')))[1]).to.match(/not a table/);
      expect((await drop(workbook({}, '<!DOCTYPE x [<!ENTITY a "b">]><workbook/>')))[1]).to.match(
        /document type|cannot be read/,
      );
      expect((await fetch(`${stage.url}/healthz`)).status).to.equal(200);
    });
  });

  describe('imports', () => {
    let id: string;
    const view = async () => (await oona.call<ImportView>('GET', `/api/sources/${id}/import`)).body;
    const at = (state: string) =>
      until(
        `the import to be ${state}`,
        async () => {
          const now = await view();
          return now?.state === state && (state !== 'ready' || now.checked) ? now : null;
        },
        30_000,
      );
    const upload = async (text: string) => {
      id = (await oona.call<SourceView>('POST', '/api/sources', { kind: 'import', name: 'Old customers' })).body.id;
      const answer = await fetch(`${stage.url}/api/sources/${id}/import/file?name=old.csv`, {
        method: 'POST',
        headers: { cookie: oona.cookie, origin: stage.url, 'content-type': 'application/octet-stream' },
        body: text,
      });
      expect(answer.status).to.equal(200);
      await at('read');
      await oona.call('PUT', `/api/sources/${id}/card`, {
        fields: { full_name: 'name', email: 'email', phone: 'phone' },
        consent: { kind: 'asked_elsewhere', note: 'on paper' },
      });
      return at('ready');
    };

    it('marks what is wrong, twice, or known; records the rest; gives the refused rows back; and can be undone', async () => {
      const ready = await upload(
        'Name;Email;Phone\nJo Kay;jo@example.org;\nJo Kay;JO@example.org;\nLia;no address;12\nFinn;finn@example.org;\nMax;max@example.org;07700 900710\n',
      );
      expect(ready.counts).to.deep.equal({ good: 3, refused: 1, duplicate: 1, known: 1 });
      const before = stage.desk.world.state.carrier.length;
      const start = (count: number) =>
        oona.call<Refused & ImportView>('POST', `/api/sources/${id}/import`, { workflowId: null, count });
      expect((await start(4)).body.detail).to.equal('There are 3 now, not 4. Look again before you start.');
      await start(3);
      expect((await at('done')).done).to.equal(3);
      expect((await stage.db.query(`select 1 from lead where email = 'max@example.org'`)).rowCount).to.equal(1);
      expect(stage.desk.world.state.carrier.length).to.equal(before);
      const refused = await fetch(`${stage.url}/api/sources/${id}/import/file`, { headers: { cookie: oona.cookie } });
      expect((await refused.text()).split('\r\n').slice(1, 3)).to.deep.equal([
        '3,Jo Kay,JO@example.org,,Stands further up in the file already.',
        '4,Lia,no address,12,"""no address"" is not an email address, ""12"" is not a phone number: nobody can be recognised or reached."',
      ]);
      await oona.call('POST', `/api/sources/${id}/import/undo`);
      expect((await view()).state).to.equal('undone');
      expect((await stage.db.query(`select 1 from lead where email = 'max@example.org'`)).rowCount).to.equal(0);
      expect((await stage.db.query(`select 1 from lead where email = 'finn@example.org'`)).rowCount).to.equal(1);
      expect((await stage.db.query('select 1 from arrival where source_id = $1', [id])).rowCount).to.be.greaterThan(2);
    });

    it('runs a workflow for each at a pace, and stops when told to', async () => {
      await upload(
        `Name;Email;Phone\n${Array.from({ length: 40 }, (_, i) => `P${i};p${i}@example.net;07700 9008${String(i).padStart(2, '0')}`).join('\n')}\n`,
      );
      const { rows } = await stage.db.query(`select id from workflow where name = 'Open day follow-up'`);
      await oona.call('POST', `/api/sources/${id}/import`, { workflowId: rows[0].id, perMinute: 120, count: 40 });
      const hour = Number(
        new Intl.DateTimeFormat('en-GB', { hour: '2-digit', hourCycle: 'h23', timeZone: 'Europe/London' }).format(
          new Date(),
        ),
      );
      if (hour >= 21 || hour < 8) {
        // It is night in London: nobody is written to, and that is said.
        const held = await until('the hold', async () =>
          (await view()).problem?.includes('Held until 08:00') ? view() : null,
        );
        expect(held.done).to.equal(0);
        await stage.db.query(`update business set time_zone = 'Pacific/Auckland'`);
        const there = Number(
          new Intl.DateTimeFormat('en-GB', { hour: '2-digit', hourCycle: 'h23', timeZone: 'Pacific/Auckland' }).format(
            new Date(),
          ),
        );
        if (there >= 21 || there < 8) await stage.db.query(`update business set time_zone = 'America/New_York'`);
        await stage.db.query('update lead_import set next_at = now() where source_id = $1', [id]);
      }
      await until('the first of them', async () => (await view()).done > 0, 20_000);
      await oona.call('POST', `/api/sources/${id}/import/stop`);
      const stopped = await view();
      expect(stopped.state).to.equal('stopped');
      expect(stopped.done).to.be.lessThan(40);
      await new Promise((resolve) => setTimeout(resolve, 2500));
      expect((await view()).done).to.equal(stopped.done);
      expect(await texted('+447700900800')).to.match(/^Hi P0/);
    });
  });
});

/** A small XLSX by hand: parts given, the rest as little as a workbook needs. */
function workbook(parts: Record<string, Buffer>, main?: string): Buffer {
  const all: Record<string, Buffer> = {
    'xl/workbook.xml': Buffer.from(
      main ?? '<workbook xmlns:r="r"><sheets><sheet name="S" sheetId="1" r:id="rId1"/></sheets></workbook>',
    ),
    'xl/_rels/workbook.xml.rels': Buffer.from(
      '<Relationships><Relationship Id="rId1" Target="worksheets/sheet1.xml"/></Relationships>',
    ),
    'xl/worksheets/sheet1.xml': Buffer.from('<worksheet><sheetData/></worksheet>'),
    ...parts,
  };
  const files: Buffer[] = [];
  const directory: Buffer[] = [];
  let offset = 0;
  for (const [name, content] of Object.entries(all)) {
    const packed = deflateRawSync(content, { level: 9 });
    const head = Buffer.alloc(30);
    head.writeUInt32LE(0x04034b50, 0);
    head.writeUInt16LE(20, 4);
    head.writeUInt16LE(8, 8);
    head.writeUInt32LE(packed.length, 18);
    head.writeUInt32LE(content.length, 22);
    head.writeUInt16LE(name.length, 26);
    const entry = Buffer.alloc(46);
    entry.writeUInt32LE(0x02014b50, 0);
    entry.writeUInt16LE(20, 4);
    entry.writeUInt16LE(20, 6);
    entry.writeUInt16LE(8, 10);
    entry.writeUInt32LE(packed.length, 20);
    entry.writeUInt32LE(content.length, 24);
    entry.writeUInt16LE(name.length, 28);
    entry.writeUInt32LE(offset, 42);
    files.push(head, Buffer.from(name), packed);
    directory.push(entry, Buffer.from(name));
    offset += 30 + name.length + packed.length;
  }
  const entries = Buffer.concat(directory);
  const end = Buffer.alloc(22);
  end.writeUInt32LE(0x06054b50, 0);
  end.writeUInt16LE(Object.keys(all).length, 8);
  end.writeUInt16LE(Object.keys(all).length, 10);
  end.writeUInt32LE(entries.length, 12);
  end.writeUInt32LE(offset, 16);
  return Buffer.concat([...files, entries, end]);
}
