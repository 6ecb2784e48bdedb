import { execFile } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { expect } from 'chai';
import { Description } from '../../src/core/described/description.ts';
import { hiding } from '../../src/core/described/request.ts';
import { SHIPPED } from '../../src/core/described/shipped/registry.ts';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { DescribedCaller } from '../../src/gateways/described/described-caller.ts';
import { HttpCaller } from '../../src/gateways/http.ts';
import { type Desk, openDesk } from '../../src/practice/desk.ts';
import { holdDescription } from '../contract/description.ts';
import { played, recording } from '../contract/recording.ts';
import { type Invented, invented, lantern, marlow, pennyPost } from '../stage/invented-services.ts';

const exec = promisify(execFile);
const example = (name: string) =>
  Description.parse(JSON.parse(readFileSync(`docs/connect/examples/${name}.json`, 'utf8')));
const bad = (held: Awaited<ReturnType<typeof holdDescription>>) =>
  held.filter(({ came }) => came === 'bad').map(({ what, detail }) => `${what}: ${detail}`);

describe('descriptions held against services', () => {
  const http = new HttpCaller(addressGuard(true), 1000);
  const caller = () => new DescribedCaller({ http, now: () => Date.now() });
  const open: Invented[] = [];
  let desk: Desk;
  before(async () => {
    desk = await openDesk({
      port: 0,
      smtpPort: 0,
      token: 'desk-key-1234',
      file: join(mkdtempSync(join(tmpdir(), 'pine-bell-desk-')), 'world.json'),
      backTo: '',
      files: null,
    });
  });
  after(async () => {
    await desk.close();
    await Promise.all(open.map((one) => one.close()));
    await http.close();
  });
  const text = { to: '+447700900181', from: 'Wrenfield', text: 'Hello', report_to: 'http://127.0.0.1:1/' };

  it('the carrier and the directory of the practice desk are as the shipped ones say', async () => {
    const carrier = await holdDescription({
      ...{ description: SHIPPED.text_carrier, kind: 'text_carrier', given: text, writes: true, caller: caller() },
      values: { address: `${desk.url}/carrier`, key: 'desk-key-1234' },
    });
    expect(bad(carrier)).to.deep.equal([]);
    expect(carrier.map(({ what }) => what)).to.include('send: with the same key it is the same message');
    const directory = await holdDescription({
      ...{
        description: SHIPPED.company_directory,
        kind: 'company_directory',
        given: {},
        writes: false,
        caller: caller(),
      },
      values: { address: `${desk.url}/directory`, key: 'desk-key-1234' },
    });
    expect(bad(directory)).to.deep.equal([]);
  });

  it('the invented ones are as their examples say, live and from a recording without their secrets', async () => {
    const services = [
      {
        name: 'penny-post-texts',
        kind: 'text_carrier',
        service: await pennyPost().service,
        values: { account: '7781', key: 'penny-key' },
        given: text,
      },
      {
        name: 'marlow-records',
        kind: 'service',
        service: await marlow().service,
        values: { client: 'wren', client_secret: 'hush-hush' },
        given: { email: 'new@example.com', first_name: 'New', domain: 'harrow-mills.example' },
      },
      {
        name: 'lantern-enquiries',
        kind: 'service',
        service: await lantern().service,
        values: { user: 'wren', password: 'Grün & blau' },
        given: { number: '998' },
      },
    ] as const;
    for (const { name, kind, service, values, given } of services) {
      open.push(service);
      const description = example(name);
      const filled = { ...values, address: service.address, site: service.address };
      const hide = hiding([...Object.values(values).filter((one) => one.length > 4), 'not-the-key']);
      const kept = recording(http, hide);
      const to = { description, kind, values: filled, given, writes: true };
      const live = await holdDescription({
        ...to,
        caller: new DescribedCaller({ http: kept, now: () => Date.now() }),
      });
      expect(bad(live), name).to.deep.equal([]);
      expect(live.filter(({ came }) => came === 'good').length, name).to.be.greaterThan(4);
      for (const secret of ['penny-key', 'hush-hush', 'Grün']) expect(JSON.stringify(kept.kept)).not.to.include(secret);
      const again = await holdDescription({
        ...to,
        caller: new DescribedCaller({ http: played(kept.kept, hide), now: () => Date.now() }),
      });
      expect(again, `${name} from the recording`).to.deep.equal(live);
    }
  });

  it('one that is not as it says is told, from the command line too', async () => {
    // It says yes to everybody, and forgets keys.
    let n = 0;
    const service = await invented(() => ({ body: JSON.stringify({ id: `t${++n}`, account: { name: 'Anybody' } }) }));
    open.push(service);
    const held = await holdDescription({
      ...{ description: SHIPPED.text_carrier, kind: 'text_carrier', given: text, writes: true, caller: caller() },
      values: { address: service.address, key: 'right-key' },
    });
    expect(bad(held).map((one) => one.split(':').slice(0, 2).join(':'))).to.deep.equal([
      'account: another key does not',
      'send: with the same key it is the same message',
      'send: to what is no number is refused for good',
    ]);
    const run = (...more: string[]) =>
      exec(process.execPath, [
        '--import',
        'tsx',
        'tests/contract/run.ts',
        'docs/connect/examples/marlow-records.json',
        ...more,
      ]).then(
        ({ stdout }) => ({ code: 0, stdout }),
        (error: { code: number; stdout: string }) => error,
      );
    const { service: records } = marlow();
    open.push(await records);
    const answer = await run(
      '--inside',
      '--value',
      `site=${(await records).address}`,
      '--value',
      'client=wren',
      '--value',
      'client_secret=hush-hush',
    );
    expect(answer.stdout).to.include('✔ account: the key opens the account').and.include('0 not,');
    expect(answer.code).to.equal(0);
    expect(
      (
        await run(
          '--inside',
          '--value',
          `site=${(await records).address}`,
          '--value',
          'client=wren',
          '--value',
          'client_secret=no',
        )
      ).code,
    ).to.equal(1);
  }).timeout(30_000);

  it('whatever a service answers, slowly, without end, in pieces or not at all, is a reason', async () => {
    const service = await invented(() => 'never');
    open.push(service);
    const description = SHIPPED.text_carrier;
    const send = () =>
      caller().call(
        { connectionId: 'x', who: 'The carrier', description, values: { address: service.address, key: 'k' } },
        'send',
        { ...text, reference: 'r' },
      );
    expect((await send()).answer).to.include({ kind: 'again', code: 'timeout' });
    service.once(() => 'breaks off');
    expect((await send()).answer).to.include({ kind: 'again', code: 'broken-off' });
    service.once(() => ({ status: 422, body: Buffer.alloc(6 * 1024 * 1024, 'x') }));
    expect((await send()).answer).to.include({ kind: 'refused', detail: 'The carrier answered 422' });
    service.once(() => ({ status: 200, headers: { 'content-type': 'application/json; charset=utf-16' }, body: 'odd' }));
    expect((await send()).answer.kind).to.equal('accepted');
    service.once(() => ({ status: 422, body: JSON.stringify({ detail: 'The key secret-word is not for texts' }) }));
    const refused = await caller().call(
      { connectionId: 'z', who: 'The carrier', description, values: { address: service.address, key: 'secret-word' } },
      'send',
      { ...text, reference: 'r' },
    );
    expect(refused.answer.detail).to.equal('The key ••• is not for texts');
    // Several in a row: it is left alone, and nobody waits for it.
    const one = caller();
    const account = {
      connectionId: 'y',
      who: 'The carrier',
      description,
      values: { address: 'http://127.0.0.1:1', key: 'k' },
    };
    for (let i = 0; i < 5; i++) await one.call(account, 'send', { ...text, reference: 'r' });
    const { answer } = await one.call(account, 'send', { ...text, reference: 'r' });
    expect(answer).to.include({ kind: 'again', code: 'breaker' });
  }).timeout(30_000);
});
