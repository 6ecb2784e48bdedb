import { randomUUID } from 'node:crypto';
import { expect } from 'chai';
import type { ConversationView } from '../../src/app/conversations/get-conversation.ts';
import type { ConversationRow } from '../../src/app/conversations/list-conversations.ts';
import { atTheDesk, type Coordinator, liveFlow, textsOn } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { SIGN_IN, type Stage, signedIn, until } from '../stage/stage.ts';

describe('conversations: what people write, and the answers by hand', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
  });
  const writes = (number: string, text: string, app: 'phones' | 'chats' = 'phones') =>
    atTheDesk(stage, `/${app}/write`, { number, text });
  const rows = async (filter = 'open', who = oona) =>
    (await who.call<{ rows: ConversationRow[] }>('GET', `/api/conversations?filter=${filter}`)).body.rows;
  const withText = (text: string, filter = 'open') =>
    until(`the conversation with “${text}”`, async () => (await rows(filter)).find((row) => row.lastText === text));
  const view = async (id: string) => (await oona.call<ConversationView>('GET', `/api/conversations/${id}`)).body;
  const answer = (id: string, input: object) =>
    oona.call<{ detail?: string }>('POST', `/api/conversations/${id}/answers`, { key: randomUUID(), ...input });
  const change = (id: string, patch: object, who = oona) =>
    who.call<{ runs: number; detail?: string }>('PUT', `/api/conversations/${id}`, patch);
  /** Somebody a workflow texts, and texts again an hour later. */
  const nurtured = async (number: string, email: string) => {
    const flow = await liveFlow(
      stage,
      oona,
      [
        momentOf('a', { lanes: { lead: [freshStep('text', 't1', { message: 'First' })], record: [], team: [] } }),
        momentOf('b', {
          at: { kind: 'later', span: { amount: 1, unit: 'hours' } },
          lanes: { lead: [freshStep('text', 't2', { message: 'Second' })], record: [], team: [] },
        }),
      ],
      { endsWhen: [] },
    );
    await flow.send({ name: 'Wren', email, phone: number });
    await flow.waits(email);
    return flow;
  };

  it('a reply stands unread on top; the answer goes out once though sent twice, with who wrote it and that it arrived', async () => {
    const number = '+61491570301';
    await nurtured(number, 'conv1@example.org');
    await writes(number, 'When is the trial lesson?');
    const row = await withText('When is the trial lesson?', 'unread');
    expect(row).to.include({ name: 'Wren', unread: 1, channel: 'text', lastIn: true });
    const open = await view(row.id);
    expect(open.items.map((item) => [item.kind, item.text])).to.deep.equal([
      ['out', 'First'],
      ['in', 'When is the trial lesson?'],
    ]);
    expect(
      (await rows('unread')).some((conversationRow) => conversationRow.id === row.id),
      'looked at, it is read',
    ).to.equal(false);
    const input = { key: randomUUID(), channel: 'text', text: 'On Thursday, {{ lead.first_name }}' };
    const both = await Promise.all([answer(row.id, input), answer(row.id, input)]);
    expect(both.map((one) => one.status)).to.deep.equal([200, 200]);
    await until('the answer on the phone', () => textsOn(stage, number).length > 1);
    expect(textsOn(stage, number)).to.deep.equal(['First', 'On Thursday, Wren']);
    // The answer to that send was lost on the way to the screen; put otherwise and sent again, it is not swallowed.
    expect((await answer(row.id, { ...input, text: 'On Thursday at five' })).status).to.equal(200);
    await until('the other answer', () => textsOn(stage, number).at(-1) === 'On Thursday at five');
    await until('it to be delivered', async () => (await view(row.id)).items.at(-1)?.state === 'delivered');
    expect((await view(row.id)).items.at(-1)).to.include({ kind: 'out', by: 'Oona Pell', text: 'On Thursday at five' });
    expect((await answer(row.id, { channel: 'text', text: 'Hi {{ lead.first_name' })).status).to.equal(422);
    await change(row.id, { done: true });
    expect((await rows()).some((conversationRow) => conversationRow.id === row.id)).to.equal(false);
    await writes(number, 'Thank you');
    await withText('Thank you');
  });

  it('taken over, workflows wait; handed back, they go on; two cannot take over at once', async () => {
    const number = '+61491570302';
    const flow = await nurtured(number, 'conv2@example.org');
    await writes(number, 'I have a question');
    const row = await withText('I have a question');
    const mara = await signedIn(stage, { ...SIGN_IN, email: 'tomas@wrenfield.example' });
    const tries = mara.cookie
      ? await Promise.all([change(row.id, { taken: true }), change(row.id, { taken: true }, mara)])
      : [await change(row.id, { taken: true })];
    expect(tries.filter((one) => one.status === 200 && one.body.runs === 1)).to.have.length(1);
    const run = await flow.run('conv2@example.org');
    await stage.db.query(`update run set due_at = now() - interval '1 minute' where id = $1`, [run.id]);
    await new Promise((resolve) => setTimeout(resolve, 2500));
    expect(textsOn(stage, number)).to.deep.equal(['First']);
    expect(await view(row.id)).to.include({ held: 1, underWay: 1 });
    await change(row.id, { taken: false });
    await until('the workflow to go on', () => textsOn(stage, number).length === 2);
  });

  it('who wants no more is not answered that way, and the other way stays open; chat only while its window is', async () => {
    const number = '+61491570303';
    await nurtured(number, 'conv3@example.org');
    await writes(number, 'STOP');
    const row = await withText('STOP');
    const ways = Object.fromEntries((await view(row.id)).ways.map((way) => [way.channel, way]));
    expect(ways.text).to.include({ can: false, words: 'They want no more texts.' });
    expect(ways.email!.can).to.equal(true);
    expect(ways.chat!.words).to.match(/have not written in chat for 24 hours/);
    const refused = await answer(row.id, { channel: 'text', text: 'Why?' });
    expect(refused.status).to.equal(409);
    expect(refused.body.detail).to.equal('They want no more texts.');
    await writes(number, 'But you may write here ❤️ مرحبا', 'chats');
    await withText('But you may write here ❤️ مرحبا');
    expect((await answer(row.id, { channel: 'chat', text: 'Gladly 🎹' })).status).to.equal(200);
    const chat = () => stage.desk.world.state.chats[number]?.messages.map((message) => message.text) ?? [];
    await until('the answer in chat', () => chat().includes('Gladly 🎹'));
    await stage.db.query(
      `update inbound set received_at = now() - interval '25 hours' where channel = 'chat' and sender = $1`,
      [number],
    );
    expect((await answer(row.id, { channel: 'chat', text: 'Still there?' })).status).to.equal(409);
    expect((await answer(row.id, { channel: 'email', subject: 'Sorry', text: 'No more texts.' })).status).to.equal(200);
    await until('the email', () => stage.desk.world.state.mails.some((mail) => mail.mailbox === 'conv3@example.org'));
  });

  it('STOP, START and HELP are each answered once, in their language, on their channel alone', async () => {
    const number = '+61491570305';
    const flow = await nurtured(number, 'conv5@example.org');
    const { lead_id: leadId } = await flow.run('conv5@example.org');
    const consents = async () =>
      Object.fromEntries(
        (
          await stage.db.query(
            'select distinct on (channel) channel, state from consent where lead_id = $1 order by channel, at desc, id desc',
            [leadId],
          )
        ).rows.map((row) => [row.channel, row.state]),
      );
    const settled = async (count: number) => {
      await until(`${count} texts`, () => textsOn(stage, number).length >= count);
      await new Promise((resolve) => setTimeout(resolve, 700));
      expect(textsOn(stage, number)).to.have.length(count);
      return textsOn(stage, number).at(-1)!;
    };
    await writes(number, 'Help');
    await writes(number, 'HELP!');
    expect(await settled(2)).to.match(/^This is Wrenfield Music School\. Write your question/);
    expect((await flow.run('conv5@example.org')).due_at, 'asking for help is no reply').to.not.equal(null);
    await writes(number, 'Abmelden');
    await writes(number, 'STOP');
    expect(await settled(3)).to.equal(
      'Wrenfield Music School: Sie bekommen hier keine Nachrichten mehr. Mit START bekommen Sie wieder welche.',
    );
    expect(await consents()).to.include({ text: 'withdrawn', email: 'given' });
    await writes(number, 'START');
    await writes(number, 'start');
    expect(await settled(4)).to.match(/messages here again/);
    expect(await consents()).to.include({ text: 'given', email: 'given' });
    await writes(number, 'stop', 'chats');
    await until('chat to be withdrawn', async () => (await consents()).chat === 'withdrawn');
    expect(await consents()).to.include({ text: 'given', email: 'given' });
  });

  it('somebody unknown has a conversation too; notes and kept answers stay; a wrong one is not here', async () => {
    await writes('+61491570399', 'Who are you?');
    const row = await withText('Who are you?');
    expect(row).to.include({ leadId: null, name: '+61491570399' });
    expect((await answer(row.id, { channel: 'text', text: 'Hi' })).status).to.equal(409);
    const known = await withText('Thank you');
    await oona.call('POST', `/api/conversations/${known.id}/notes`, { text: 'Prefers mornings' });
    await oona.call('POST', '/api/canned-answers', { name: 'Prices', text: 'Hi {{ lead.first_name }}, 18 a lesson.' });
    await oona.call('POST', '/api/canned-answers', { name: 'Prices', text: '19 a lesson.' });
    const open = await view(known.id);
    expect(open.items.at(-1)).to.include({ kind: 'note', text: 'Prefers mornings', by: 'Oona Pell' });
    expect(open.answers.map((answer) => answer.text)).to.deep.equal(['19 a lesson.']);
    await change(known.id, { typing: true });
    expect((await view(known.id)).typing, 'one’s own typing is no news').to.equal(null);
    expect((await oona.call('GET', '/api/conversations/nonsense')).status).to.equal(404);
    expect((await change(known.id, { assigneeId: randomUUID() })).status).to.equal(404);
  });
});
