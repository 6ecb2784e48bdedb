import { expect } from 'chai';
import type { ChatFormView } from '../../src/app/messages/chat-forms.ts';
import { newChatForm } from '../../src/core/form/chat-form.ts';
import { atTheDesk, type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

const filledIn = (id: string) =>
  ({
    ...{ kind: 'event', event: 'form', words: '', sources: [], tag: '', list: '', stage: '', step: id },
    within: { amount: 9, unit: 'hours' },
  }) as never;

describe('forms in chat: sent with a token, filled in on the phone, and back at the workflow that asked', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
  });
  const rows = async (sql: string, values: unknown[] = []) => (await stage.db.query(sql, values)).rows;
  const chat = (number: string) => stage.desk.world.state.chats[number]?.messages ?? [];
  const said = (number: string) => chat(number).map((phoneMessage) => phoneMessage.text);
  const write = (number: string, text: string, more: object = {}) =>
    atTheDesk(stage, '/chats/write', { number, text, ...more });
  const fill = (number: string, form: { id: string; token: string }, answers: object) =>
    atTheDesk(stage, '/chats/form', { number, form: form.id, token: form.token, answers });
  const formOn = (number: string) =>
    until(`a form on ${number}`, () => chat(number).findLast((phoneMessage) => phoneMessage.form)?.form);
  const made = async (name: string, fields: { key: string; label: string; kind: string }[] = []) => {
    const { id } = (await oona.call<{ id: string }>('POST', '/api/chat-forms', { name })).body;
    const form = newChatForm(name, 'Wrenfield');
    const extra = fields.map((field) => ({ required: false, help: '', choices: ['Piano', 'Cello'], ...field }));
    form.screens = [form.screens[0]!, ...(extra.length > 0 ? [{ title: 'More', fields: extra as never[] }] : [])];
    const saved = await oona.call('PUT', `/api/chat-forms/${id}`, form);
    expect(saved.status).to.equal(200);
    expect((await oona.call('POST', `/api/chat-forms/${id}/live`)).status).to.equal(200);
    return { id, form };
  };
  const lead = async (phone: string) => (await rows('select * from lead where phone = $1', [phone]))[0];
  const ANSWERS = { first_name: 'Noor', last_name: 'Belkadi', email: 'noor@example.org', consent: 'true' };

  it('versions: what is live never changes, a changed wording is a version of its own, a form people filled in stays', async () => {
    const { id: untouched } = (await oona.call<{ id: string }>('POST', '/api/chat-forms', { name: 'As it is' })).body;
    const live = (await oona.call<ChatFormView>('POST', `/api/chat-forms/${untouched}/live`)).body;
    expect(
      live.content.consent.wordings.map((wording) => wording.version),
      'put live as it was made',
    ).to.deep.equal([1]);
    const { id, form } = await made('Versions');
    const view = async () => (await oona.call<ChatFormView>('GET', `/api/chat-forms/${id}`)).body;
    expect(await view()).to.include({ version: 1, draft: false, liveVersion: 1 });
    form.thanks = 'Thanks!';
    await oona.call('PUT', `/api/chat-forms/${id}`, form);
    expect(await view()).to.include({ version: 2, draft: true, liveVersion: 1 });
    expect((await view()).content.consent.wordings.map((wording) => wording.version)).to.deep.equal([1]);
    form.consent.text = 'Wrenfield may write to me in chat.';
    await oona.call('PUT', `/api/chat-forms/${id}`, form);
    form.consent.text = 'Wrenfield may write to me in chat, often.';
    await oona.call('PUT', `/api/chat-forms/${id}`, form);
    // Nobody has seen the wording in between.
    expect((await view()).content.consent.wordings.map((wording) => [wording.version, wording.text])).to.deep.equal([
      [1, newChatForm('x', 'Wrenfield').consent.text],
      [2, 'Wrenfield may write to me in chat, often.'],
    ]);
    const bad = { ...form, screens: [{ title: '', fields: [] }] };
    expect((await oona.call('PUT', `/api/chat-forms/${id}`, bad)).status).to.equal(422);
    expect((await oona.call('DELETE', `/api/chat-forms/${id}`)).status).to.equal(200);
  });

  it('three forms out at once: each answer finds the run that asked, and the lead, the consent and its wording are kept', async () => {
    const forms = [
      await made('A'),
      await made('B', [{ key: 'instrument', label: 'Instrument', kind: 'choice' }]),
      await made('C'),
    ];
    const number = '+61491570501';
    await write(number, 'Hello there');
    const flows = [];
    for (const { id } of forms)
      flows.push(
        await liveFlow(stage, oona, [
          momentOf('a', toTheLead(freshStep('chat', 'f', { message: 'Please tell us', form: id }))),
          momentOf('b', {
            at: filledIn('f'),
            ...toTheLead(
              freshStep('chat', 'g', {
                message: 'Hi {{ lead.first_name }}: {{ answers.instrument | default: "none" }}',
              }),
            ),
          }),
        ]),
      );
    const sent: { id: string; token: string }[] = [];
    for (const [i, flow] of flows.entries()) {
      await flow.send({ name: 'N', email: 'three@example.org', phone: number });
      await flow.waits('three@example.org');
      sent.push((await until('the form', () => chat(number).filter((phoneMessage) => phoneMessage.form)[i]?.form))!);
    }
    expect(new Set(sent.map((one) => one.token)).size).to.equal(3);
    await fill(number, sent[1]!, { ...ANSWERS, instrument: 'Cello' });
    const run = await flows[1]!.over('noor@example.org');
    expect(said(number).at(-1)).to.equal('Hi Noor: Cello');
    for (const flow of [flows[0]!, flows[2]!])
      expect((await flow.run('noor@example.org')).due_at, 'the others still wait').not.to.equal(null);
    expect(await lead(number)).to.deep.include({ first_name: 'Noor', last_name: 'Belkadi', email: 'noor@example.org' });
    expect((await lead(number)).answers.instrument).to.equal('Cello');
    const consents = await rows(
      `select channel, purpose, state, wording, version, address, how, inbound_id from consent where lead_id = $1 and inbound_id is not null order by channel`,
      [run.lead_id],
    );
    expect(
      consents.map((consent) => [consent.channel, consent.purpose, consent.state, consent.version, consent.address]),
    ).to.deep.equal([
      ['chat', null, 'given', '1', number],
      ['email', null, 'given', '1', number],
    ]);
    expect(consents[0].wording).to.include('may write to me in chat');
    const [raw] = await rows('select raw, kind from inbound where id = $1', [consents[0].inbound_id]);
    expect(JSON.parse(raw.raw).data.token).to.equal(sent[1]!.token);
    const { body } = await oona.call<{ steps: { stepId: string; form: { text: string } | null }[] }>(
      'GET',
      `/api/workflows/${flows[1]!.id}/runs/${run.id}`,
    );
    expect(body.steps.find((step) => step.stepId === 'f')!.form!.text).to.include('Instrument: Cello');
  });

  it('used, forged, another number’s and old tokens are refused and told; a wrong email leaves the form open', async () => {
    const { id } = await made('Tokens');
    const number = '+61491570502';
    await write(number, 'Hi');
    const flow = await liveFlow(stage, oona, [
      momentOf('a', toTheLead(freshStep('chat', 'f', { message: 'Please', form: id }))),
      momentOf('b', {
        at: filledIn('f'),
        ...toTheLead(freshStep('chat', 'g', { message: 'Thank you {{ happened.email }}' })),
      }),
    ]);
    await flow.send({ name: 'T', email: 'tokens@example.org', phone: number });
    await flow.waits('tokens@example.org');
    const form = await formOn(number);
    const problems = async () =>
      (
        await rows(`select problem from inbound where sender = $1 and kind = 'form' order by received_at, id`, [number])
      ).map((one) => one.problem);
    await fill(number, form, { ...ANSWERS, email: 'no-address' });
    await until('the hint', () => said(number).at(-1)?.includes('send it once more'));
    expect((await problems())[0]).to.match(/Email: This does not look like an email address/);
    const forged = `${form.token.slice(0, -2)}${form.token.endsWith('AA') ? 'BB' : 'AA'}`;
    await fill(number, { ...form, token: forged }, ANSWERS);
    await fill('+61491570503', form, ANSWERS);
    const piled = await rows(
      `select title, detail from needs_you where kind = 'form_refused' and settled_at is null order by created_at`,
    );
    expect(piled).to.have.length(2);
    expect(piled[0].detail).to.include(number).and.include('none of ours');
    await stage.db.query(
      `update delivery set created_at = created_at - interval '31 days' where step_id = 'f' and recipient = $1`,
      [number],
    );
    await fill(number, form, ANSWERS);
    await until('being told it is old', () => said(number).at(-1)?.includes('too old'));
    await stage.db.query(
      `update delivery set created_at = created_at + interval '31 days' where step_id = 'f' and recipient = $1`,
      [number],
    );
    expect((await flow.run('tokens@example.org')).due_at, 'nothing of it was taken').not.to.equal(null);
    // Twice at the same instant: one is taken, the other told.
    await Promise.all([fill(number, form, ANSWERS), fill(number, form, { ...ANSWERS, first_name: 'Twice' })]);
    await until('the second to be told', () => said(number).some((one) => one.includes('already have your answers')));
    await until('the answer', () => said(number).includes('Thank you noor@example.org'));
    expect(
      (await rows('select count(*)::int as n from form_answer where lead_id = $1', [(await lead(number)).id]))[0].n,
    ).to.equal(1);
    expect(said(number).filter((one) => one.startsWith('Thank you'))).to.have.length(1);
  });

  it('a template opens a form too, to somebody who never wrote; tried on oneself, the answers are not kept', async () => {
    const { id } = await made('By template');
    const { id: template } = (await oona.call<{ id: string }>('POST', '/api/chat-templates', { name: 'With a form' }))
      .body;
    await oona.call('PUT', `/api/chat-templates/${template}`, {
      ...{ kind: 'service', heading: '', closing: '', buttons: [], form: id },
      ...{ text: 'Hi {{ lead.first_name }}, one question.', samples: { 'lead.first_name': 'Robin' } },
    });
    await oona.call('POST', `/api/chat-templates/${template}/review`);
    await until('the review', async () => {
      const { body } = await oona.call<{ state: string }>('GET', `/api/chat-templates/${template}`);
      return body.state === 'approved';
    });
    const flow = await liveFlow(stage, oona, [
      momentOf('a', toTheLead(freshStep('chat-template', 't', { template }))),
      momentOf('b', {
        at: filledIn('t'),
        ...toTheLead(freshStep('chat', 'g', { message: 'Thank you, {{ lead.last_name }}' })),
      }),
    ]);
    const number = '+61491570508';
    await flow.send({ name: 'New', email: 'template-form@example.org', phone: number });
    await flow.waits('template-form@example.org');
    await fill(number, await formOn(number), ANSWERS);
    await until('what comes after', () => said(number).at(-1) === 'Thank you, Belkadi');
    const [{ phone: mine }] = await rows(`select test_phone as phone from membership where test_phone <> '' limit 1`);
    const tried = await oona.call<{ accepted: boolean; detail: string }>(
      'POST',
      `/api/workflows/${flow.id}/send-to-me`,
      {
        stepId: 't',
        arrivalId: null,
      },
    );
    expect(tried.body, JSON.stringify(tried.body)).to.include({ accepted: true });
    const before = (await rows('select count(*)::int as n from form_answer'))[0].n;
    await fill(mine, await formOn(mine), ANSWERS);
    const told = await until(
      'the trial to come back',
      async () => (await rows(`select problem from inbound where sender = $1 and kind = 'form'`, [mine]))[0],
    );
    expect(told.problem).to.match(/was tried by one of us/);
    expect((await rows('select count(*)::int as n from form_answer'))[0].n).to.equal(before);
  });

  it('the front door: every stranger gets the form, not too often; through it they are greeted and served', async () => {
    const { id } = await made('First contact');
    const { body: network } = await oona.call<{ id: string; kind: string }[]>('GET', '/api/connections');
    const connectionId = network.find((one) => one.kind === 'chat_network')!.id;
    const source = await oona.call<{ id: string; state: string }>('POST', '/api/sources', {
      ...{ kind: 'chat-message', connectionId, when: 'any', words: '', form: '', name: 'Chat, all of it' },
    });
    expect(source.body.state).to.equal('live');
    const door = {
      on: true,
      form: id,
      message: 'Who are you?',
      everyMinutes: 5,
      greeting: 'Welcome, {{ lead.first_name }}!',
    };
    expect((await oona.call('PUT', '/api/front-door', { ...door, form: '' })).status).to.equal(422);
    expect((await oona.call('PUT', '/api/front-door', door)).status).to.equal(200);
    try {
      const number = '+61491570504';
      const arrived = async () =>
        (await rows('select fields from arrival where source_id = $1 order by received_at', [source.body.id])).map(
          (one) => one.fields.find((field: { key: string }) => field.key === 'message').value,
        );
      await write(number, 'Do you teach the harp?', { name: 'Noor B' });
      const form = await formOn(number);
      await write(number, 'Hello?');
      await until(
        'both messages',
        async () => (await rows('select from inbound where sender = $1', [number])).length === 2,
      );
      expect(chat(number).filter((phoneMessage) => phoneMessage.form)).to.have.length(1);
      expect(await arrived()).to.deep.equal([]);
      await stage.db.query(
        `update delivery set created_at = created_at - interval '6 minutes' where step_id = 'front-door' and recipient = $1`,
        [number],
      );
      await write(number, 'Still there?');
      await until('the form again', () => chat(number).filter((phoneMessage) => phoneMessage.form).length === 2);
      await fill(number, form, ANSWERS);
      await until('the greeting', () => said(number).includes('Welcome, Noor!'));
      await write(number, 'So, the harp?');
      await until('being served', async () => (await arrived()).length === 1);
      expect(await arrived()).to.deep.equal(['So, the harp?']);
      expect(chat(number).filter((phoneMessage) => phoneMessage.form)).to.have.length(2);
      const second = chat(number).filter((phoneMessage) => phoneMessage.form)[1]!.form!;
      await fill(number, second, ANSWERS);
      expect(said(number).filter((one) => one.startsWith('Welcome'))).to.have.length(1);
      // Changing the network's address leaves the door as it is.
      const { body } = await oona.call<{ id: string; name: string; settings: { address: string; sender: string } }[]>(
        'GET',
        '/api/connections',
      );
      const { name, settings } = body.find((one) => one.id === connectionId)!;
      await oona.call('PUT', `/api/connections/${connectionId}`, {
        kind: 'chat_network',
        name,
        ...settings,
        secret: '',
      });
      const [kept] = await rows(`select settings -> 'frontDoor' ->> 'on' as "on" from connection where id = $1`, [
        connectionId,
      ]);
      expect(kept.on).to.equal('true');
    } finally {
      await oona.call('PUT', '/api/front-door', { ...door, on: false });
      await stage.db.query(`update source set state = 'paused' where id = $1`, [source.body.id]);
    }
  });
});
