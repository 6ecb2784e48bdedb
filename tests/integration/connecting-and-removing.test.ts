import { expect } from 'chai';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

type Told = { id: string; found: string | null; detail: string; type: string };

describe('connecting: the key is tried first', () => {
  let stage: Stage;
  let oona: Coordinator;
  let deskUrl: string;
  let token: string;
  before(async () => {
    ({ stage, oona } = await sharedStage());
    deskUrl = stage.desk.url;
    const { rows } = await stage.db.query(`select secret from connection where name = 'Practice ad account'`);
    token = stage.secrets.open(rows[0].secret);
  });
  const ads = (secret: string, more = {}) => ({
    ...{ kind: 'ad_platform', name: 'Tried account', address: `${deskUrl}/ads`, secret },
    ...more,
  });
  const count = async () =>
    (await stage.db.query(`select count(*)::int as n from connection where name = 'Tried account'`)).rows[0].n;

  it('says whose account it is, and what is in it; each key opens its own', async () => {
    const school = (await oona.call<Told>('POST', '/api/connections', ads(token))).body;
    expect(school.found).to.match(/^It lets us in: Wrenfield Music School, \d forms\.$/);
    const evenings = await oona.call<Told>('PUT', `/api/connections/${school.id}`, ads(`${token}-adults`));
    expect(evenings.body.found).to.match(/^It lets us in: Wrenfield Music School, evenings/);
    // Without a new key the one there is tried.
    const kept = await oona.call<Told>('PUT', `/api/connections/${school.id}`, ads(''));
    expect(kept.body.found).to.match(/evenings/);
    expect((await oona.call<Told>('POST', `/api/connections/${school.id}/try`)).body.found).to.match(/evenings/);
  });

  it('a wrong key is not kept, agreed or not; another address neither', async () => {
    const before = await count();
    for (const untried of [false, true]) {
      const wrong = await oona.call<Told>('POST', '/api/connections', ads('wrong', { untried }));
      expect([wrong.status, wrong.body.detail]).to.deep.equal([
        422,
        'The ad platform does not accept this key. Look at the address and the key, and try again.',
      ]);
    }
    const elsewhere = await oona.call<Told>('POST', '/api/connections', ads(token, { address: `${deskUrl}/nowhere` }));
    expect([elsewhere.status, elsewhere.body.detail]).to.deep.equal([
      502,
      'The ad platform answers, but has no account at this address. Look at the address once more.',
    ]);
    expect(await count()).to.equal(before);
  });

  it('a service that is down can be kept all the same, once that is said', async () => {
    stage.desk.world.state.trouble.adsDown = true;
    try {
      const down = await oona.call<Told>('POST', '/api/connections', ads(token));
      expect([down.status, down.body.type]).to.deep.equal([502, 'urn:pine-bell:not-tried']);
      const kept = await oona.call<Told>('POST', '/api/connections', ads(token, { untried: true }));
      expect([kept.status, kept.body.found]).to.deep.equal([200, null]);
    } finally {
      stage.desk.world.state.trouble.adsDown = false;
    }
  });

  it('each account says when it took a message last, and how many wait for it while it is down', async () => {
    const flow = await liveFlow(stage, oona, [
      momentOf('a', toTheLead(freshStep('text', 't', { message: 'Hello there' }))),
    ]);
    const page = async () => {
      const html = await (await fetch(`${stage.url}/connections`, { headers: { cookie: oona.cookie } })).text();
      return /Practice carrier<\/a><\/h2>[\s\S]*?<\/section>/.exec(html)![0].replace(/<!--.*?-->/g, '');
    };
    await flow.send({ name: 'Runa', email: 'runa@example.org', phone: '+447700900681' });
    await flow.over('runa@example.org');
    expect(await page())
      .to.match(/took a message last \d\d:\d\d/)
      .and.not.include('wait since');
    stage.desk.world.state.trouble.carrierDown = true;
    try {
      await flow.send({ name: 'Sven', email: 'sven@example.org', phone: '+447700900682' });
      const { id } = await until('the text to be on its way', async () => {
        const { rows } = await stage.db.query<{ id: string }>(
          `update delivery set created_at = created_at - interval '2 minutes' where recipient = '+447700900682' and state = 'sending' returning id`,
        );
        return rows[0];
      });
      expect(await page(), id).to.match(/A message waits since \d\d:\d\d/);
    } finally {
      stage.desk.world.state.trouble.carrierDown = false;
    }
    await flow.over('sven@example.org');
    const workflows = await (await fetch(`${stage.url}/workflows`, { headers: { cookie: oona.cookie } })).text();
    expect(workflows, 'what came of the last run stands beside when it was').to.match(/title="[^"]*">Done<\/span>/);
  });

  it('a mail server is gone into and out of; a password it does not take is told', async () => {
    const mail = (address: string, more = {}) => ({
      ...{ kind: 'mail_server', name: 'Second mail', address, fromAddress: 'hello@wrenfield.example', ...more },
    });
    const good = await oona.call<Told>('POST', '/api/connections', mail(stage.desk.smtpUrl));
    expect(good.body.found).to.equal('It lets us in without a password.');
    const shut = await oona.call<Told>('POST', '/api/connections', mail('smtp://127.0.0.1:1'));
    expect([shut.status, shut.body.type]).to.deep.equal([502, 'urn:pine-bell:not-tried']);
    expect((await oona.call('DELETE', `/api/connections/${good.body.id}`)).status).to.equal(200);
  });
});

describe('removing: what uses it is named first, and what it did stays', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async () => ({ stage, oona } = await sharedStage()));
  const remove = (path: string) => oona.call<Told>('DELETE', path);
  const listed = async (path: string) => (await oona.call<{ id: string }[]>('GET', path)).body.map((one) => one.id);

  it('a workflow: not while live, its runs told and ended, its log kept; then its source, whose address ends', async () => {
    const flow = await liveFlow(stage, oona, [
      momentOf('m1', toTheLead(freshStep('note', 'n1', { text: 'Came in' }))),
      momentOf('m2', {
        at: { kind: 'later', span: { amount: 2, unit: 'days' } },
        ...toTheLead(freshStep('note', 'n2', { text: 'Two days on' })),
      }),
    ]);
    const { name } = flow.source;
    await flow.send({ email: 'gone@example.org' });
    await flow.waits('gone@example.org');
    const used = await remove(`/api/sources/${flow.source.id}`);
    expect([used.status, used.body.detail]).to.deep.equal([
      409,
      `“${name}” is still used by the workflow “${name}”. Take it out there first.`,
    ]);
    expect((await remove(`/api/workflows/${flow.id}`)).body.detail).to.match(/is live\. Pause it first/);
    await oona.call('PUT', `/api/workflows/${flow.id}/live`, { paused: true });
    const asked = await remove(`/api/workflows/${flow.id}`);
    expect([asked.status, asked.body.detail]).to.deep.equal([
      409,
      `One lead is still on their way in “${name}”. Removed, it sends them nothing more.`,
    ]);
    expect((await remove(`/api/workflows/${flow.id}?agreed=1`)).status).to.equal(200);
    const run = await flow.run('gone@example.org');
    expect([run.state, run.outcome, run.due_at]).to.deep.equal(['stopped', 'Stopped: the workflow was removed', null]);
    expect(await listed('/api/workflows')).not.to.include(flow.id);
    expect((await oona.call('GET', `/api/workflows/${flow.id}`)).status).to.equal(404);
    const log = await oona.call<{ rows: unknown[] }>('GET', `/api/workflows/${flow.id}/runs`);
    expect(log.body.rows).to.have.length(1);

    expect((await remove(`/api/sources/${flow.source.id}`)).status).to.equal(200);
    const late = await fetch(flow.source.address, { method: 'POST', body: '{"email":"late@example.org"}' });
    expect(late.status).to.equal(404);
    expect(await listed('/api/sources')).not.to.include(flow.source.id);
    expect((await stage.db.query('select from arrival where source_id = $1', [flow.source.id])).rowCount).to.equal(1);
    // Two at once, or the same again: it is simply no longer there.
    expect((await remove(`/api/sources/${flow.source.id}`)).status).to.equal(404);
  });

  it('a connection: not while a source or a live workflow sends by it; its reports are still taken', async () => {
    const { body: all } = await oona.call<{ id: string; kind: string; name: string }[]>('GET', '/api/connections');
    const carrier = all.find((one) => one.kind === 'text_carrier')!;
    const ad = all.find((one) => one.name === 'Practice ad account')!;
    expect((await remove(`/api/connections/${carrier.id}`)).body.detail).to.match(
      /“Practice carrier” is still used by .*the workflow “/,
    );
    expect((await remove(`/api/connections/${ad.id}`)).body.detail).to.match(/is still used by the source “/);
    const spare = (
      await oona.call<Told>('POST', '/api/connections', {
        ...{ kind: 'text_carrier', name: 'Spare', sender: 'Spare', untried: true },
        address: 'http://127.0.0.1:1',
        secret: 'k',
      })
    ).body;
    expect((await remove(`/api/connections/${spare.id}`)).status).to.equal(200);
    expect(await listed('/api/connections')).not.to.include(spare.id);
    // Its key stays as long as it can be put back (removed.test.ts), sealed.
    const { rows } = await stage.db.query('select secret from connection where id = $1', [spare.id]);
    expect(stage.secrets.open(rows[0].secret)).to.equal('k');
  });

  it('a list: not while a segment asks for it; then its name is free again, and its people stay', async () => {
    const { id } = (await oona.call<Told>('POST', '/api/lists', { name: 'Short-lived' })).body;
    const segment = await oona.call<Told>('POST', '/api/segments', {
      name: 'On the short-lived',
      condition: { field: '', test: 'on_list', value: id, to: '', exact: false },
    });
    expect(segment.status, segment.body.detail).to.equal(200);
    expect((await remove(`/api/lists/${id}`)).body.detail).to.equal(
      '“Short-lived” is still used by the segment “On the short-lived”. Take it out there first.',
    );
    await remove(`/api/segments/${segment.body.id}`);
    expect((await remove(`/api/lists/${id}`)).status).to.equal(200);
    expect((await oona.call<Told>('POST', '/api/lists', { name: 'Short-lived' })).status).to.equal(200);
  });
});
