import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import { SHIPPED } from '../../src/core/described/shipped/registry.ts';
import { WHO } from '../../src/core/described/who.ts';
import type { TextMessage } from '../../src/core/workflow/plan.ts';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { type DescribedAccount, DescribedCaller } from '../../src/gateways/described/described-caller.ts';
import { HttpCaller } from '../../src/gateways/http.ts';
import { type Desk, openDesk } from '../../src/practice/desk.ts';
import { adPlatform } from '../../src/sources/ad-form/ad-platform.ts';
import type { SourcePorts } from '../../src/sources/source-module.ts';
import { subscribe } from '../../src/sources/subscribe.ts';
import { sendDescribed } from '../../src/steps/described-message.ts';
import { carrierAt } from '../stage/services.ts';
import { until } from '../stage/stage.ts';

const message: TextMessage = {
  channel: 'text',
  audience: 'lead',
  to: '+447700900142',
  from: 'Wrenfield',
  text: 'Hi',
  parts: 1,
};
const now = () => Date.parse('2026-11-25T10:00:00Z');

describe('the text gateway over real HTTP', () => {
  let server: Server;
  let answer: (request: IncomingMessage, response: ServerResponse) => void;
  const seen: { headers: IncomingMessage['headers']; body: Record<string, unknown>; url: string }[] = [];
  const caller = new HttpCaller(addressGuard(true), 600);
  before((done) => {
    server = createServer((request, response) => {
      let body = '';
      request.on('data', (chunk) => {
        body += chunk;
      });
      request.on('end', () => {
        seen.push({ headers: request.headers, body: JSON.parse(body || '{}'), url: request.url ?? '' });
        answer(request, response);
      });
    });
    server.listen(0, '127.0.0.1', done);
  });
  after(async () => {
    await caller.close();
    server.closeAllConnections();
    server.close();
  });
  const address = () => `http://127.0.0.1:${(server.address() as AddressInfo).port}/api/`;
  const send = (to = address()) =>
    // Anew each time: one that does not answer several times is left alone for a while.
    sendDescribed(
      new DescribedCaller({ http: caller, now }),
      { service: carrierAt(to, 'secret'), reportTo: 'https://pine.example/reports/x' },
      message,
      'key-1',
    );
  const reply =
    (status: number, body: string, headers: Record<string, string> = {}) =>
    (_: IncomingMessage, response: ServerResponse) => {
      response.writeHead(status, headers);
      response.end(body);
    };

  it('says what docs/gateways.md promises', async () => {
    answer = reply(202, '{"id":"abc"}');
    expect(await send()).to.deep.equal({
      kind: 'accepted',
      code: 'http-202',
      detail: 'Accepted by the carrier',
      remoteId: 'abc',
    });
    const { headers, body, url } = seen.at(-1)!;
    expect(url).to.equal('/api/texts');
    expect(headers).to.include({
      authorization: 'Bearer secret',
      'idempotency-key': 'key-1',
      'content-type': 'application/json',
    });
    expect(body).to.deep.equal({
      to: '+447700900142',
      from: 'Wrenfield',
      text: 'Hi',
      reference: 'key-1',
      reportTo: 'https://pine.example/reports/x',
    });
  });

  const answers: [string, number, string, Record<string, string>, Record<string, unknown>][] = [
    ['a number for an id', 200, '{"ok":true,"id":7}', {}, { kind: 'accepted', remoteId: '7' }],
    ['nothing but yes', 200, 'OK', {}, { kind: 'accepted', remoteId: null }],
    ['busy, with seconds', 429, '', { 'retry-after': '7' }, { kind: 'again', afterMs: 7000 }],
    [
      'busy, with a date',
      503,
      '',
      { 'retry-after': 'Wed, 25 Nov 2026 10:00:30 GMT' },
      { kind: 'again', afterMs: 30_000 },
    ],
    ['broken inside', 500, '<html>oh</html>', {}, { kind: 'again', afterMs: null, detail: 'The carrier answered 500' }],
    [
      'refused with a reason',
      422,
      '{"detail":"Not a mobile number"}',
      {},
      { kind: 'refused', detail: 'Not a mobile number' },
    ],
    ['wrong key', 401, '{"title":"No such account"}', {}, { kind: 'refused', detail: 'No such account' }],
    [
      'sent elsewhere: not followed',
      302,
      '',
      { location: 'http://127.0.0.1:1/' },
      { kind: 'refused', code: 'http-302' },
    ],
  ];
  for (const [name, status, body, headers, expected] of answers)
    it(`sorts ${name}`, async () => {
      answer = reply(status, body, headers);
      expect(await send()).to.deep.include(expected);
    });

  it('no answer in time, a broken connection and nobody there are tried again', async () => {
    answer = () => {};
    expect(await send()).to.include({ kind: 'again', code: 'timeout' });
    answer = (request) => request.socket.destroy();
    expect(await send()).to.include({ kind: 'again', code: 'broken-off' });
    expect(await send('http://127.0.0.1:1/')).to.include({ kind: 'again', code: 'no-connection' });
  });

  it('an endless answer is cut off, not swallowed whole', async () => {
    answer = (_, response) => {
      response.writeHead(422, { 'content-type': 'application/json' });
      const more = () => {
        while (response.write('x'.repeat(65_536))) if (response.destroyed) return;
      };
      response.on('drain', more);
      response.on('error', () => {});
      more();
    };
    expect(await send()).to.include({ kind: 'refused', detail: 'The carrier answered 422' });
  });

  it('an inside address is refused for good, by number, by spelling and by name', async () => {
    const guarded = new HttpCaller(addressGuard(false), 600);
    for (const inside of [
      address(),
      'http://0x7f.1/',
      'http://[::1]:80/',
      'http://[::ffff:10.0.0.1]/',
      'http://169.254.1.1/',
      'http://localhost:1/',
    ]) {
      const outcome = await sendDescribed(
        new DescribedCaller({ http: guarded, now }),
        { service: carrierAt(inside), reportTo: '' },
        message,
        'k',
      );
      expect(outcome, inside).to.include({ kind: 'refused', code: 'address-refused' });
    }
    await guarded.close();
  });
});

describe('the practice desk keeps to the written APIs', () => {
  let desk: Desk;
  before(async () => {
    desk = await openDesk({ port: 0, smtpPort: 0, token: 'practice', file: null, backTo: '', files: null });
  });
  const caller = new HttpCaller(addressGuard(true), 6000);
  after(async () => {
    await caller.close();
    await desk.close();
  });
  const send = (key: string, more: Partial<TextMessage> = {}, token = 'practice') =>
    sendDescribed(
      new DescribedCaller({ http: caller, now }),
      { service: carrierAt(`${desk.url}/carrier`, token), reportTo: '' },
      { ...message, ...more },
      key,
    );
  const phone = (number: string) => desk.world.state.phones[number]?.messages.map((message) => message.text) ?? [];

  it('sends a text once however often its key comes, and answers as the first time', async () => {
    const first = await send('p1');
    expect(
      [first, await send('p1'), await send('p1')].map((answer) => answer.kind === 'accepted' && answer.remoteId),
    ).to.deep.equal(Array(3).fill(first.kind === 'accepted' && first.remoteId));
    expect(phone(message.to)).to.deep.equal(['Hi']);
    expect(desk.world.recordByKey('p1')?.repeats).to.equal(2);
    expect(await send('p1', { text: 'Other' })).to.include({ kind: 'refused', code: 'http-422' });
  });

  it('refuses landlines, blocked numbers and wrong keys, for good', async () => {
    expect(await send('p2', { to: '+441174960009' })).to.include({ kind: 'refused', detail: 'Not a mobile number' });
    desk.world.state.trouble = { ...desk.world.state.trouble, refusedNumbers: ['+447700900143'] };
    expect(await send('p3', { to: '+447700900143' })).to.include({
      kind: 'refused',
      detail: "The number can't receive texts",
    });
    expect(await send('p4', {}, 'wrong')).to.include({ kind: 'refused', code: 'http-401' });
  });

  it('makes the trouble its switches say', async () => {
    const { world } = desk;
    const calm = world.state.trouble;
    world.state.trouble = { ...calm, carrierBusy: true };
    expect(await send('p5')).to.include({ kind: 'again', afterMs: 3000 });
    world.state.trouble = { ...calm, carrierDown: true };
    expect(await send('p6')).to.include({ kind: 'again', code: 'broken-off' });
    world.state.trouble = calm;
  });

  it('lists its forms, takes a subscription, pushes an entry and pushes it again as it was', async () => {
    const received: { id: string; body: { entry: { id: string; answers: { key: string; value: string }[] } } }[] = [];
    const listener = createServer((request, response) => {
      let body = '';
      request.on('data', (chunk) => {
        body += chunk;
      });
      request.on('end', () => {
        received.push({ id: String(request.headers['webhook-id']), body: JSON.parse(body) });
        response.writeHead(202);
        response.end('{}');
      });
    });
    await new Promise<void>((resolve) => listener.listen(0, '127.0.0.1', resolve));
    const ports = { described: new DescribedCaller({ http: caller, now: Date.now }) } as unknown as SourcePorts;
    const account = (key = 'practice'): DescribedAccount => ({
      ...{ connectionId: 'ads', who: WHO.ad_platform, description: SHIPPED.ad_platform },
      values: { address: `${desk.url}/ads`, key },
    });
    const forms = await adPlatform.forms(ports, account());
    expect(forms.ok && forms.forms.map((form) => `${form.name} ${form.live}`)).to.deep.equal([
      'Trial lesson true',
      'Summer camp false',
    ]);
    const here = `http://127.0.0.1:${(listener.address() as AddressInfo).port}/in`;
    const taken = await subscribe(
      ports,
      account(),
      { address: here, secret: 'whsec_eA==' },
      { form: 'form-trial-lesson' },
    );
    expect(taken).to.deep.equal({ ok: true, byHand: false });
    const nowhere = { address: 'http://x.example', secret: 'whsec_eA==' };
    expect(await subscribe(ports, account(), nowhere, { form: 'no-such' })).to.deep.include({
      ok: false,
      problem: 'The ad platform does not know this any more: it has been removed there.',
    });
    expect(await adPlatform.forms(ports, account('wrong'))).to.deep.include({
      ok: false,
      problem: 'The ad platform does not accept the key of this connection. Put a new one in under Connections.',
    });
    await fetch(`${desk.url}/api/forms/form-trial-lesson/entries`, {
      method: 'POST',
      body: JSON.stringify({ answers: { first_name: 'Ada', consent: 'true' } }),
    });
    await until('the push', () => received.length === 1);
    expect(received[0]!.body.entry.answers.find((answer) => answer.key === 'consent_wording')?.value).to.contain(
      'Wrenfield may text and email me',
    );
    await fetch(`${desk.url}/api/pushes/${desk.world.state.pushes[0]!.id}/again`, { method: 'POST', body: '{}' });
    await until('the second push', () => received.length === 2);
    expect(received[1]).to.deep.equal(received[0]);
    listener.closeAllConnections();
    listener.close();
  });

  it('takes orders from its own page only', async () => {
    const answer = await fetch(`${desk.url}/api/trouble`, {
      method: 'POST',
      headers: { origin: 'https://evil.example' },
      body: '{"carrierDown":true}',
    });
    expect(answer.status).to.equal(403);
    expect(desk.world.state.trouble.carrierDown).to.equal(false);
  });
});
