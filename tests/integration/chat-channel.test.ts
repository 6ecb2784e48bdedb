import { expect } from 'chai';
import type { ConversationView } from '../../src/app/conversations/get-conversation.ts';
import type { ConversationRow } from '../../src/app/conversations/list-conversations.ts';
import { signWebhook } from '../../src/core/signing/standard-webhooks.ts';
import { atTheDesk, type Coordinator, liveFlow, textsOn } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, sheetOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

const came = (event: string, more: object = {}) =>
  ({
    ...{ kind: 'event', event, words: '', sources: [], tag: '', list: '', stage: '', step: '' },
    ...{ within: { amount: 9, unit: 'hours' }, ...more },
  }) as never;

describe('chat: what comes in, what goes out, and what goes wrong', () => {
  let stage: Stage;
  let oona: Coordinator;
  let connectionId: string;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
    const { body } = await oona.call<{ id: string; kind: string }[]>('GET', '/api/connections');
    connectionId = body.find((one) => one.kind === 'chat_network')!.id;
  });
  const rows = async (sql: string, values: unknown[] = []) => (await stage.db.query(sql, values)).rows;
  const chat = (number: string) => stage.desk.world.state.chats[number]?.messages ?? [];
  const said = (number: string) => chat(number).map((phoneMessage) => phoneMessage.text);
  const write = (number: string, text: string, more: object = {}) =>
    atTheDesk(stage, '/chats/write', { number, text, ...more });
  /** A report of the network's own, as often and in whatever order a test wants. */
  const report = async (type: string, data: object, id = `r-${Math.random()}`) => {
    const account = stage.desk.world.state.chatAccount!;
    const body = Buffer.from(JSON.stringify({ type, data }));
    const at = Math.floor(Date.now() / 1000);
    const answer = await fetch(account.reportTo, {
      method: 'POST',
      headers: {
        ...{ 'content-type': 'application/json', 'webhook-id': id, 'webhook-timestamp': String(at) },
        'webhook-signature': signWebhook(account.secret, id, at, body),
      },
      body,
    });
    await answer.text();
    return answer.status;
  };
  const source = async (when: string, more: object = {}) => {
    const { body } = await oona.call<{ id: string; state: string }>('POST', '/api/sources', {
      ...{ kind: 'chat-message', connectionId, when, words: '', form: '', name: `Chat ${when} ${Math.random()}` },
      ...more,
    });
    expect(body.state).to.equal('live');
    return body.id;
  };
  /** What came in by a source, oldest first. */
  const arrived = async (id: string) =>
    (await rows('select fields from arrival where source_id = $1 order by received_at, id', [id])).map(
      (one) => one.fields.find((field: { key: string }) => field.key === 'message')?.value,
    );
  const off = async (...ids: string[]) => {
    for (const id of ids) expect((await oona.call('PUT', `/api/sources/${id}`, { paused: true })).status).to.equal(200);
  };

  it('a source takes any message, the first of a person, certain words or a button; STOP comes in by none', async () => {
    const [any, first, words, button] = [
      await source('any'),
      await source('first'),
      await source('words', { words: 'cello\nviola' }),
      await source('button', { words: 'Call me' }),
    ];
    const number = '+61491570701';
    await write(number, 'Hello there', { name: 'שרה כהן' });
    await write(number, 'A question about the CELLO!');
    await write(number, 'Call me', { button: true });
    await write(number, 'STOP');
    await until('the last of them', async () => (await arrived(any)).length === 3);
    await until('the STOP', async () => said(number).some((text) => text.includes('START')));
    expect(await arrived(any)).to.deep.equal(['Hello there', 'A question about the CELLO!', 'Call me']);
    expect(await arrived(first)).to.deep.equal(['Hello there']);
    expect(await arrived(words)).to.deep.equal(['A question about the CELLO!']);
    expect(await arrived(button)).to.deep.equal(['Call me']);
    // A name written from right to left is kept as it is, and so is the number.
    expect((await rows('select first_name, last_name from lead where phone = $1', [number]))[0]).to.deep.equal({
      ...{ first_name: 'שרה', last_name: 'כהן' },
    });
    await off(any, first, words, button);
  });

  it('a workflow that listens answers within the window, with heading, closing line and buttons, 4,096 characters and emoji', async () => {
    const id = await source('first');
    const { body: made } = await oona.call<{ id: string }>('POST', '/api/workflows', {
      name: 'First hello',
      folder: '',
    });
    const long = `${'🎻 viola '.repeat(500)}`.slice(0, 4090).trim();
    const draft = sheetOf(
      [
        momentOf(
          'a',
          toTheLead(
            freshStep('chat', 'c', {
              ...{ heading: 'Hello {{ lead.first_name }}', message: 'What is it about?', closing: 'Wrenfield' },
              ...{ buttons: ['A lesson', 'An order'], whenShut: 'skip' },
            }),
            freshStep('chat', 'long', { message: long, whenShut: 'skip' }),
          ),
        ),
        momentOf('b', {
          at: came('reply'),
          ...toTheLead(freshStep('chat', 'd', { message: 'So: {{ happened.text }}' })),
        }),
      ],
      {},
      [id],
    );
    await oona.call('PUT', `/api/workflows/${made.id}`, { revision: 0, draft });
    expect((await oona.call('POST', `/api/workflows/${made.id}/live`, { moveOn: false })).status).to.equal(200);
    const number = '+61491570702';
    await write(number, 'Hi 👋', { name: 'Ada' });
    await until('both answers', () => chat(number).length === 3);
    expect(chat(number)[1]).to.deep.include({
      text: 'Hello Ada\n\nWhat is it about?\n\nWrenfield',
      buttons: ['A lesson', 'An order'],
    });
    expect(said(number)[2]).to.equal(long);
    // The message that began the run is no reply to it; the next one is.
    await write(number, 'An order', { button: true });
    await until('the answer to the button', () => said(number).at(-1) === 'So: An order');
    await off(id);
  });

  it('asks question by question, by buttons where they fit, again with a hint; by text to who has not written', async () => {
    const ask = (id: string, message: string, choices: string, saveAs: string) =>
      freshStep('ask', id, { by: 'chat', message, kind: 'choice', choices, saveAs, hint: 'Please tap one.', most: 2 });
    const flow = await liveFlow(stage, oona, [
      momentOf('a', toTheLead(ask('q1', 'Which instrument?', 'Piano\nCello', 'answers.instrument'))),
      momentOf('b', {
        at: came('answer', { step: 'q1' }),
        ...toTheLead(ask('q2', 'Which day?', 'Monday\nTuesday\nWednesday\nThursday', 'answers.day')),
      }),
      momentOf('c', {
        at: came('answer', { step: 'q2' }),
        ...toTheLead(
          freshStep('chat', 'end', { message: '{{ answers.instrument }} on {{ answers.day }}, {{ lead.first_name }}' }),
        ),
      }),
    ]);
    const number = '+61491570703';
    await write(number, 'Hello');
    await flow.send({ name: 'Zoë', email: 'asks@example.org', phone: number });
    await until('the first question', () => chat(number).at(-1)?.buttons?.length === 2);
    await write(number, 'A trumpet');
    await until('the hint', () => said(number).at(-1) === 'Please tap one.');
    expect(chat(number).at(-1)!.buttons).to.deep.equal(['Piano', 'Cello']);
    await write(number, 'Cello', { button: true });
    await until('the second question', () => said(number).at(-1)?.startsWith('Which day?'));
    expect(said(number).at(-1)).to.equal('Which day?\n1 Monday\n2 Tuesday\n3 Wednesday\n4 Thursday');
    await write(number, '2');
    await flow.over('asks@example.org');
    expect(said(number).at(-1)).to.equal('Cello on Tuesday, Zoë');
    const silent = '+61491570704';
    await flow.send({ name: 'Al', email: 'asks-by-text@example.org', phone: silent });
    await flow.waits('asks-by-text@example.org');
    expect(textsOn(stage, silent)).to.deep.equal(['Which instrument?\n1 Piano\n2 Cello']);
  });

  it('told twice is taken once, two in one millisecond are two, and receipts in the wrong order end where they should', async () => {
    const id = await source('any');
    const number = '+61491570705';
    const at = new Date().toISOString();
    const message = (n: number) => ({ id: `same-${n}`, from: number, to: '+447700900150', text: `Message ${n}`, at });
    const statuses = await Promise.all([0, 1, 1, 0, 1].map((n) => report('chat.received', message(n))));
    expect(new Set(statuses)).to.deep.equal(new Set([200]));
    expect(
      (await rows('select text from inbound where sender = $1 order by text', [number])).map((one) => one.text),
    ).to.deep.equal(['Message 0', 'Message 1']);
    expect((await arrived(id)).sort()).to.deep.equal(['Message 0', 'Message 1']);
    expect((await rows('select count(*)::int as n from lead where phone = $1', [number]))[0].n).to.equal(1);
    await off(id);
    await write(number, 'Really me');
    const flow = await liveFlow(stage, oona, [momentOf('a', toTheLead(freshStep('chat', 'c', { message: 'Hello' })))]);
    await flow.send({ name: 'R', email: 'receipts@example.org', phone: number });
    const run = await flow.over('receipts@example.org');
    const delivery = async () =>
      (await rows(`select id, state, detail, read_at from delivery where run_id = $1`, [run.id]))[0];
    const { id: reference } = await until('its receipts', async () => ((await delivery()).read_at ? delivery() : null));
    const time = (ms: number) => new Date(Date.now() + ms).toISOString();
    // Read, then a delivery from before that, then an older failure: none of them undoes what is newer.
    await report('chat.delivered', { reference, at: time(60_000) });
    await report('chat.undelivered', { reference, at: time(-60_000), code: 'away', detail: 'Switched off' });
    expect(await delivery()).to.include({ state: 'delivered' });
    await report('chat.undelivered', { reference, at: time(120_000), code: 'gone', detail: 'No such phone' });
    await report('chat.delivered', { reference, at: time(90_000) });
    expect(await delivery()).to.include({ state: 'undelivered', detail: 'No such phone' });
  });

  it('the network down: messages wait and go out after it; a window that has shut meanwhile is kept to', async () => {
    const flow = await liveFlow(
      stage,
      oona,
      [momentOf('a', toTheLead(freshStep('chat', 'c', { message: 'Hello {{ lead.first_name }}', whenShut: 'text' })))],
      { endsWhen: [] },
    );
    const [open, shut] = ['+61491570706', '+61491570707'];
    for (const number of [open, shut]) await write(number, 'Hi');
    stage.desk.world.state.trouble.chatDown = true;
    await flow.send({ name: 'Open', email: 'waits-open@example.org', phone: open });
    await flow.send({ name: 'Shut', email: 'waits-shut@example.org', phone: shut });
    await until(
      'both to be waiting',
      async () =>
        (
          await rows(
            `select from step_result s join run r on r.id = s.run_id where r.workflow_id = $1 and s.state = 'again'`,
            [flow.id],
          )
        ).length === 2,
    );
    await stage.db.query(`update inbound set received_at = received_at - interval '24 hours' where sender = $1`, [
      shut,
    ]);
    await new Promise((resolve) => setTimeout(resolve, 1100));
    stage.desk.world.state.trouble.chatDown = false;
    await flow.over('waits-open@example.org');
    await flow.over('waits-shut@example.org');
    expect(said(open)).to.deep.equal(['Hi', 'Hello Open']);
    // Never handed to the network, which would have refused it: the text goes instead.
    expect(said(shut)).to.deep.equal(['Hi']);
    expect(textsOn(stage, shut)).to.deep.equal(['Hello Shut']);
  }).timeout(60_000);

  it('an answer to an email stands in the conversation, wakes who waits for it and is answered below; a machine’s does not', async () => {
    const flow = await liveFlow(stage, oona, [
      momentOf(
        'a',
        toTheLead(
          freshStep('email', 'e', { subject: 'Your lesson', message: 'Hi {{ lead.first_name }}, does Tuesday suit?' }),
        ),
      ),
      momentOf('b', {
        at: came('reply'),
        ...toTheLead(freshStep('email', 'f', { subject: 'So', message: 'You said: {{ happened.text }}' })),
      }),
    ]);
    const email = 'writes-back@example.org';
    await flow.send({ name: 'Wim', email, phone: '' });
    await flow.waits(email);
    const mail = (subject: string) =>
      until(`the mail ${subject}`, () =>
        stage.desk.world.state.mails.findLast((mail) => mail.mailbox === email && mail.subject === subject),
      );
    const asked = await mail('Your lesson');
    await atTheDesk(stage, `/mails/${asked.id}/reply`, { automatic: true, text: 'I am away until Monday.' });
    await until(
      'the machine’s',
      async () => (await rows('select from inbound where sender = $1', [email])).length === 1,
    );
    expect((await flow.run(email)).due_at, 'nobody has replied').not.to.equal(null);
    await atTheDesk(stage, `/mails/${asked.id}/reply`, { text: 'Wednesday is better ☀️' });
    await flow.over(email);
    expect((await mail('So')).text.trim()).to.equal('You said: Wednesday is better ☀️');
    const { body } = await oona.call<{ rows: ConversationRow[] }>('GET', '/api/conversations?filter=unread');
    const row = body.rows.find((row) => row.lastText === 'Wednesday is better ☀️')!;
    expect(row).to.include({ channel: 'email', unread: 1 });
    const view = (await oona.call<ConversationView>('GET', `/api/conversations/${row.id}`)).body;
    expect(view.items.filter((item) => item.kind === 'in').map((item) => [item.text, item.detail])).to.deep.equal([
      ['I am away until Monday.', 'Answered by a machine: it counts as no reply.'],
      ['Wednesday is better ☀️', ''],
    ]);
    const sent = await oona.call('POST', `/api/conversations/${row.id}/answers`, {
      ...{
        key: '018f3c60-0000-7000-8000-000000000001',
        channel: 'email',
        subject: 'Re: Your lesson',
        text: 'Wednesday it is.',
      },
    });
    expect(sent.status).to.equal(200);
    const answer = await mail('Re: Your lesson');
    const theirs = (await rows(`select remote_id from inbound where sender = $1 and problem is null`, [email]))[0]
      .remote_id;
    expect(answer.headers.find((header) => header.name === 'in-reply-to')?.value).to.equal(theirs);
    await atTheDesk(stage, `/mails/${answer.id}/reply`, { text: 'Unsubscribe' });
    await until(
      'the wish',
      async () =>
        (
          await rows(
            `select from consent c join lead l on l.id = c.lead_id where l.email = $1 and c.state = 'withdrawn'`,
            [email],
          )
        ).length === 1,
    );
  });
});
