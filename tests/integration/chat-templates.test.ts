import { expect } from 'chai';
import type { ChatTemplateView } from '../../src/app/messages/chat-templates.ts';
import { atTheDesk, type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, sheetOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

const CONTENT = {
  kind: 'service',
  heading: 'Your trial lesson',
  text: 'Hi {{ lead.first_name }}, shall we find a time?',
  closing: 'Wrenfield Music School',
  buttons: ['Yes please', 'Not now'],
  samples: { 'lead.first_name': 'Robin' },
};

describe('chat templates: approved beforehand, and sent to begin a conversation', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
  });
  const view = async (id: string) => (await oona.call<ChatTemplateView>('GET', `/api/chat-templates/${id}`)).body;
  const made = async (name: string, content: object = CONTENT) => {
    const { id } = (await oona.call<{ id: string }>('POST', '/api/chat-templates', { name })).body;
    expect((await oona.call('PUT', `/api/chat-templates/${id}`, content)).status).to.equal(200);
    return id;
  };
  const review = (id: string) => oona.call<{ detail?: string }>('POST', `/api/chat-templates/${id}/review`);
  const decided = async (id: string) => {
    expect((await review(id)).status).to.equal(200);
    return until('the review', async () => {
      const now = await view(id);
      return now.state === 'waiting' ? null : now;
    });
  };
  const atNetwork = (name: string) =>
    stage.desk.world.state.chatTemplates.findLast((chatTemplate) => chatTemplate.name.startsWith(name))!;
  const chat = (number: string) => stage.desk.world.state.chats[number]?.messages ?? [];

  it('goes out for review, comes back approved or refused with a reason, and a change is a new version', async () => {
    const id = await made('Hello');
    const approved = await decided(id);
    expect(approved).to.include({ state: 'approved', version: 1, sentVersion: 1 });
    expect((await review(id)).status, 'what is approved is not sent again').to.equal(409);
    const sells = { ...CONTENT, text: 'Hi {{ lead.first_name }}, a discount for you today.' };
    await oona.call('PUT', `/api/chat-templates/${id}`, sells);
    expect(await view(id)).to.include({ state: 'draft', version: 2, sentVersion: 1 });
    const refused = await decided(id);
    expect(refused).to.include({ state: 'refused', sentVersion: 1 });
    expect(refused.reason).to.match(/promotion/);
    await oona.call('PUT', `/api/chat-templates/${id}`, { ...sells, kind: 'promotion' });
    expect(await decided(id)).to.include({ state: 'approved', version: 2, sentVersion: 2 });
    const bare = await made('Bare', { ...CONTENT, samples: {} });
    expect((await review(bare)).body.detail).to.match(/sample for the field lead\.first_name/);
    const double = await oona.call('POST', '/api/chat-templates', { name: 'Hello' });
    expect(double.status).to.equal(422);
  });

  it('a word of the network that was lost is asked for; a withdrawal comes by itself', async () => {
    const id = await made('Lost word');
    const account = stage.desk.world.state.chatAccount!;
    stage.desk.world.state.chatAccount = null;
    expect((await review(id)).status).to.equal(200);
    await until('the network to decide', () => atNetwork('Lost word')?.state === 'approved');
    expect(await view(id)).to.include({ state: 'approved' });
    // With nobody looking, the worker asks by itself once a minute.
    const unseen = await made('Lost unseen');
    expect((await review(unseen)).status).to.equal(200);
    await until('the network to decide', () => atNetwork('Lost unseen')?.state === 'approved');
    await stage.db.query(`select graphile_worker.add_job('reviews')`);
    await until('the worker to have asked', async () => {
      const { rows } = await stage.db.query('select state from chat_template_version where template_id = $1', [unseen]);
      return rows[0].state === 'approved';
    });
    stage.desk.world.state.chatAccount = account;
    await atTheDesk(stage, `/chat-templates/${atNetwork('Lost word').id}/withdrawn`, { reason: 'Complaints' });
    await until('the withdrawal', async () => (await view(id)).state === 'withdrawn');
    expect(await view(id)).to.include({ reason: 'Complaints', sentVersion: null });
  });

  it('changed in the instant it is sent off, what the network has is what we think it has; and no change is lost', async () => {
    const words = (of: string, n: number) => ({ ...CONTENT, text: `Hi {{ lead.first_name }}, ${of} ${n}. Shall we?` });
    for (let n = 0; n < 5; n++) {
      const id = await made(`Race ${n}`, words('before', n));
      const [sent, first, second] = await Promise.all([
        review(id),
        oona.call('PUT', `/api/chat-templates/${id}`, words('after', n)),
        oona.call('PUT', `/api/chat-templates/${id}`, words('at last', n)),
      ]);
      expect([first.status, second.status]).to.deep.equal([200, 200]);
      expect(sent.status).to.be.oneOf([200, 409]);
      const { rows } = await stage.db.query(
        'select remote_id, content, number from chat_template_version where template_id = $1 order by number',
        [id],
      );
      for (const row of rows.filter((row) => row.remote_id !== null))
        expect(
          stage.desk.world.state.chatTemplates.find((chatTemplate) => chatTemplate.id === row.remote_id)!.text,
        ).to.equal(row.content.text);
      expect(rows.at(-1).content.text).to.match(/after|at last/);
    }
  });

  it('begins in chat with somebody who never wrote; a tapped button is their reply; unapproved, it cannot go live', async () => {
    const draft = await made('Not yet');
    const refused = await oona.call<{ id: string }>('POST', '/api/workflows', { name: 'Too early', folder: '' });
    const sheet = sheetOf([momentOf('a', toTheLead(freshStep('chat-template', 't', { template: draft })))], {}, []);
    await oona.call('PUT', `/api/workflows/${refused.body.id}`, { revision: 0, draft: sheet });
    const live = await oona.call<{ detail: string }>('POST', `/api/workflows/${refused.body.id}/live`, {
      moveOn: false,
    });
    expect(live.status).to.be.at.least(400);
    const id = await made('Begin');
    await decided(id);
    const flow = await liveFlow(stage, oona, [
      momentOf('a', toTheLead(freshStep('chat-template', 't', { template: id }))),
      momentOf('b', {
        at: {
          ...{ kind: 'event', event: 'reply', words: '', sources: [], tag: '', list: '', stage: '', step: '' },
          within: { amount: 9, unit: 'hours' },
        } as never,
        ...toTheLead(freshStep('chat', 'c', { message: 'Wonderful' })),
      }),
    ]);
    const number = '+61491570401';
    await flow.send({ name: 'Tess', email: 'begin@example.org', phone: number });
    await flow.waits('begin@example.org');
    expect(chat(number)[0]).to.deep.include({
      text: 'Your trial lesson\n\nHi Tess, shall we find a time?\n\nWrenfield Music School',
      buttons: ['Yes please', 'Not now'],
    });
    await atTheDesk(stage, '/chats/write', { number, text: 'Yes please' });
    await flow.over('begin@example.org');
    expect(chat(number).map((phoneMessage) => phoneMessage.text)).to.include('Wonderful');
    const gone = await oona.call<{ detail: string }>('DELETE', `/api/chat-templates/${id}`);
    expect(gone.status).to.equal(409);
    // Withdrawn between plan and send, the network refuses it, and somebody is told.
    stage.desk.world.state.chatTemplates.find((chatTemplate) => chatTemplate.id === atNetwork('Begin').id)!.state =
      'withdrawn';
    await flow.send({ name: 'Late', email: 'late-chat@example.org', phone: '+61491570402' });
    await until('the refusal', async () => {
      const { rows } = await stage.db.query(
        `select s.attempts from step_result s join run r on r.id = s.run_id join lead l on l.id = r.lead_id where l.email = 'late-chat@example.org' and s.step_id = 't'`,
      );
      return rows[0]?.attempts.at(-1)?.outcome === 'refused';
    });
    expect(chat('+61491570402')).to.have.length(0);
  });

  it('a free message whose window is shut is followed by the template', async () => {
    const id = await made('Instead');
    await decided(id);
    const flow = await liveFlow(stage, oona, [
      momentOf(
        'a',
        toTheLead(
          freshStep(
            'chat',
            'c',
            { message: 'Are you there?', whenShut: 'template', template: id },
            { ifFails: { tryForMinutes: 10, after: 'other_channel' } },
          ),
        ),
      ),
    ]);
    const number = '+61491570403';
    await flow.send({ name: 'Ivo', email: 'instead@example.org', phone: number });
    await flow.over('instead@example.org');
    expect(chat(number).map((phoneMessage) => phoneMessage.text)).to.deep.equal([
      'Your trial lesson\n\nHi Ivo, shall we find a time?\n\nWrenfield Music School',
    ]);
  });
});
