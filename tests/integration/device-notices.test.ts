import { expect } from 'chai';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

describe('notices on people’s own devices', () => {
  let stage: Stage;
  let oona: Coordinator;
  let id: string;
  let flow: Awaited<ReturnType<typeof liveFlow>>;
  before(async function () {
    this.timeout(60_000);
    stage = await openStage();
    oona = await signedIn(stage);
    flow = await liveFlow(stage, oona, [momentOf('a', toTheLead(freshStep('text', 't', { message: 'Hello' })))]);
  });
  after(() => stage.close());

  const device = () => stage.desk.world.state.pushDevices[0]!;
  const told = (title: string) => until(title, () => device().notices.find((notice) => notice.title === title), 20_000);
  const row = async () => (await stage.db.query('select * from push_device where id = $1', [id])).rows[0];

  it('a device is added, tells that it works, and shows itself to nobody else', async () => {
    const made = await oona.call<{ id: string }>('POST', '/api/devices/practice');
    expect(made.status, JSON.stringify(made.body)).to.equal(200);
    id = made.body.id;
    expect((await oona.call('POST', `/api/devices/${id}/try`)).body).to.deep.equal({
      said: 'Sent. It is on the device in a moment.',
    });
    await told('It works');
    const tomas = await signedIn(stage, { email: 'tomas@wrenfield.example', password: 'ring-the-bell' });
    expect((await tomas.call<{ devices: unknown[] }>('GET', '/api/devices')).body.devices).to.deep.equal([]);
    expect((await tomas.call('POST', `/api/devices/${id}/try`)).status).to.equal(404);
    expect((await tomas.call('DELETE', `/api/devices/${id}`)).status).to.equal(404);
  });

  it('a lead that comes in is told by name, and once', async () => {
    await flow.send({ name: 'Wilhelmina', email: 'wilhelmina@example.org' });
    const notice = await told('New lead: Wilhelmina');
    expect(notice).to.include({ tag: 'leads wrenfield-music-school' });
    expect(notice.url).to.match(/^\/at\/wrenfield-music-school\/leads\/[\da-f-]{36}$/);
    await until('it noted', async () => (await row()).told_at);
    await new Promise((resolve) => setTimeout(resolve, 3000));
    expect(device().notices.filter(({ title }) => title.includes('Wilhelmina'))).to.have.length(1);
  });

  it('what comes while the push service is away is told once it is back', async () => {
    stage.desk.world.state.trouble.pushDown = true;
    await stage.db.query('update push_device set not_before = null where id = $1', [id]);
    await flow.send({ name: 'Xaver', email: 'xaver@example.org' });
    await until('the failure to be known', async () => (await row()).failures > 0, 20_000);
    const { body } = await oona.call<{ devices: { problem: string }[] }>('GET', '/api/devices');
    expect(body.devices[0]!.problem).to.equal('The push service answered 503.');
    stage.desk.world.state.trouble.pushDown = false;
    await told('New lead: Xaver');
    await until('all to be well', async () => (await row()).failures === 0);
  });

  it('what is not wanted is not told, now or later', async () => {
    expect((await oona.call('PUT', `/api/devices/${id}`, { wants: ['needs'] })).status).to.equal(200);
    await flow.send({ name: 'Yara', email: 'yara@example.org' });
    await new Promise((resolve) => setTimeout(resolve, 4000));
    expect((await oona.call('PUT', `/api/devices/${id}`, { wants: ['leads', 'needs'] })).status).to.equal(200);
    await stage.db.query('update push_device set not_before = null where id = $1', [id]);
    await flow.send({ name: 'Zita', email: 'zita@example.org' });
    await told('New lead: Zita');
    expect(device().notices.some(({ title }) => title.includes('Yara'))).to.equal(false);
  });

  it('whoever works with their own leads is told of theirs, and of nobody else’s by name', async () => {
    const mine = `person_id = (select id from person where email = 'oona@wrenfield.example')`;
    await stage.db.query(`update membership set role = 'desk', whose_leads = 'own' where ${mine}`);
    await stage.db.query('update push_device set not_before = null where id = $1', [id]);
    await flow.send({ name: 'Cosima', email: 'cosima@example.org' });
    await flow.send({ name: 'Dario', email: 'dario@example.org' });
    await until('Dario to be hers', async () => {
      const { rowCount } = await stage.db.query(
        `update lead set owner_id = m.person_id from membership m where m.${mine} and lead.email = 'dario@example.org'`,
      );
      return rowCount === 1;
    });
    await told('New lead: Dario');
    expect(JSON.stringify(device().notices)).not.to.include('Cosima');
    await stage.db.query(`update membership set role = 'owner', whose_leads = 'all' where ${mine}`);
  });

  it('a device that has turned them off is forgotten', async () => {
    stage.desk.world.state.pushDevices = [];
    await stage.db.query('update push_device set not_before = null where id = $1', [id]);
    await flow.send({ name: 'Abel', email: 'abel@example.org' });
    await until('it to be gone', async () => !(await row()), 20_000);
  });

  it('takes no address that is none, and none inside', async () => {
    const keys = { p256dh: Buffer.alloc(65, 4).toString('base64url'), auth: Buffer.alloc(16).toString('base64url') };
    for (const [endpoint, words] of [
      ['ftp://push.example/x', 'This browser gave an address that is none.'],
      ['http://push.example/x', 'A push service is reached by https only. Use a current browser.'],
      ['nonsense', 'This browser gave an address that is none.'],
    ] as const) {
      const answer = await oona.call<{ detail: string }>('POST', '/api/devices', { endpoint, keys, name: 'X' });
      expect([answer.status, answer.body.detail], endpoint).to.deep.equal([422, words]);
    }
    const short = { endpoint: 'https://push.example/x', keys: { ...keys, auth: 'abc' }, name: 'X' };
    expect((await oona.call('POST', '/api/devices', short)).status).to.equal(422);
  });
});
