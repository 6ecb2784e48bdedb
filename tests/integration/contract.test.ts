import { createHmac, randomUUID } from 'node:crypto';
import { expect } from 'chai';
import { z } from 'zod';
import { type Desk, openDesk } from '../../src/practice/desk.ts';
import { readFeed } from '../../src/sources/content-feed/feed.ts';
import { ask, Listener, refused, SECRET, type Service, shaped, signedByUs } from '../contract/service.ts';

/*
 * docs/gateways.md, sentence by sentence, asked of what stands in for the services. Anything that says it speaks the same can be held against it: only
 * `make`, by which something happens there, is the practice desk's own.
 */

const At = z.iso.datetime();
const Named = z.strictObject({ id: z.string().min(1), name: z.string().min(1) });
const Made = z.strictObject({ id: z.string().min(1) });
const text = (more: object = {}) => ({
  to: '+447700900142',
  from: 'Wrenfield',
  text: 'Hi Nadia',
  reference: randomUUID(),
  ...more,
});

describe('the services at our borders keep their contract', function () {
  this.timeout(20_000);
  let desk: Desk;
  let listener: Listener;
  const at = (name: string): Service => ({ address: `${desk.url}/${name}`, key: 'practice' });
  /** Somebody does something there, at the page of the desk. */
  const make = async (path: string, body: object = {}) => {
    const answer = await fetch(`${desk.url}/api${path}`, { method: 'POST', body: JSON.stringify(body) });
    expect(answer.status, path).to.equal(200);
    return answer.json() as Promise<Record<string, unknown>>;
  };
  beforeEach(async () => {
    desk = await openDesk({ port: 0, smtpPort: 0, token: 'practice', file: null, backTo: '', files: null });
    listener = await new Listener().open();
  });
  afterEach(async () => {
    listener.close();
    await desk.close();
  });

  for (const name of ['carrier', 'chat', 'ads', 'funnels', 'shop', 'calendar', 'directory'])
    it(`${name}: says whose account a key opens, and nothing to any other key`, async () => {
      const told = await ask(at(name), 'GET', '/account');
      expect(told.status).to.equal(200);
      shaped(
        z.strictObject({ account: z.strictObject({ name: z.string().min(1), holds: z.string().min(1) }) }),
        told.body,
      );
      for (const key of ['', 'practic', 'practicee', 'PRACTICE'])
        refused(await ask({ ...at(name), key }, 'GET', '/account'), { status: 401 });
    });

  describe('text carrier', () => {
    const send = (key: string, more: object = {}) =>
      ask(at('carrier'), 'POST', '/texts', text({ reference: key, ...more }), { 'idempotency-key': key });
    const arrived = () => desk.world.state.phones['+447700900142']?.messages.length ?? 0;

    it('takes a text once for each key, and answers a repeat as the first time', async () => {
      const key = randomUUID();
      const first = await send(key);
      expect(first.status).to.be.within(200, 299);
      const again = await Promise.all([send(key), send(key)]);
      for (const answered of again) expect([answered.status, answered.body]).to.deep.equal([first.status, first.body]);
      expect(arrived()).to.equal(1);
      await send(randomUUID());
      expect(arrived()).to.equal(2);
    });
    it('refuses the same key with another text, and a text without one', async () => {
      const key = randomUUID();
      await send(key);
      refused(await send(key, { text: 'Something else' }), { status: 422 });
      refused(await send(key, { to: '+447700900143' }), { status: 422 });
      refused(await ask(at('carrier'), 'POST', '/texts', text()), { status: 400 });
      expect(arrived()).to.equal(1);
    });
    it('refuses for good what can never arrive, and says why; a repeat is refused alike', async () => {
      for (const more of [{ to: 'no number' }, { to: '+441174960009' }, { text: '' }]) {
        const key = randomUUID();
        const first = await send(key, more);
        refused(first, { status: 422 });
        expect((await send(key, more)).body).to.deep.equal(first.body);
      }
      expect(arrived()).to.equal(0);
    });
    it('too busy, it says when to come again, and the key is free still', async () => {
      desk.world.state.trouble = { ...desk.world.state.trouble, carrierBusy: true };
      const key = randomUUID();
      const busy = await send(key);
      refused(busy, { status: 429 });
      expect(Number(busy.headers.get('retry-after'))).to.be.above(0);
      desk.world.state.trouble = { ...desk.world.state.trouble, carrierBusy: false };
      expect((await send(key)).status).to.be.within(200, 299);
      expect(arrived()).to.equal(1);
    });
    it('reports signed: that a text has arrived, under its reference, and what is written back', async () => {
      desk.world.state.reportSecret = SECRET;
      const key = randomUUID();
      await send(key, { reportTo: listener.url });
      const delivered = await listener.next((pushed) => pushed.body.type === 'text.delivered');
      signedByUs(delivered);
      const about = z.strictObject({ type: z.string(), data: z.strictObject({ reference: z.literal(key), at: At }) });
      shaped(about, delivered.body);
      await make('/phones/write', { number: '+447700900142', text: '2 please' });
      const received = await listener.next((pushed) => pushed.body.type === 'text.received');
      signedByUs(received);
      const words = {
        id: z.string().min(1),
        from: z.literal('+447700900142'),
        to: z.literal('Wrenfield'),
        text: z.literal('2 please'),
        at: At,
      };
      shaped(z.strictObject({ type: z.string(), data: z.strictObject(words) }), received.body);
    });
  });

  describe('chat network', () => {
    const post = (body: object, key = randomUUID()) =>
      ask(at('chat'), 'POST', '/messages', { ...text({ reference: key }), ...body }, { 'idempotency-key': key });
    const template = (more: object = {}) =>
      ask(at('chat'), 'POST', '/templates', {
        ...{
          name: 'Trial',
          kind: 'service',
          heading: '',
          text: 'Hi {{ name }}, see you soon.',
          closing: '',
          buttons: [],
        },
        ...{ samples: { name: 'Nadia' }, ...more },
      });
    const account = () => make('/chat-account', { reportTo: listener.url, secret: SECRET, number: '+447700900150' });
    /** As its review has left it. */
    const reviewed = async (more: object = {}) => {
      const made = await template(more);
      expect(made.status, JSON.stringify(made.body)).to.equal(201);
      const { id } = shaped(z.strictObject({ id: z.string().min(1), state: z.literal('waiting') }), made.body);
      const word = await listener.next((pushed) => (pushed.body.data as { template?: string }).template === id);
      signedByUs(word);
      const State = z.enum(['waiting', 'approved', 'refused', 'withdrawn']);
      const { data } = shaped(
        z.strictObject({
          type: z.literal('chat.template'),
          data: z.strictObject({ template: z.literal(id), state: State, reason: z.string(), at: At }),
        }),
        word.body,
      );
      const now = shaped(
        z.strictObject({ id: z.literal(id), state: State, reason: z.string() }),
        (await ask(at('chat'), 'GET', `/templates/${id}`)).body,
      );
      expect([now.state, now.reason]).to.deep.equal([data.state, data.reason]);
      return now;
    };

    it('lets a business answer freely only once they have written, within 4,096 characters', async () => {
      refused(await post({ kind: 'free' }), { status: 409, code: 'window-shut' });
      await make('/chats/write', { number: '+447700900142', text: 'Hello?' });
      expect((await post({ kind: 'free' })).status).to.be.within(200, 299);
      expect((await post({ kind: 'free', text: 'x'.repeat(4096) })).status).to.be.within(200, 299);
      refused(await post({ kind: 'free', text: 'x'.repeat(4097) }), { status: 422 });
      refused(await post({ kind: 'free', to: 'no number' }), { status: 422 });
      refused(await post({ kind: 'loud' }), { status: 422 });
    });
    it('takes a message once for each key', async () => {
      await make('/chats/write', { number: '+447700900142', text: 'Hello?' });
      const key = randomUUID();
      const first = await post({ kind: 'free' }, key);
      expect((await post({ kind: 'free' }, key)).body).to.deep.equal(first.body);
      refused(await post({ kind: 'free', text: 'Another' }, key), { status: 422 });
      expect(
        desk.world.state.chats['+447700900142']!.messages.filter((message) => message.direction === 'to_phone'),
      ).to.have.length(1);
    });
    it('reports signed what came in, with the name they have there, and that what went out arrived and was read', async () => {
      await account();
      await make('/chats/write', { number: '+447700900142', text: 'Hello?', name: 'Nadia B', button: true });
      const received = await listener.next((pushed) => pushed.body.type === 'chat.received');
      signedByUs(received);
      const said = {
        id: z.string().min(1),
        from: z.literal('+447700900142'),
        to: z.literal('+447700900150'),
        text: z.literal('Hello?'),
        at: At,
      };
      shaped(
        z.strictObject({
          type: z.string(),
          data: z.strictObject({ ...said, name: z.literal('Nadia B'), button: z.literal(true) }),
        }),
        received.body,
      );
      const key = randomUUID();
      await post({ kind: 'free', reportTo: listener.url }, key);
      for (const type of ['chat.delivered', 'chat.read']) {
        const report = await listener.next((pushed) => pushed.body.type === type);
        signedByUs(report);
        shaped(
          z.strictObject({ type: z.literal(type), data: z.strictObject({ reference: z.literal(key), at: At }) }),
          report.body,
        );
      }
    });
    it('reviews a template, says its word, and begins a conversation only with an approved one whose fields are filled', async () => {
      await account();
      const good = await reviewed();
      expect(good).to.deep.include({ state: 'approved', reason: '' });
      const of = { kind: 'template', template: good.id, text: undefined };
      refused(await post({ ...of, fields: {} }), { status: 422, code: 'missing-field' });
      refused(await post({ ...of, fields: { name: '  ' } }), { status: 422, code: 'missing-field' });
      expect((await post({ ...of, fields: { name: 'Nadia' } })).status).to.be.within(200, 299);
      await make(`/chat-templates/${good.id}/withdrawn`, { reason: 'Too many complaints' });
      refused(await post({ ...of, fields: { name: 'Nadia' } }), { status: 422, code: 'not-approved' });
      refused(await post({ ...of, template: 'tpl-none', fields: {} }), { status: 404 });
    });
    it('refuses a template that wants to sell and says it does not, that begins with a field, or that shows no sample', async () => {
      await account();
      for (const more of [
        { text: 'A big sale, {{ name }}, for you.' },
        { text: '{{ name }}, see you.' },
        { samples: {} },
      ]) {
        const judged = await reviewed(more);
        expect(judged.state).to.equal('refused');
        expect(judged.reason).to.match(/\w/);
      }
      for (const more of [
        { kind: 'other' },
        { text: '' },
        { heading: 'x'.repeat(61) },
        { buttons: ['a', 'b', 'c', 'd'] },
        { buttons: ['x'.repeat(21)] },
      ])
        refused(await template(more), { status: 422 });
    });
    it('keeps a form, opens it with a message, and reports what was filled in with our token', async () => {
      await account();
      const about = {
        ...{ name: 'First contact', heading: 'About you', open: 'Open', thanks: 'Thank you' },
        screens: [
          { title: '', fields: [{ key: 'name', label: 'Name', kind: 'short', required: true, help: '', choices: [] }] },
        ],
        consent: { text: 'You may write to me', required: true },
      };
      for (const broken of [{ open: 'x'.repeat(21) }, { screens: [] }, { thanks: '' }])
        refused(await ask(at('chat'), 'POST', '/forms', { ...about, ...broken }), { status: 422 });
      const { id } = shaped(Made, (await ask(at('chat'), 'POST', '/forms', about)).body);
      await make('/chats/write', { number: '+447700900142', text: 'Hello?' });
      refused(await post({ kind: 'free', form: { id: 'form-none', token: 't' } }), { status: 404 });
      refused(await post({ kind: 'free', form: { id } }), { status: 422 });
      expect((await post({ kind: 'free', form: { id, token: 'ours' } })).status).to.be.within(200, 299);
      await make('/chats/form', {
        number: '+447700900142',
        form: id,
        token: 'ours',
        answers: { name: 'Nadia', consent: 'true' },
      });
      const filled = await listener.next((pushed) => pushed.body.type === 'chat.form');
      signedByUs(filled);
      const { data } = shaped(
        z.strictObject({
          type: z.string(),
          data: z.strictObject({
            ...{
              id: z.string().min(1),
              from: z.literal('+447700900142'),
              to: z.literal('+447700900150'),
              form: z.literal(id),
            },
            ...{ token: z.literal('ours'), answers: z.record(z.string(), z.string()), at: At },
          }),
        }),
        filled.body,
      );
      expect(data.answers).to.deep.equal({ name: 'Nadia', consent: 'true' });
    });
  });

  describe('ad platform', () => {
    const Entry = z.strictObject({
      ...{ id: z.string().min(1), submittedAt: At, form: Named, page: Named },
      ad: z.strictObject({ campaign: z.string(), adSet: z.string(), ad: z.string() }),
      hidden: z.record(z.string(), z.string()),
      answers: z.array(z.strictObject({ key: z.string().min(1), label: z.string().min(1), value: z.string() })),
    });
    const Held = z.strictObject({
      entries: z.array(Entry),
      cursor: z.string(),
      held: z.strictObject({ count: z.int().min(0), firstExpiresAt: At.nullable() }),
    });
    const forms = async (service = at('ads')) =>
      shaped(
        z.strictObject({
          forms: z.array(z.strictObject({ id: z.string(), name: z.string(), page: Named, live: z.boolean() })),
        }),
        (await ask(service, 'GET', '/forms')).body,
      ).forms;
    const fillIn = (form: string, name: string) => make(`/forms/${form}/entries`, { answers: { first_name: name } });

    it('gives every entry once to whoever follows the cursor, oldest first, whatever the limit and whatever comes meanwhile', async () => {
      const { id } = (await forms())[0]!;
      const before = desk.world.state.entries.filter((entry) => entry.formId === id).length;
      for (let n = 0; n < 7; n++) await fillIn(id, `Lead ${n}`);
      for (const limit of [1, 3, 100]) {
        const seen: string[] = [];
        let after = '';
        let late = false;
        for (;;) {
          const page = shaped(
            Held,
            (await ask(at('ads'), 'GET', `/forms/${id}/entries?after=${encodeURIComponent(after)}&limit=${limit}`))
              .body,
          );
          if (page.entries.length === 0) break;
          expect(page.entries.length).to.be.at.most(limit);
          expect(page.held.count).to.be.at.least(page.entries.length);
          seen.push(...page.entries.map((entry) => entry.id));
          after = page.cursor;
          if (!late) await fillIn(id, `Meanwhile ${limit}`);
          late = true;
        }
        expect(new Set(seen).size, 'none twice').to.equal(seen.length);
        expect(seen.length, `all, ${limit} at a time`).to.equal(
          desk.world.state.entries.filter((entry) => entry.formId === id).length,
        );
      }
      expect(before + 10).to.equal(desk.world.state.entries.filter((entry) => entry.formId === id).length);
      const newest = shaped(Held, (await ask(at('ads'), 'GET', `/forms/${id}/entries?newest=1`)).body);
      expect(newest.entries[0]!.answers.find((answer) => answer.key === 'first_name')!.value).to.equal('Meanwhile 100');
      const behind = shaped(
        Held,
        (await ask(at('ads'), 'GET', `/forms/${id}/entries?after=${encodeURIComponent(newest.cursor)}`)).body,
      );
      expect(behind.entries).to.deep.equal([]);
    });
    it('pushes an entry of a form and of its page, signed, as the one that is fetched, with the wording beside the tick', async () => {
      const form = (await forms())[0]!;
      for (const path of [`/forms/${form.id}`, `/pages/${form.page.id}`]) {
        listener.pushed.length = 0;
        shaped(
          Made,
          (await ask(at('ads'), 'POST', `${path}/subscriptions`, { url: listener.url, secret: SECRET })).body,
        );
        await fillIn(form.id, 'Nadia');
        const told = await listener.next();
        signedByUs(told);
        const { entry } = shaped(z.strictObject({ type: z.literal('form.entry'), entry: Entry }), told.body);
        expect(told.headers['webhook-id']).to.equal(entry.id);
        const fetched = shaped(Held, (await ask(at('ads'), 'GET', `/forms/${form.id}/entries?newest=1`)).body);
        expect(fetched.entries[0]).to.deep.equal(entry);
        expect(entry.answers.map((answer) => answer.key)).to.include.members(['consent', 'consent_wording']);
      }
    });
    it('shows an account its own forms only, and takes no subscription without an address and a secret', async () => {
      const mine = await forms();
      const theirs = await forms({ ...at('ads'), key: 'practice-adults' });
      expect(mine.map((one) => one.id)).not.to.include.members(theirs.map((their) => their.id));
      refused(await ask(at('ads'), 'GET', `/forms/${theirs[0]!.id}/entries`), { status: 404 });
      for (const body of [{}, { url: 'ftp://x', secret: SECRET }, { url: listener.url }])
        refused(await ask(at('ads'), 'POST', `/forms/${mine[0]!.id}/subscriptions`, body), { status: 422 });
    });
  });

  describe('funnel host', () => {
    const Step = z.strictObject({
      id: z.string().regex(/^step-\d{4}$/),
      name: z.string(),
      address: z.url(),
      live: z.boolean(),
    });
    const Page = z.strictObject({
      steps: z.array(Step.extend({ funnel: Named })),
      next: z.string().nullable(),
    });
    const page = async (query: string) => shaped(Page, (await ask(at('funnels'), 'GET', `/steps?${query}`)).body);

    it('lists every page once to whoever pages through, and finds by a part of a name', async () => {
      const ids: string[] = [];
      for (let after: string | null = ''; after !== null; ) {
        const one: z.infer<typeof Page> = await page(`search=&after=${after}`);
        ids.push(...one.steps.map((step) => step.id));
        after = one.next;
      }
      expect(new Set(ids).size).to.equal(ids.length).and.to.be.above(100);
      const found = await page('search=PLANNER&after=');
      expect(found.steps.map(({ funnel }) => funnel.name)).to.include('Practice planner');
      expect((await page('search=no-such-thing&after=')).steps).to.deep.equal([]);
    });
    it('tells of who opts in and who buys, signed, with what was bought; of the events asked for only', async () => {
      const step = (await page('search=practice planner&after=')).steps[0]!;
      expect(step.address, 'its id stands in its address').to.include(step.id);
      const whole = shaped(Step.extend({ funnel: Named }), (await ask(at('funnels'), 'GET', `/steps/${step.id}`)).body);
      expect(whole).to.deep.include(step);
      refused(await ask(at('funnels'), 'GET', '/steps/step-9999'), { status: 404 });
      const want = { url: listener.url, secret: SECRET };
      await ask(at('funnels'), 'POST', `/steps/${step.id}/subscriptions`, { ...want, events: ['purchase'] });
      await make(`/steps/${step.id}/visit`, { person: { email: 'nadia@example.org' }, buys: false });
      await make(`/steps/${step.id}/visit`, { person: { email: 'nadia@example.org' }, buys: true });
      const told = await listener.next();
      signedByUs(told);
      const Order = z.strictObject({
        ...{ id: z.string(), currency: z.string().length(3), total: z.string() },
        lines: z.array(z.strictObject({ product: z.string(), quantity: z.int(), price: z.string() })),
      });
      const { order } = shaped(
        z.strictObject({
          ...{ type: z.literal('funnel.purchase'), id: z.string(), at: At, funnel: Named, step: Named },
          ...{
            visit: z.strictObject({ address: z.url(), referrer: z.string() }),
            person: z.record(z.string(), z.string()),
            order: Order,
          },
        }),
        told.body,
      );
      const sum = order.lines.reduce((all, one) => all + one.quantity * Number(one.price), 0);
      expect(Number(order.total), 'the total is what its lines come to').to.equal(sum);
      expect(listener.pushed).to.have.length(1);
    });
  });

  it('shop: tells of customers and orders, signed over the raw body with the secret as text', async () => {
    const secret = 'a plain secret';
    const asked = { url: listener.url, secret, events: ['customer.created', 'order.created', 'order.updated'] };
    shaped(Made, (await ask(at('shop'), 'POST', '/subscriptions', asked)).body);
    refused(await ask(at('shop'), 'POST', '/subscriptions', { url: listener.url }), { status: 422 });
    await make('/shop/customers', {
      first_name: 'Ivo',
      last_name: 'Holloway',
      email: 'ivo@example.org',
      phone: '+447700900199',
      accepts_marketing: true,
    });
    const customer = desk.world.state.customers.at(-1)!;
    await make('/shop/orders', { customerId: customer.id, lines: [{ sku: 'ROSIN-AMB', quantity: 2 }] });
    await make(`/shop/orders/${desk.world.state.orders.at(-1)!.id}`, { status: 'paid' });
    const Customer = z.strictObject({
      ...{ id: z.string(), first_name: z.string(), last_name: z.string(), email: z.string(), phone: z.string() },
      accepts_marketing: z.boolean(),
    });
    const Order = z.strictObject({
      ...{ id: z.string(), number: z.int(), status: z.string(), currency: z.string().length(3), total: z.string() },
      lines: z.array(z.strictObject({ sku: z.string(), name: z.string(), quantity: z.int(), price: z.string() })),
    });
    expect(listener.pushed.map((pushed) => pushed.body.event)).to.deep.equal(asked.events);
    for (const pushed of listener.pushed) {
      const head = pushed.headers as Record<string, string>;
      expect(head['shop-signature']).to.equal(createHmac('sha256', secret).update(pushed.raw).digest('base64'));
      expect([head['shop-event'], head['shop-delivery']]).to.deep.equal([pushed.body.event, pushed.body.id]);
      shaped(
        z.strictObject({ event: z.string(), id: z.string(), at: At, customer: Customer, order: Order.optional() }),
        pushed.body,
      );
    }
    expect(listener.pushed[2]!.body.order).to.deep.include({ status: 'paid', total: '12.80' });
  });

  it('booking calendar: tells of what is booked, moved and cancelled in the calendars asked for, with where it was before', async () => {
    const { calendars } = shaped(
      z.strictObject({ calendars: z.array(Named) }),
      (await ask(at('calendar'), 'GET', '/calendars')).body,
    );
    const [first, second] = calendars;
    const asked = { url: listener.url, secret: SECRET, calendars: [first!.id] };
    shaped(Made, (await ask(at('calendar'), 'POST', '/subscriptions', asked)).body);
    refused(await ask(at('calendar'), 'POST', '/subscriptions', { ...asked, calendars: ['none'] }), { status: 404 });
    const person = { name: 'Nadia B', email: 'nadia@example.org', phone: '+447700900142' };
    const booking = (calendar: string) => ({
      ...{
        calendar,
        title: 'Trial lesson',
        start: '2026-12-01T15:00:00.000Z',
        end: '2026-12-01T15:30:00.000Z',
        bookedBy: 'self',
        person,
      },
    });
    await make('/appointments', booking(second!.id));
    await make('/appointments', booking(first!.id));
    const { id } = desk.world.state.appointments.at(-1)!;
    for (const status of ['confirmed', 'moved', 'no-show', 'cancelled']) await make(`/appointments/${id}`, { status });
    const kinds = ['booked', 'confirmed', 'moved', 'no-show', 'cancelled'].map((one) => `appointment.${one}`);
    expect(listener.pushed.map((pushed) => pushed.body.type)).to.deep.equal(kinds);
    const Told = z.strictObject({
      ...{ type: z.string(), id: z.string(), at: At },
      appointment: z.strictObject({
        ...{
          id: z.literal(id),
          title: z.literal('Trial lesson'),
          start: At,
          end: At,
          previousStart: At.optional(),
          timeZone: z.literal('Europe/London'),
        },
        ...{
          bookedBy: z.enum(['self', 'staff']),
          calendar: Named,
          person: z.strictObject({ name: z.string(), email: z.string(), phone: z.string() }),
        },
      }),
    });
    for (const pushed of listener.pushed) {
      signedByUs(pushed);
      const { appointment, type } = shaped(Told, pushed.body);
      expect(appointment.previousStart !== undefined, `${type} says where it was before`).to.equal(
        type === 'appointment.moved',
      );
    }
    expect(
      new Set(listener.pushed.map((pushed) => pushed.headers['webhook-id'])).size,
      'each is told under an id of its own',
    ).to.equal(kinds.length);
  });

  it('company directory: knows a domain in whatever case, says null of others, and when to come again', async () => {
    const Company = z.strictObject({
      ...{ domain: z.string().optional(), name: z.string(), sector: z.string(), town: z.string(), country: z.string() },
      employees: z.union([z.int(), z.string()]),
    });
    const look = (domain: string) => ask(at('directory'), 'GET', `/companies?domain=${domain}`);
    const { company } = shaped(
      z.strictObject({ company: Company.nullable() }),
      (await look('HARROW-mills.example')).body,
    );
    expect(company!.name).to.equal('Harrow Mills');
    expect((await look('nobody.example')).body).to.deep.equal({ company: null });
    desk.world.state.trouble = { ...desk.world.state.trouble, directoryDown: true };
    const away = await look('harrow-mills.example');
    refused(away, { status: 503 });
    expect(Number(away.headers.get('retry-after'))).to.be.above(0);
  });

  it('content feed: is RSS and Atom of the same, and says when nothing has changed', async () => {
    await make('/episodes', { title: 'R&D & "loud"', summary: 'Bows & strings' });
    const read = async (name: string) => {
      const answer = await fetch(`${desk.url}/feed/${name}`);
      const feed = readFeed(new Uint8Array(await answer.arrayBuffer()));
      if (!feed.ok) throw new Error(feed.problem);
      return { feed, etag: answer.headers.get('etag')! };
    };
    const [rss, atom] = [await read('podcast.rss'), await read('podcast.atom')];
    expect(rss.feed.entries.map((entry) => entry.title)).to.deep.equal(atom.feed.entries.map((entry) => entry.title));
    expect(rss.feed.entries[0]).to.deep.include({ title: 'R&D & "loud"', summary: 'Bows & strings' });
    const known = (etag: string) => fetch(`${desk.url}/feed/podcast.rss`, { headers: { 'if-none-match': etag } });
    expect((await known(rss.etag)).status).to.equal(304);
    await make('/episodes', { title: 'Next', summary: '' });
    expect((await known(rss.etag)).status).to.equal(200);
  });
});
