import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { HttpCaller } from '../../src/gateways/http.ts';
import { callService } from '../../src/steps/call-service/definition.ts';
import { serviceCall } from '../../src/steps/call-service/perform.ts';
import type { Outside } from '../../src/steps/performers.ts';
import type { PerformFor } from '../../src/steps/step-performer.ts';
import { catalogueOf, nadia } from '../stage/sheets.ts';

describe('calling a service', () => {
  const received: { method: string; url: string; headers: Record<string, unknown>; body: string }[] = [];
  let answer = { status: 200, body: '{"room": {"name": "Room 5", "free": true}}' };
  const server = createServer((request, response) => {
    let body = '';
    request.on('data', (chunk) => {
      body += chunk;
    });
    request.on('end', () => {
      received.push({ method: request.method!, url: request.url!, headers: request.headers, body });
      response.writeHead(answer.status, { 'retry-after': '7' }).end(answer.body);
    });
  });
  let address = '';
  const open = new HttpCaller(addressGuard(true));
  const shut = new HttpCaller(addressGuard(false));
  before((done) => {
    server.listen(0, '127.0.0.1', () => {
      address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
      done();
    });
  });
  after(async () => {
    await Promise.all([open.close(), shut.close()]);
    server.close();
  });

  const context = nadia({ answers: { wish: 'a&b=c', level: '7' } });
  const planned = (more: object) => {
    const settings = callService.settings.parse({ ...callService.blank(), name: 'Rooms', ...more });
    return callService.plan(settings, { context, catalogue: catalogueOf(), now: 0, turn: null });
  };
  const call = async (more: object, http = open) => {
    const plan = planned(more);
    if (plan.does !== 'call') throw new Error(JSON.stringify(plan));
    return serviceCall.call!({ http, now: () => 0 } as unknown as Outside, plan.what, { key: 'key-1' } as PerformFor);
  };

  it('sends JSON with its key, and keeps what the sheet asks for', async () => {
    const came = await call({
      address: `${address}/book?for={{ answers.wish }}`,
      headers: [{ name: 'X-Level', value: '{{ answers.level }}' }],
      fields: [
        { name: 'lead.name', value: '{{ lead.full_name }}' },
        { name: 'lead.phone', value: '{{ lead.phone }}' },
      ],
      keep: [
        { name: 'Room', path: 'room.name' },
        { name: 'Missing', path: 'room.constructor.name' },
      ],
    });
    expect(came).to.deep.equal({
      kind: 'accepted',
      code: '200',
      detail: 'Answered 200',
      results: [
        { reference: 'found["rooms.room"]', value: 'Room 5' },
        { reference: 'found["rooms.missing"]', value: '' },
      ],
      // Shown by *Call once*: what it said, not only that it did.
      told: '{"room": {"name": "Room 5", "free": true}}',
    });
    const [sent] = received;
    // What a lead typed stays one value: it opens no second parameter.
    expect(sent!.url).to.equal('/book?for=a%26b%3Dc');
    expect(sent!.headers).to.include({
      'x-level': '7',
      'idempotency-key': 'key-1',
      'content-type': 'application/json',
    });
    expect(JSON.parse(sent!.body)).to.deep.equal({ lead: { name: 'Nadia Okafor', phone: '+447700900142' } });
  });
  it('busy or broken is tried again, with the wait it asks for; a refusal is one; an answer that is no JSON is told', async () => {
    answer = { status: 503, body: '' };
    expect(await call({ address })).to.deep.include({ kind: 'again', afterMs: 7000 });
    answer = { status: 422, body: 'no such room' };
    expect(await call({ address })).to.deep.equal({
      kind: 'refused',
      code: '422',
      detail: 'Answered 422: no such room',
    });
    answer = { status: 200, body: '<html>' };
    expect((await call({ address, keep: [{ name: 'x', path: 'y' }] })).kind).to.equal('refused');
    expect((await call({ address })).kind).to.equal('accepted');
  });
  it('an address inside is refused, before anything is sent, however it is written', async () => {
    const before = received.length;
    for (const host of [
      address,
      address.replace('127.0.0.1', 'localhost'),
      'http://2130706433',
      'http://[::1]',
      'http://169.254.169.254',
    ])
      expect(await call({ address: host }, shut), host).to.deep.include({ kind: 'refused', code: 'address-refused' });
    expect(received.length).to.equal(before);
  });
  it('a template cannot change where it goes, nor run away', () => {
    expect(
      callService.check(
        callService.settings.parse({ ...callService.blank(), address: '{{ lead.email }}' }),
        {} as never,
      ),
    ).to.have.length(1);
    const endless = planned({ address, fields: [{ name: 'x', value: '{% for i in (1..999999999) %}x{% endfor %}' }] });
    expect(endless).to.deep.include({ does: 'ask' });
  });
});
