import { createHmac } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { expect } from 'chai';
import type { SourceView } from '../../src/app/sources/sources.ts';
import { type Invented, invented } from '../stage/invented-services.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

const example = (name: string) => JSON.parse(readFileSync(`docs/connect/examples/${name}.json`, 'utf8'));
const json = (value: unknown, status = 200) => ({ status, body: JSON.stringify(value) });

interface Arrived {
  external_id: string;
  state: string;
  problem: string | null;
  fields: { key: string; value: string; rows?: Record<string, string>[] }[];
  where_from: Record<string, string>;
  repeats: number;
}

describe('sources at services of other manners, in real processes', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Awaited<ReturnType<typeof signedIn>>;
  let [tern, halyard, beacon]: Invented[] = [];
  const rings: URLSearchParams[] = [];
  let replies: object[] = [];
  const connect = async (kind: string, name: string, description: unknown, values: Record<string, string>) => {
    const made = await oona.call<{ id: string; found: string; detail?: string }>('POST', '/api/connections', {
      ...{ kind, name, description, values },
    });
    expect(made.status, made.body.detail).to.equal(200);
    return made.body;
  };
  const made = async (input: Record<string, unknown>) => {
    const answer = await oona.call<SourceView & { detail?: string }>('POST', '/api/sources', input);
    expect(answer.status, answer.body.detail).to.equal(200);
    return answer.body;
  };
  const secretOf = async ({ id }: SourceView) =>
    (await oona.call<{ secret: string }>('POST', `/api/sources/${id}/secret`)).body.secret;
  const arrivals = async ({ id }: SourceView) =>
    (
      await stage.db.query<Arrived>(
        'select external_id, state, problem, fields, where_from, repeats from arrival where source_id = $1 order by received_at, id',
        [id],
      )
    ).rows;
  const live = async ({ id }: SourceView, fields: Record<string, string>) => {
    const card = { fields, consent: { kind: 'not_asked' } };
    expect((await oona.call('PUT', `/api/sources/${id}/card`, card)).status).to.equal(200);
  };
  const named = ({ fields }: Arrived) => Object.fromEntries(fields.map(({ key, value }) => [key, value]));

  before(async () => {
    [stage, tern, halyard, beacon] = await Promise.all([
      openStage(),
      invented(({ url, headers }) => {
        if (headers.authorization !== `Basic ${Buffer.from('wren:tern-pass').toString('base64')}`) return json({}, 401);
        if (url.pathname === '/me') return json({ studio: 'Wrenfield', plan: '2 rooms' });
        if (url.pathname !== '/rooms') return json({}, 404);
        const rooms = [{ no: 7, label: 'Piano room' }];
        return json({ rooms: url.searchParams.get('page') === '1' ? rooms : [] });
      }),
      invented(({ url, headers, body, method }) => {
        if (headers['x-halyard-key'] !== 'rope') return json({}, 401);
        if (url.pathname === '/shop')
          return { headers: { 'content-type': 'text/xml' }, body: '<shop><name>Strings</name></shop>' };
        if (method !== 'PUT') return json({}, 404);
        rings.push(new URLSearchParams(body));
        return json(rings.length === 1 ? { state: 'no', why: 'The bell is taken' } : { state: 'yes' });
      }),
      invented(({ url }) => {
        if (url.searchParams.get('token') !== 'flash') return json({}, 403);
        if (url.pathname === '/whoami') return json({ who: 'Wrenfield' });
        if (url.pathname === '/sheets') return json([{ key: 'sh-1', title: 'Summer camp', site: 'Camps' }]);
        if (url.pathname === '/spent')
          return json({
            days: [{ on: '2026-11-30', drive: 'autumn', card: 'violin', spent: '12.40', in: 'GBP', taps: 9 }],
          });
        const page = Number(url.searchParams.get('p'));
        const size = replies.length > 100 ? 1000 : 2;
        return json({ replies: replies.slice((page - 1) * size, page * size) });
      }),
    ]);
    oona = await signedIn(stage);
  });
  after(async () => {
    await stage?.close();
    await Promise.all([tern, halyard, beacon].map((service) => service?.close()));
  });

  it('a booking calendar that cannot be asked to tell us: its address is entered there, its list of changes is understood', async () => {
    const { id, found } = await connect('booking_calendar', 'Tern', example('tern-bookings'), {
      ...{ address: tern!.address, user: 'wren', password: 'tern-pass' },
    });
    expect(found).to.equal('It lets us in: Wrenfield, 2 rooms.');
    const rooms = await oona.call<{ choices: object[] }>(
      'GET',
      `/api/sources/choices/booking-calendar?connection=${id}`,
    );
    expect(rooms.body.choices).to.deep.equal([{ id: '7', label: 'Piano room' }]);
    const source = await made({
      kind: 'booking-calendar',
      connectionId: id,
      calendarIds: ['7'],
      events: ['booked', 'moved'],
    });
    expect([source.settings.byHand, source.signedBy]).to.deep.equal([true, 'described']);
    const secret = await secretOf(source);
    const send = async (changes: object[], more: { secret?: string; at?: number } = {}) => {
      const body = JSON.stringify({ changes });
      const time = String(Math.floor((more.at ?? Date.now()) / 1000));
      const seal = createHmac('sha512', more.secret ?? secret)
        .update(`${time}:${body}`)
        .digest('hex');
      const headers = { 'content-type': 'application/json', 'x-tern-time': time, 'x-tern-seal': `v2=${seal}` };
      const answer = await fetch(source.address, { method: 'POST', headers, body });
      return [answer.status, (await answer.json()) as { ok?: true; detail?: string }] as const;
    };
    const change = (ref: string, what: string, more: object = {}, by = 'guest') => ({
      ...{ ref, what, noted: 1_796_200_000, by },
      slot: {
        no: 55,
        about: 'Trial lesson',
        from: 1_796_300_000,
        until: 1_796_301_800,
        room: { no: 7, label: 'Piano room' },
        ...more,
      },
      guest: { called: 'Nadia Okafor', mail: 'nadia.tern@example.org', tel: '07700 900171' },
    });
    const hello = await fetch(`${source.address}?hello=a1b2`);
    expect([hello.status, await hello.text()]).to.deep.equal([200, 'a1b2']);
    expect((await fetch(`${source.address}?hello=${encodeURIComponent('<b>')}`)).status).to.equal(405);
    const both = [
      change('c1', 'new', {}, 'staff'),
      change('c2', 'shifted', { was: 1_796_290_000 }),
      change('c3', 'invoiced'),
    ];
    expect(await send(both)).to.deep.equal([200, { ok: true }]);
    expect(await send(both)).to.deep.equal([200, { ok: true }]);
    expect((await arrivals(source)).map(({ external_id, repeats }) => [external_id, repeats])).to.deep.equal([
      ['c1', 1],
      ['c2', 1],
      ['c3', 1],
    ]);
    const [booked, moved, other] = await arrivals(source);
    expect(named(booked!)).to.include({
      ...{ name: 'Nadia Okafor', email: 'nadia.tern@example.org', event: 'booked' },
      ...{ 'appointment.start': new Date(1_796_300_000_000).toISOString(), 'appointment.id': '55' },
      ...{ 'appointment.calendar': 'Piano room', 'appointment.booked_by': 'the desk' },
    });
    expect(named(moved!)).to.include({
      ...{ event: 'moved', 'appointment.previous_start': new Date(1_796_290_000_000).toISOString() },
      'appointment.booked_by': 'the customer',
    });
    expect([other!.state, other!.problem]).to.deep.equal(['aside', 'Not listened to: events like “invoiced”.']);
    const elsewhere = await send([change('c4', 'new', { room: { no: 8, label: 'String room' } })]);
    expect([elsewhere[0], (await arrivals(source)).at(-1)!.problem]).to.deep.equal([
      200,
      'Not listened to: the calendar "String room".',
    ]);
    expect((await send([change('c5', 'new')], { secret: 'another' }))[0]).to.equal(401);
    expect((await send([change('c5', 'new')], { at: Date.now() - 3_600_000 }))[0]).to.equal(401);
    const noTime = await send([change('c6', 'new', { from: 'soon' })]);
    expect([noTime[0], noTime[1].detail]).to.deep.equal([
      422,
      'This is not what a booking calendar sends: start Invalid input: expected string, received undefined',
    ]);
    // Read once more from what was kept, it is the same.
    await live(source, { full_name: 'name', email: 'email', phone: 'phone' });
    const { rows } = await stage.db.query<{ id: string }>(
      `select id from arrival where source_id = $1 and external_id = 'c2'`,
      [source.id],
    );
    const again = await oona.call('POST', `/api/sources/${source.id}/again`, { arrivalIds: [rows[0]!.id] });
    expect(again.status).to.equal(200);
    expect(named((await arrivals(source)).find(({ external_id }) => external_id === 'c2')!)).to.include({
      event: 'moved',
    });
  });

  it('a shop that is asked by form fields and tells in XML', async () => {
    const { id } = await connect('shop', 'Halyard', example('halyard-shop'), {
      address: halyard!.address,
      key: 'rope',
    });
    const input = { kind: 'shop', connectionId: id, events: ['order.created'] };
    const taken = await oona.call<{ detail: string }>('POST', '/api/sources', input);
    expect([taken.status, taken.body.detail]).to.deep.equal([502, 'The bell is taken. Nothing was set up.']);
    const source = await made(input);
    expect([source.signedBy, source.signedAs]).to.deep.equal(['described', 'halyard']);
    const secret = await secretOf(source);
    expect([rings[1]!.get('ring'), rings[1]!.get('word')]).to.deep.equal([source.address, secret]);
    const send = (password: string) =>
      fetch(source.address, {
        method: 'POST',
        headers: {
          'content-type': 'application/xml',
          authorization: `Basic ${Buffer.from(`halyard:${password}`).toString('base64')}`,
        },
        body: `<note type="sale" no="n-1"><time>2026-12-01T09:30:00Z</time>
          <buyer no="b-9"><given>Bo</given><family>Rare</family><mail>bo.halyard@example.org</mail><news>yes</news></buyer>
          <sale no="8001"><stage>paid</stage><sum in="GBP">£34.30</sum>
          <item count="2"><title>Amber rosin</title><each>6.40</each></item><item count="1"><title>Violin strings</title><each>21.50</each></item></sale></note>`,
      });
    expect((await send('guess')).status).to.equal(401);
    expect((await send(secret)).status).to.equal(202);
    const order = (await arrivals(source)).find(({ state }) => state !== 'refused')!;
    expect(order.external_id).to.equal('n-1');
    expect(named(order)).to.include({
      ...{ first_name: 'Bo', email: 'bo.halyard@example.org', customer_id: 'b-9', consent: 'true' },
      ...{ 'order.number': '8001', 'order.total': '34.30 GBP', 'order.status': 'paid' },
      'order.lines': '2 × Amber rosin, 1 × Violin strings',
    });
    expect(order.fields.find(({ key }) => key === 'order.lines')!.rows).to.deep.equal([
      { name: 'Amber rosin', quantity: '2', price: '6.40' },
      { name: 'Violin strings', quantity: '1', price: '21.50' },
    ]);
  });

  it('an ad platform that is asked page by page: each entry once, those of before left out, and what its ads cost', async () => {
    const reply = (no: number, first: string) => ({
      ...{ no, sent: '2026-12-01T10:00:00Z', sheet: 'sh-1', sheet_title: 'Summer camp' },
      ...{
        from: { drive: 'camp-2027', card: 'violin' },
        said: { first_name: first, email: `${first}.beacon@example.org`, days: ['Mon', 'Tue'] },
      },
    });
    replies = [reply(1, 'ada'), reply(2, 'bo'), reply(3, 'cy')];
    const { id } = await connect('ad_platform', 'Beacon', example('beacon-forms'), {
      ...{ address: beacon!.address, token: 'flash' },
    });
    const source = await made({
      ...{
        kind: 'ad-form',
        connectionId: id,
        scope: 'form',
        targetId: 'sh-1',
        how: 'pull',
        everyMinutes: 1,
        from: 'new',
      },
    });
    expect(source.name).to.equal('Summer camp form');
    const few = replies;
    replies = Array.from({ length: 5001 }, (_, n) => reply(n + 10, 'many'));
    const tooMany = await oona.call<{ detail: string }>('POST', '/api/sources', {
      ...{
        kind: 'ad-form',
        connectionId: id,
        scope: 'form',
        targetId: 'sh-1',
        how: 'pull',
        everyMinutes: 1,
        from: 'new',
      },
    });
    expect([tooMany.status, tooMany.body.detail.slice(0, 84)]).to.deep.equal([
      502,
      'The ad platform can only be asked for all its entries, and there are more than 5000 ',
    ]);
    replies = few;
    await live(source, { first_name: 'first_name', email: 'email' });
    replies.push(reply(4, 'dee'));
    const look = () => stage.db.query('update pull set next_at = now() where source_id = $1', [source.id]);
    await look();
    const first = await until('what is new', async () => {
      const all = (await arrivals(source)).filter(({ state }) => state !== 'aside');
      return all.some(({ external_id }) => external_id === '4') ? all : null;
    });
    expect(named(first.find(({ external_id }) => external_id === '4')!)).to.include({
      ...{ first_name: 'dee', email: 'dee.beacon@example.org', days: 'Mon, Tue' },
    });
    expect(first.find(({ external_id }) => external_id === '4')!.where_from).to.deep.include({
      ...{ campaign: 'camp-2027', ad: 'violin', form: 'Summer camp' },
    });
    const seen = beacon!.seen.length;
    await look();
    await until('another look', () => beacon!.seen.length > seen + 2);
    expect(
      (await arrivals(source)).filter(({ state }) => state !== 'aside').map(({ external_id }) => external_id),
    ).to.deep.equal(['4']);
    const feed = await oona.call<{ detail?: string }>('POST', '/api/results/costs/feeds', { connectionId: id });
    expect(feed.status, feed.body.detail).to.equal(200);
    const cost = await until('the costs', async () => {
      const { rows } = await stage.db.query(
        `select campaign, ad, cost::float8, clicks from ad_cost where campaign = 'autumn'`,
      );
      return rows[0];
    });
    expect(cost).to.deep.equal({ campaign: 'autumn', ad: 'violin', cost: 12.4, clicks: 9 });
  });
});
