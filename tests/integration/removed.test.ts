import { expect } from 'chai';
import type { RemovedThing } from '../../src/app/account/removed.ts';
import type { SourceView } from '../../src/app/sources/sources.ts';
import { housekeeping } from '../../src/worker/housekeeping.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { type Stage, signedIn, until } from '../stage/stage.ts';

describe('what is removed, and put back', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Coordinator;
  before(async () => {
    ({ stage, oona } = await sharedStage());
  });
  const removed = async () => (await oona.call<RemovedThing[]>('GET', '/api/removed')).body;
  const back = (kind: string, id: string, who = oona) =>
    who.call<{ detail?: string }>('POST', `/api/removed/${id}`, { kind });
  const post = (address: string) =>
    fetch(address, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name: 'Rita', email: 'rita@removed.example' }),
    }).then(({ status }) => status);

  it('a workflow comes back with its versions and its log, paused; its source with the address it had', async () => {
    const flow = await liveFlow(stage, oona, [
      momentOf('a', { lanes: { lead: [], record: [freshStep('note', 'n', { text: 'Came in' })], team: [] } }),
    ]);
    await flow.send({ name: 'Rita', email: 'rita@removed.example' });
    await flow.over('rita@removed.example');
    expect((await oona.call('DELETE', `/api/sources/${flow.source.id}`)).status, 'while it is listened to').to.equal(
      409,
    );
    await oona.call('PUT', `/api/workflows/${flow.id}/live`, { paused: true });
    expect((await oona.call('DELETE', `/api/workflows/${flow.id}`)).status).to.equal(200);
    expect((await oona.call('DELETE', `/api/sources/${flow.source.id}`)).status).to.equal(200);
    await until('its address to end', async () => (await post(flow.source.address)) === 404);
    const listed = (await removed()).filter(({ id }) => id === flow.id || id === flow.source.id);
    expect(listed.map(({ kind, by }) => [kind, by])).to.deep.equal([
      ['source', 'Oona Pell'],
      ['workflow', 'Oona Pell'],
    ]);
    expect((await oona.call('GET', `/api/sources/${flow.source.id}`)).status).to.equal(404);

    expect((await back('source', flow.source.id)).status).to.equal(200);
    expect((await back('workflow', flow.id)).status).to.equal(200);
    expect((await back('workflow', flow.id)).status, 'twice').to.equal(404);
    const source = (await oona.call<SourceView>('GET', `/api/sources/${flow.source.id}`)).body;
    expect([source.address, source.state]).to.deep.equal([flow.source.address, 'paused']);
    expect((await oona.call('PUT', `/api/sources/${flow.source.id}`, { paused: false })).status).to.equal(200);
    expect((await oona.call('PUT', `/api/workflows/${flow.id}/live`, { paused: false })).status).to.equal(200);
    await flow.send({ name: 'Ruth', email: 'ruth@removed.example' });
    await flow.over('ruth@removed.example');
    const { rows } = await stage.db.query('select count(*)::int as n from run where workflow_id = $1', [flow.id]);
    expect(rows[0].n).to.equal(2);
  });

  it('a list comes back with everybody on it, unless another has its name by now', async () => {
    const { id } = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Gone and back' })).body;
    const lead = (await stage.db.query(`select id from lead where is_person limit 1`)).rows[0].id;
    expect((await oona.call('PUT', `/api/lists/${id}/members/${lead}`, { on: true })).status).to.equal(200);
    await oona.call('DELETE', `/api/lists/${id}`);
    const other = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Gone and back' })).body.id;
    const refused = await back('list', id);
    expect([refused.status, refused.body.detail]).to.deep.equal([
      409,
      'There is a list of this name already. Choose another name.',
    ]);
    await oona.call('DELETE', `/api/lists/${other}`);
    expect((await back('list', id)).status).to.equal(200);
    const { rows } = await stage.db.query(
      `select m.state, s.state as source, s.removed_at from list_member m join nurture_list l on l.id = m.list_id join source s on s.id = l.source_id where l.id = $1`,
      [id],
    );
    expect(rows[0]).to.deep.equal({ state: 'active', source: 'live', removed_at: null });
    await oona.call('DELETE', `/api/lists/${id}`);
  });

  it('a connection comes back with its key, for thirty days and by an owner; then the key is destroyed', async () => {
    const made = await oona.call<{ id: string }>('POST', '/api/connections', {
      ...{
        kind: 'company_directory',
        name: 'Second directory',
        address: `${stage.desk.url}/companies`,
        secret: 'a key',
        untried: true,
      },
    });
    expect(made.status, JSON.stringify(made.body)).to.equal(200);
    const { id } = made.body;
    expect((await oona.call('DELETE', `/api/connections/${id}`)).status).to.equal(200);
    await stage.db.query(
      `update membership set role = 'coordinator', whose_leads = 'all' where person_id = (select id from person where email = 'tomas@wrenfield.example')`,
    );
    const tomas = await signedIn(stage, { email: 'tomas@wrenfield.example', password: 'ring-the-bell' });
    expect((await back('connection', id, tomas)).status).to.equal(403);
    expect((await back('connection', id)).status).to.equal(200);
    const secret = async () =>
      (await stage.db.query('select secret from connection where id = $1', [id])).rows[0].secret;
    expect(stage.secrets.open(await secret())).to.equal('a key');
    await oona.call('DELETE', `/api/connections/${id}`);
    await stage.db.query(`update connection set removed_at = now() - interval '31 days' where id = $1`, [id]);
    expect((await removed()).map((thing) => thing.id)).not.to.include(id);
    expect((await back('connection', id)).body.detail).to.match(/over 30 days ago/);
    await housekeeping({ pool: stage.db, now: Date.now }, () => true);
    expect(await secret()).to.equal(null);
  });
});
