import { expect } from 'chai';
import { v7 as uuidv7 } from 'uuid';
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

  it('a sheet with its rows, a tag with everybody who had it, a pipeline with its deals, whatever else with all that is in it', async () => {
    const made = async (path: string, body: unknown) => {
      const answer = await oona.call<{ id: string; tabs?: { id: string }[]; stages?: { id: string }[] }>(
        'POST',
        path,
        body,
      );
      expect(answer.status, JSON.stringify(answer.body)).to.equal(200);
      return answer.body;
    };
    const lead = (await stage.db.query(`select id from lead where is_person limit 1`)).rows[0].id;
    const sheet = await made('/api/sheets', { name: 'To go' });
    const tab = (
      await oona.call<{ tabs: { id: string; columns: { id: string }[] }[] }>('GET', `/api/sheets/${sheet.id}`)
    ).body.tabs[0]!;
    await oona.call('POST', `/api/tabs/${tab.id}/rows`, {
      insert: [{ id: uuidv7(), after: null, cells: { [tab.columns[0]!.id]: 'Kept' } }],
    });
    const tag = await made('/api/tags', { name: 'To go' });
    await stage.db.query('insert into lead_tag (lead_id, tag_id, at) values ($1, $2, now())', [lead, tag.id]);
    const pipeline = await made('/api/pipelines', { name: 'To go' });
    const deal = await oona.call<{ id: string }>('POST', '/api/deals', {
      pipelineId: pipeline.id,
      leadId: lead,
      title: 'Six lessons',
      value: '120',
    });
    const segment = await made('/api/segments', {
      name: 'To go',
      condition: { field: 'lead.first_name', test: 'is', value: 'Ada' },
    });
    const form = await made('/api/chat-forms', { name: 'To go' });
    const template = await made('/api/chat-templates', { name: 'To go' });
    const email = await made('/api/email-templates', {
      name: 'To go',
      layout: { as: 'blocks', blocks: [{ id: 'a', kind: 'text', text: 'Hello', align: 'left' }] },
    });
    const answer = await made('/api/canned-answers', { name: 'To go', text: 'Hello' });
    const things = [
      ['sheet', sheet.id, `/api/sheets/${sheet.id}`, `/api/sheets/${sheet.id}`],
      ['tag', tag.id, `/api/tags/${tag.id}`, null],
      ['pipeline', pipeline.id, `/api/pipelines/${pipeline.id}?agreed=1`, `/api/pipelines/${pipeline.id}`],
      ['segment', segment.id, `/api/segments/${segment.id}`, null],
      ['chat_form', form.id, `/api/chat-forms/${form.id}`, `/api/chat-forms/${form.id}`],
      ['chat_template', template.id, `/api/chat-templates/${template.id}`, `/api/chat-templates/${template.id}`],
      ['email_template', email.id, `/api/email-templates/${email.id}`, `/api/email-templates/${email.id}`],
      ['canned_answer', answer.id, `/api/canned-answers/${answer.id}`, null],
    ] as const;
    const seen = async () => {
      const [tags, segments, found] = await Promise.all([
        oona.call('GET', '/api/tags'),
        oona.call('GET', '/api/segments'),
        oona.call('GET', '/api/find?q=to%20go'),
      ]);
      const pages = await Promise.all(
        things.map(async ([, , , get]) => get && (await oona.call(get ? 'GET' : 'GET', get)).status),
      );
      return { words: JSON.stringify([tags.body, segments.body, found.body]), pages };
    };
    const before = await seen();
    expect(before.pages.filter((status) => status === 200).length).to.equal(5);
    // A pipeline with open deals is asked about first.
    expect((await oona.call<{ detail: string }>('DELETE', `/api/pipelines/${pipeline.id}`)).body.detail).to.match(
      /One deal is still open/,
    );
    for (const [kind, , remove] of things) expect((await oona.call('DELETE', remove)).status, kind).to.equal(200);
    const gone = await seen();
    expect(gone.words).to.not.include('To go');
    expect(gone.pages.filter((status) => status === 404).length).to.equal(5);
    expect(
      (await removed())
        .filter(({ name }) => name === 'To go')
        .map(({ kind }) => kind)
        .sort(),
    ).to.deep.equal(things.map(([kind]) => kind).sort());
    // Its name is free meanwhile, and taken when it would come back.
    const other = await made('/api/tags', { name: 'To go' });
    expect((await back('tag', tag.id)).status).to.equal(409);
    expect((await oona.call('DELETE', `/api/tags/${other.id}`)).status).to.equal(200);
    for (const [kind, id] of things) expect((await back(kind, id)).status, kind).to.equal(200);
    expect((await seen()).pages).to.deep.equal(before.pages);
    expect((await stage.db.query('select from lead_tag where tag_id = $1', [tag.id])).rowCount).to.equal(1);
    const board = await oona.call<{ deals: { id: string }[] }>('GET', `/api/pipelines/${pipeline.id}`);
    expect(board.body.deals.map(({ id }) => id)).to.deep.equal([deal.body.id]);
    expect(JSON.stringify((await oona.call('GET', `/api/tabs/${tab.id}/rows`)).body)).to.include('Kept');
    // After thirty days no row of it is left, but for a pipeline, whose deals are counted.
    for (const [kind, , remove] of things) expect((await oona.call('DELETE', remove)).status, kind).to.equal(200);
    for (const table of [
      'sheet',
      'tag',
      'segment',
      'chat_form',
      'chat_template',
      'email_template',
      'canned_answer',
      'pipeline',
    ])
      await stage.db.query(`update ${table} set removed_at = now() - interval '31 days' where name = 'To go'`);
    await housekeeping({ pool: stage.db, secrets: stage.secrets, now: Date.now }, () => true);
    for (const table of ['sheet', 'tag', 'segment', 'chat_form', 'chat_template', 'email_template', 'canned_answer'])
      expect((await stage.db.query(`select from ${table} where name = 'To go'`)).rowCount, table).to.equal(0);
    expect((await stage.db.query('select from deal where pipeline_id = $1', [pipeline.id])).rowCount).to.equal(1);
  });

  it('is called anew and put into a folder, unless a colleague has just done so or the name is taken', async () => {
    const one = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Called one' })).body.id;
    const two = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Called two' })).body.id;
    const name = (id: string, to: string, was: string, folder = '') =>
      oona.call<{ detail?: string } | null>('PUT', `/api/named/${id}`, {
        kind: 'list',
        name: to,
        folder,
        was: { name: was, folder: '' },
      });
    expect((await name(one, 'Called anew', 'Called one', 'Spring')).status).to.equal(200);
    expect((await name(one, 'Called again', 'Called one')).status).to.equal(409);
    expect((await name(two, 'Called anew', 'Called two')).body!.detail).to.match(
      /There is a list called “Called anew” already/,
    );
    const { rows } = await stage.db.query(
      'select l.name, l.folder, s.name as source from nurture_list l join source s on s.id = l.source_id where l.id = $1',
      [one],
    );
    expect(rows).to.deep.equal([{ name: 'Called anew', folder: 'Spring', source: 'Called anew' }]);
    for (const id of [one, two]) await oona.call('DELETE', `/api/lists/${id}`);
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
    await housekeeping({ pool: stage.db, secrets: stage.secrets, now: Date.now }, () => true);
    expect(await secret()).to.equal(null);
  });
});
