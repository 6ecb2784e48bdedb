import { expect } from 'chai';
import type { Board } from '../../src/app/deals/deals.ts';
import type { LeadView } from '../../src/app/leads/get-lead.ts';
import type { MergePreview } from '../../src/app/leads/lead-care.ts';
import { type Coordinator, liveFlow, textsOn } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

describe('deals moved by hand; leads made one, parted, given out and erased', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
  });
  const one = async <T = Record<string, unknown>>(sql: string, values: unknown[] = []) =>
    (await stage.db.query(sql, values)).rows[0] as T;
  const lead = async (id: string) => (await oona.call<LeadView>('GET', `/api/leads/${id}`)).body;

  it('a deal opened by hand stands in the first stage, once per lead, with who opened it', async () => {
    const made = (
      await oona.call<{ id: string; stages: { id: string }[] }>('POST', '/api/pipelines', { name: 'By hand' })
    ).body;
    const note = freshStep('note', 'n', { text: 'Rang in' });
    const flow = await liveFlow(stage, oona, [momentOf('a', { lanes: { lead: [], record: [note], team: [] } })]);
    await flow.send({ name: 'Hand', email: 'hand@example.org' });
    const { lead_id: leadId } = await flow.over('hand@example.org');
    const open = (more: object = {}) =>
      oona.call<{ detail?: string }>('POST', '/api/deals', { leadId, pipelineId: made.id, value: '1.200,50', ...more });
    const both = await Promise.all([open(), open()]);
    expect(both.map((one) => one.status).sort()).to.deep.equal([200, 409]);
    expect((await open({ value: 'much' })).status).to.equal(422);
    const { deals } = (await oona.call<Board>('GET', `/api/pipelines/${made.id}`)).body;
    expect(deals).to.have.length(1);
    expect(deals[0]).to.include({ value: '1200.50', title: 'Hand', movedBy: 'Oona Pell', stageId: made.stages[0]!.id });
    expect((await lead(leadId)).events.map((event) => 'title' in event && event.title)).to.include('Deal: New enquiry');
  });

  it('a deal dragged to another stage wakes what waits for it; a second open deal is refused', async () => {
    const made = (
      await oona.call<{ id: string; stages: { id: string }[] }>('POST', '/api/pipelines', { name: 'Lessons' })
    ).body;
    const [fresh, talks, , won] = made.stages.map((stageOf) => stageOf.id) as [string, string, string, string];
    const flow = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: { lead: [], record: [freshStep('deal', 'd', { stage: fresh, value: '480' })], team: [] },
      }),
      momentOf('b', {
        at: {
          kind: 'event',
          event: 'stage',
          words: '',
          sources: [],
          tag: '',
          list: '',
          stage: talks,
          step: '',
          within: { amount: 9, unit: 'hours' },
        },
        lanes: { lead: [freshStep('text', 't', { message: 'Let us talk' })], record: [], team: [] },
      }),
    ]);
    await flow.send({ name: 'Ada', email: 'deal@example.org', phone: '+61491570240' });
    await flow.waits('deal@example.org');
    const board = async () => (await oona.call<Board>('GET', `/api/pipelines/${made.id}`)).body;
    const [deal] = (await board()).deals;
    expect(deal).to.include({ stageId: fresh, value: '480.00', lead: 'Ada' });
    expect(
      (await oona.call('PUT', `/api/deals/${deal!.id}`, { stageId: talks, nextStep: 'Ring', value: '520,50' })).status,
    ).to.equal(200);
    await flow.over('deal@example.org');
    expect(textsOn(stage, '+61491570240')).to.deep.equal(['Let us talk']);
    expect((await board()).deals[0]).to.include({
      stageId: talks,
      nextStep: 'Ring',
      value: '520.50',
      movedBy: 'Oona Pell',
    });
    await oona.call('PUT', `/api/deals/${deal!.id}`, { stageId: won });
    await stage.db.query(
      `insert into deal (id, business_id, lead_id, pipeline_id, stage_id, title, created_at, moved_at) select gen_random_uuid(), business_id, lead_id, pipeline_id, $2, 'Another', now(), now() from deal where id = $1`,
      [deal!.id, fresh],
    );
    expect((await oona.call('PUT', `/api/deals/${deal!.id}`, { stageId: fresh })).status).to.equal(409);
    expect((await oona.call('PUT', `/api/deals/${deal!.id}`, { value: 'much' })).status).to.equal(422);
  });

  it('two leads become one with all that happened, and two again, as they were', async () => {
    const tag = (await oona.call<{ id: string }>('POST', '/api/tags', { name: 'Both have it' })).body.id;
    const list = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Merging' })).body.id;
    const flow = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: {
          lead: [freshStep('text', 't', { message: 'Hi {{ lead.first_name }}' })],
          record: [
            freshStep('tag', 'g', { action: 'add', tag }),
            freshStep('note', 'n', { text: 'From {{ lead.first_name }}' }),
            freshStep('list', 'l', { action: 'add', list }),
          ],
          team: [],
        },
      }),
    ]);
    await flow.send({ name: 'Nadia', email: 'nadia.one@example.org', wish: 'Piano' });
    await flow.send({ name: 'N.', email: 'nadia.two@example.org', phone: '+61491570241', room: '5' });
    const [kept, gone] = [await flow.over('nadia.one@example.org'), await flow.over('nadia.two@example.org')];
    const before = [await lead(kept.lead_id), await lead(gone.lead_id)] as const;
    const { body: preview } = await oona.call<MergePreview>(
      'GET',
      `/api/leads/${kept.lead_id}/merge?with=${gone.lead_id}`,
    );
    expect(preview.moves).to.include('2 arrivals').and.include('1 note').and.include('1 message sent');
    expect(preview.fills).to.deep.equal(['+61491570241']);
    expect((await oona.call('POST', `/api/leads/${kept.lead_id}/merge`, { with: gone.lead_id })).status).to.equal(200);
    const whole = await lead(kept.lead_id);
    expect([whole.first_name, whole.phone, whole.tags, whole.lists]).to.deep.equal([
      'Nadia',
      '+61491570241',
      ['Both have it'],
      [{ name: 'Merging', on: true, fields: [] }],
    ]);
    expect(whole.events.filter((event) => event.kind === 'arrival')).to.have.length(2);
    expect(whole.answers.map((answer) => answer.value)).to.have.members(['Piano', '5']);
    // The other's email is one of theirs now: who comes in by it is the same person.
    await flow.send({ name: 'Nadia', email: 'nadia.two@example.org', wish: 'Cello' });
    await until(
      'the new arrival',
      async () => (await lead(kept.lead_id)).events.filter((event) => event.kind === 'arrival').length === 3,
    );
    expect((await oona.call('POST', `/api/merges/${whole.merges[0]!.id}/undo`)).status).to.equal(200);
    const after = [await lead(kept.lead_id), await lead(gone.lead_id)] as const;
    expect([after[0].phone, after[1].email, after[1].phone]).to.deep.equal([
      '',
      'nadia.two@example.org',
      '+61491570241',
    ]);
    expect(after[1].events.map((event) => event.kind).sort()).to.deep.equal(
      before[1].events.map((event) => event.kind).sort(),
    );
    expect(after[1].tags).to.deep.equal(before[1].tags);
    expect((await oona.call('POST', `/api/merges/${whole.merges[0]!.id}/undo`)).status).to.equal(404);
  });

  it('gives out everything known of a person, and erases it: only the proof stays', async () => {
    const flow = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: {
          lead: [
            freshStep('text', 't', { message: 'Hi https://wrenfield.example' }),
            freshStep('ask', 'q', { message: 'Ok?', kind: 'yes_no', saveAs: 'answers.ok' }),
          ],
          record: [freshStep('note', 'n', { text: 'x' })],
          team: [],
        },
      }),
    ]);
    await flow.send({ name: 'Gone', email: 'erase.me@example.org', phone: '+61491570242' });
    const { lead_id: id } = await flow.over('erase.me@example.org');
    const all = (await (
      await fetch(`${stage.url}/api/leads/${id}/export`, { headers: { cookie: oona.cookie } })
    ).json()) as Record<string, unknown[]>;
    expect(JSON.stringify(all)).to.include('erase.me@example.org').and.include('Hi http');
    expect(all.delivery).to.have.length(2);
    expect((await oona.call('POST', `/api/leads/${id}/erase`, { name: 'Somebody' })).status).to.equal(422);
    expect((await oona.call('POST', `/api/leads/${id}/erase`, { name: ' gone ' })).status).to.equal(200);
    expect((await oona.call('GET', `/api/leads/${id}`)).status).to.equal(404);
    const { rows: tables } = await stage.db.query<{ name: string }>(
      `select table_name as name from information_schema.columns where column_name = 'lead_id' and table_schema = 'public'`,
    );
    for (const { name } of tables)
      expect(
        (await one<{ n: number }>(`select count(*)::int as n from ${name} where lead_id = $1`, [id])).n,
        name,
      ).to.equal(0);
    const { rows: texts } = await stage.db.query<{ name: string }>(
      `select table_name as name from information_schema.tables where table_schema = 'public' and table_type = 'BASE TABLE'`,
    );
    for (const { name } of texts)
      expect(
        (
          await one<{ n: number }>(
            `select count(*)::int as n from "${name}" x where strpos(x::text, 'erase.me@example.org') > 0`,
          )
        ).n,
        name,
      ).to.equal(0);
    const proof = await one<{ hashes: string[]; consents: { channel: string; state: string }[] }>(
      'select hashes, consents from erasure order by at desc limit 1',
    );
    expect(proof.hashes).to.have.length(2);
    expect(proof.consents.map((each) => `${each.channel} ${each.state}`)).to.include('email given');
  });
});
