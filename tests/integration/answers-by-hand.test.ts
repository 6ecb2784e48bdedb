import { randomUUID } from 'node:crypto';
import { expect } from 'chai';
import type { ConversationView } from '../../src/app/conversations/get-conversation.ts';
import type { ConversationRow } from '../../src/app/conversations/list-conversations.ts';
import { newChatForm } from '../../src/core/form/chat-form.ts';
import { atTheDesk, type Coordinator, liveFlow, textsOn } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

describe('answers by hand in chat: words and forms while the window is open, templates when it is shut', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
  });
  const chat = (number: string) => stage.desk.world.state.chats[number]?.messages ?? [];
  const ours = (number: string) => chat(number).filter((phoneMessage) => phoneMessage.direction === 'to_phone');
  const write = (number: string, text: string) => atTheDesk(stage, '/chats/write', { number, text });
  const view = async (id: string) => (await oona.call<ConversationView>('GET', `/api/conversations/${id}`)).body;
  const answer = (id: string, input: object) =>
    oona.call<{ detail?: string }>('POST', `/api/conversations/${id}/answers`, {
      ...{ key: randomUUID(), channel: 'chat' },
      ...input,
    });
  /** A lead, and the conversation that begins when they write. */
  const conversationWith = async (number: string, email: string, text = 'Good morning') => {
    const flow = await liveFlow(stage, oona, [momentOf('a', toTheLead(freshStep('text', 't', { message: 'First' })))]);
    await flow.send({ name: 'Wren', email, phone: number });
    await until('the first text', () => textsOn(stage, number).length === 1);
    await write(number, text);
    return until('the conversation', async () => {
      const { rows } = (
        await oona.call<{ rows: ConversationRow[] }>(
          'GET',
          `/api/conversations?filter=open&search=${encodeURIComponent(email)}`,
        )
      ).body;
      return rows.find((row) => row.lastText === text);
    });
  };
  const dayLater = (number: string) =>
    stage.db.query(
      `update inbound set received_at = now() - interval '25 hours' where channel = 'chat' and sender = $1`,
      [number],
    );
  const template = async (name: string, content: object) => {
    const { id } = (await oona.call<{ id: string }>('POST', '/api/chat-templates', { name })).body;
    const blank = { heading: '', closing: '', buttons: [], samples: { 'lead.first_name': 'Robin' } };
    await oona.call('PUT', `/api/chat-templates/${id}`, { ...blank, ...content });
    await oona.call('POST', `/api/chat-templates/${id}/review`);
    await until('the review', async () => {
      const { body } = await oona.call<{ state: string }>('GET', `/api/chat-templates/${id}`);
      return body.state === 'approved';
    });
    return id;
  };
  const ready = async (conversation: string, id: string) =>
    (await view(conversation)).ready.find((readyAnswer) => readyAnswer.id === id)!;

  it('a form goes along with words, brings its token back, and fills in the lead; nothing else takes a form', async () => {
    const number = '+61491570801';
    const { id: form } = (await oona.call<{ id: string }>('POST', '/api/chat-forms', { name: 'By hand' })).body;
    await oona.call('PUT', `/api/chat-forms/${form}`, newChatForm('By hand', 'Wrenfield'));
    const row = await conversationWith(number, 'hand1@example.org');
    expect(await ready(row.id, form), 'not live, it cannot be sent').to.equal(undefined);
    expect((await answer(row.id, { text: 'Please fill this in', form })).body.detail).to.match(/is not live/);
    await oona.call('POST', `/api/chat-forms/${form}/live`);
    expect(await ready(row.id, form)).to.include({ kind: 'form', name: 'By hand', cannot: '' });
    expect((await answer(row.id, { channel: 'text', text: 'Please', form })).status).to.equal(422);
    expect((await answer(row.id, { text: ' ', form })).status).to.equal(422);
    const input = { key: randomUUID(), text: 'Please fill this in, {{ lead.first_name }}', form };
    const both = await Promise.all([answer(row.id, input), answer(row.id, input)]);
    expect(both.map((one) => one.status)).to.deep.equal([200, 200]);
    const sent = await until('the form on the phone', () => ours(number).find((phoneMessage) => phoneMessage.form));
    expect(sent.text).to.equal('Please fill this in, Wren');
    expect(ours(number).filter((phoneMessage) => phoneMessage.form)).to.have.length(1);
    await atTheDesk(stage, '/chats/form', {
      ...{ number, form: sent.form!.id, token: sent.form!.token },
      answers: { first_name: 'Wrenna', last_name: 'Lark', email: 'hand1@example.org', consent: 'true' },
    });
    await until('the name', async () => (await view(row.id)).name === 'Wrenna Lark');
    expect((await view(row.id)).ways.find((way) => way.channel === 'chat')).to.include({ can: true, words: '' });
  });

  it('a day later only an approved template goes, shown as they will read it; it is seen in the conversation', async () => {
    const number = '+61491570802';
    const [back, waiting] = [
      await template('Back to you', {
        ...{ kind: 'service', heading: 'Your question', buttons: ['Call me'] },
        text: 'Hi {{ lead.first_name }}, we have found an answer.',
      }),
      (await oona.call<{ id: string }>('POST', '/api/chat-templates', { name: 'Never sent for review' })).body.id,
    ];
    const row = await conversationWith(number, 'hand2@example.org');
    await dayLater(number);
    const shut = (await view(row.id)).ways.find((way) => way.channel === 'chat')!;
    expect(shut).to.include({ can: false, byTemplate: true });
    expect((await answer(row.id, { text: 'Are you there?' })).status).to.equal(409);
    expect(await ready(row.id, waiting)).to.equal(undefined);
    expect((await answer(row.id, { template: waiting })).body.detail).to.match(/is not approved/);
    const words = 'Your question\n\nHi Wren, we have found an answer.';
    expect(await ready(row.id, back)).to.deep.include({ text: words, offers: ['Call me'], cannot: '' });
    expect((await answer(row.id, { template: back })).status).to.equal(200);
    const sent = await until('the template on the phone', () =>
      ours(number).find((phoneMessage) => phoneMessage.text === words),
    );
    expect(sent.buttons).to.deep.equal(['Call me']);
    await until('its delivery', async () => (await view(row.id)).items.at(-1)?.state === 'delivered');
    expect((await view(row.id)).items.at(-1)).to.deep.include({ text: words, offers: ['Call me'], by: 'Oona Pell' });
  });

  it('what wants to sell goes by hand too only to whoever agreed to that; after STOP nothing goes', async () => {
    const number = '+61491570803';
    const offer = await template('Autumn offer', {
      ...{ kind: 'promotion', text: 'Hi {{ lead.first_name }}, a discount for you in autumn.' },
    });
    const row = await conversationWith(number, 'hand3@example.org');
    await dayLater(number);
    expect((await ready(row.id, offer)).cannot).to.match(/no consent to news and offers by chat/);
    const refused = await answer(row.id, { template: offer });
    expect([refused.status, refused.body.detail]).to.deep.equal([
      422,
      'Stopped: no consent to news and offers by chat message.',
    ]);
    const leadId = (await view(row.id)).leadId!;
    await oona.call('POST', `/api/leads/${leadId}/consents`, {
      ...{ channel: 'chat', purpose: 'marketing', state: 'given', how: 'On the phone' },
    });
    expect((await ready(row.id, offer)).cannot).to.equal('');
    await write(number, 'STOP');
    await until('the STOP', async () => (await view(row.id)).items.some((item) => item.text === 'STOP'));
    await dayLater(number);
    await until('the wish', async () => !(await view(row.id)).ways.find((way) => way.channel === 'chat')!.byTemplate);
    const before = ours(number).length;
    expect((await answer(row.id, { template: offer })).status).to.equal(409);
    expect(ours(number)).to.have.length(before);
  });

  it('a way out that is written by hand leads out, and an answer to one person carries no button to leave', async () => {
    const number = '+61491570804';
    const row = await conversationWith(number, 'hand4@example.org');
    const text = 'If you want no more: {{ lead.leave_link }}';
    expect((await answer(row.id, { channel: 'email', subject: 'As you asked', text })).status).to.equal(200);
    const mail = await until('the email', () =>
      stage.desk.world.state.mails.find((mail) => mail.mailbox === 'hand4@example.org'),
    );
    const [, link] = /no more: (\S+)/.exec(mail.text)!;
    expect(link).to.match(new RegExp(`^${stage.url}/leave/`));
    expect((await fetch(link!)).status).to.equal(200);
    expect(JSON.stringify(mail)).not.to.match(/list-unsubscribe/i);
  });
});
