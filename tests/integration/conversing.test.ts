import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import type { SheetView as GridSheet } from '../../src/app/sheets/sheets.ts';
import type { RunView } from '../../src/app/workflows/get-run.ts';
import type { SentToMe } from '../../src/app/workflows/send-to-me.ts';
import type { At, Awaited as Event } from '../../src/core/workflow/at.ts';
import type { Moment, Step } from '../../src/core/workflow/definition.ts';
import type { Rules } from '../../src/core/workflow/rules.ts';
import { atTheDesk, type Coordinator, liveFlow, textsOn } from '../stage/flow.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

const event = (what: Event, more: Partial<Extract<At, { kind: 'event' }>> = {}): At => ({
  kind: 'event',
  event: what,
  words: '',
  sources: [],
  tag: '',
  list: '',
  stage: '',
  step: '',
  within: { amount: 20, unit: 'hours' },
  ...more,
});
const lanes = (lead: Step[], record: Step[] = [], team: Step[] = []): Moment['lanes'] => ({ lead, record, team });
const yes = { field: 'happened.it', test: 'is' as const, value: 'yes', to: '', exact: false };
const came = (then: Step[]) => [{ id: 'c', name: '', when: yes, lanes: lanes(then) }];
const BROWSER = 'Mozilla/5.0 (X11; Linux x86_64; rv:133.0) Gecko/20100101 Firefox/133.0';

describe('asking, counting, drafting and writing to many, in real processes', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    stage = await openStage();
    oona = await signedIn(stage);
  });
  after(() => stage.close());

  const live = (moments: Moment[], rules: Partial<Rules> = {}) => liveFlow(stage, oona, moments, rules);
  const one = async <T = Record<string, unknown>>(sql: string, values: unknown[] = []) =>
    (await stage.db.query(sql, values)).rows[0] as T;
  const write = (number: string, text: string) => atTheDesk(stage, '/phones/write', { number, text });
  const mailsOf = (mailbox: string) => stage.desk.world.state.mails.filter((mail) => mail.mailbox === mailbox);
  const textsCome = (number: string, count: number) =>
    until(`${count} texts on ${number}`, () =>
      textsOn(stage, number).length >= count ? textsOn(stage, number) : null,
    );
  const visit = (address: string, agent = BROWSER, method = 'GET') =>
    fetch(address, { method, redirect: 'manual', headers: { 'user-agent': agent } });
  const ask = freshStep('ask', 'q', {
    message: 'Which day, {{ lead.first_name }}?',
    kind: 'choice',
    choices: 'Monday\nTuesday',
    saveAs: 'answers.day',
    hint: 'Please answer 1 or 2.',
    most: 2,
  });

  it('asks, asks again when the answer does not fit, keeps it, and goes on with it; other runs take it for a reply', async () => {
    const flow = await live(
      [
        momentOf('a', { lanes: lanes([ask]) }),
        momentOf('b', {
          at: event('answer', { step: 'q' }),
          cases: came([freshStep('text', 't', { message: '{{ answers.day }} ({{ happened.answer }}) it is' })]),
        }),
      ],
      { endsWhen: ['reply'] },
    );
    const other = await live(
      [
        momentOf('a', { lanes: lanes([freshStep('text', 't', { message: 'x' })]) }),
        momentOf('b', { at: event('tag', { tag: 'x' }) }),
      ],
      {
        endsWhen: ['reply'],
      },
    ).catch(() => null);
    expect(other, 'a tag that is not there must not go live').to.equal(null);
    const waiting = await live(
      [
        momentOf('a'),
        momentOf('b', {
          at: { kind: 'later', span: { amount: 9, unit: 'hours' } },
          lanes: lanes([], [freshStep('note', 'n', { text: 'x' })]),
        }),
      ],
      {
        endsWhen: ['reply'],
      },
    );
    const phone = '+61491570201';
    await waiting.send({ email: 'asked@example.org', phone });
    await waiting.waits('asked@example.org');
    await flow.send({ email: 'asked@example.org', phone });
    await flow.waits('asked@example.org');
    expect(textsOn(stage, phone)).to.deep.equal(['Which day, Ada?\n1 Monday\n2 Tuesday']);
    await write(phone, 'Sunday?');
    await textsCome(phone, 2);
    expect((await waiting.over('asked@example.org')).outcome).to.equal('Ended early: they replied');
    await write(phone, 'tuesday please');
    const run = await flow.over('asked@example.org');
    expect(textsOn(stage, phone).slice(1)).to.deep.equal(['Please answer 1 or 2.', 'Tuesday (Tuesday) it is']);
    const lead = await one<{ answers: Record<string, string> }>('select answers from lead where id = $1', [
      run.lead_id,
    ]);
    expect(lead.answers.day).to.equal('Tuesday');
    const { body } = await oona.call<RunView>('GET', `/api/workflows/${flow.id}/runs/${run.id}`);
    expect(body.steps.find((each) => each.stepId === 'q')?.asked).to.deep.include({
      state: 'answered',
      times: 2,
      answer: 'Tuesday',
      replies: ['Sunday?', 'tuesday please'],
    });
  });

  it('gives up after as many times as was said; where nothing was asked nothing is waited for', async () => {
    const flow = await live([
      momentOf('a', {
        lanes: lanes([{ ...ask, onlyIf: { field: 'answers.ask', test: 'is', value: 'yes', to: '', exact: false } }]),
      }),
      momentOf('b', {
        at: event('answer', { step: 'q' }),
        cases: came([freshStep('text', 't', { message: 'Thanks' })]),
        lanes: lanes([freshStep('text', 'u', { message: 'Never mind' })]),
      }),
    ]);
    await flow.send({ email: 'gives.up@example.org', phone: '+61491570202', ask: 'yes' });
    await flow.waits('gives.up@example.org');
    await write('+61491570202', 'what?');
    await textsCome('+61491570202', 2);
    await write('+61491570202', 'eh?');
    await flow.over('gives.up@example.org');
    expect(textsOn(stage, '+61491570202').slice(1)).to.deep.equal(['Please answer 1 or 2.', 'Never mind']);
    await flow.send({ email: 'not.asked@example.org', phone: '+61491570203', ask: 'no' });
    await flow.over('not.asked@example.org');
    expect(textsOn(stage, '+61491570203')).to.deep.equal(['Never mind']);
  });

  it('a STOP closes the question: nothing more is sent, and what they write then is no answer', async () => {
    const flow = await live([
      momentOf('a', { lanes: lanes([ask]) }),
      momentOf('b', {
        at: event('answer', { step: 'q', within: { amount: 2, unit: 'seconds' } }),
        lanes: lanes([freshStep('text', 't', { message: 'Still there?' })]),
      }),
    ]);
    await flow.send({ email: 'stops@example.org', phone: '+61491570204' });
    await flow.waits('stops@example.org');
    await write('+61491570204', 'STOP');
    await write('+61491570204', '2');
    await flow.over('stops@example.org');
    // The question, and that there will be no more: nothing else.
    expect(textsOn(stage, '+61491570204')).to.have.length(2);
    expect(textsOn(stage, '+61491570204')[1]).to.match(/no more messages here/);
    expect(
      await one(`select state, answer from asked_question where lead_id = $1`, [
        (await flow.run('stops@example.org')).lead_id,
      ]),
    ).to.deep.equal({
      state: 'closed',
      answer: null,
    });
  });

  it('links are short, lead on, and wake what waits for them; scanners and previews are not counted', async () => {
    const flow = await live([
      momentOf('a', {
        lanes: lanes([freshStep('text', 'l', { message: 'See https://wrenfield.example/times?a=1&b=2. Or call.' })]),
      }),
      momentOf('b', {
        at: event('link', { step: 'l' }),
        cases: came([freshStep('text', 't', { message: 'You looked at {{ happened.url }}', countLinks: false })]),
      }),
    ]);
    await flow.send({ email: 'link@example.org', phone: '+61491570205' });
    await flow.waits('link@example.org');
    const [text = ''] = textsOn(stage, '+61491570205');
    const [, address = ''] = /^See (\S+)\. Or call\.$/.exec(text) ?? [];
    expect(address).to.match(new RegExp(`^${stage.url}/l/[0-9A-Za-z]{9}$`));
    for (const [agent, method] of [
      ['Mozilla/5.0 (compatible; Somebot/2.1; +http://bots.example)', 'GET'],
      [BROWSER, 'HEAD'],
      ['', 'GET'],
    ] as const)
      expect((await visit(address, agent, method)).headers.get('location')).to.equal(
        'https://wrenfield.example/times?a=1&b=2',
      );
    expect((await flow.run('link@example.org')).due_at).to.not.equal(null);
    const answer = await visit(address);
    expect([answer.status, answer.headers.get('location')]).to.deep.equal([
      302,
      'https://wrenfield.example/times?a=1&b=2',
    ]);
    const run = await flow.over('link@example.org');
    expect(textsOn(stage, '+61491570205')[1]).to.equal('You looked at https://wrenfield.example/times?a=1&b=2');
    const { body } = await oona.call<RunView>('GET', `/api/workflows/${flow.id}/runs/${run.id}`);
    expect(body.steps.find((each) => each.stepId === 'l')?.followed).to.deep.equal([
      { url: 'https://wrenfield.example/times?a=1&b=2', times: 1 },
    ]);
    expect((await visit(`${stage.url}/l/000000000`)).headers.get('location')).to.equal('/not-here');
  });

  it('an opened email wakes what waits for it; opened the instant it was taken, it was a machine', async () => {
    const flow = await live([
      momentOf('a', {
        lanes: lanes([freshStep('email', 'e', { subject: 'Open me', message: 'Look: https://wrenfield.example/a' })]),
      }),
      momentOf('b', {
        at: event('opened', { step: 'e' }),
        cases: came([freshStep('text', 't', { message: 'You opened it' })]),
      }),
    ]);
    await flow.send({ email: 'opens@example.org', phone: '+61491570206' });
    await flow.waits('opens@example.org');
    const [mail] = mailsOf('opens@example.org');
    const picture = /<img src="([^"]+\/o\/[^"]+)"/.exec(mail!.html)?.[1] ?? '';
    expect(mail!.html).to.match(new RegExp(`href="${stage.url}/l/`));
    await visit(picture);
    await new Promise((r) => setTimeout(r, 300));
    expect((await flow.run('opens@example.org')).due_at).to.not.equal(null);
    await stage.db.query(`update delivery set accepted_at = accepted_at - interval '1 minute' where step_id = 'e'`);
    const answer = await visit(picture);
    expect(answer.headers.get('content-type')).to.equal('image/gif');
    await flow.over('opens@example.org');
    expect(textsOn(stage, '+61491570206')).to.deep.equal(['You opened it']);
  });

  it('a draft waits until somebody sends it, with what they changed; thrown away or stopped, it never goes', async () => {
    const flow = await live([
      momentOf('a', {
        lanes: lanes([
          freshStep('email', 'd', { subject: 'For {{ lead.first_name }}', message: 'First words', draft: true }),
          freshStep('text', 't', { message: 'At once' }),
        ]),
      }),
    ]);
    const people = ['draft.sent', 'draft.dropped', 'draft.stopped'].map((name) => `${name}@example.org`);
    for (const [i, email] of people.entries()) {
      await flow.send({ email, phone: `+6149157021${i}` });
      expect((await flow.over(email)).outcome).to.equal('Email to be read and sent, Text sent');
    }
    const page = await (await fetch(`${stage.url}/messages`, { headers: { cookie: oona.cookie } })).text();
    expect(page).to.include('draft.sent@example.org');
    const draftOf = async (email: string) =>
      (await one<{ id: string }>(`select id from delivery where recipient = $1 and state = 'draft'`, [email]))?.id;
    expect(mailsOf(people[0]!)).to.have.length(0);
    const [sent, dropped, stopped] = [await draftOf(people[0]!), await draftOf(people[1]!), await draftOf(people[2]!)];
    await stage.db.query(
      `insert into consent (id, business_id, lead_id, channel, state, wording, how, at)
       select gen_random_uuid(), business_id, lead_id, 'email', 'withdrawn', 'no more', 'Told us', now() from delivery where id = $1`,
      [stopped],
    );
    await oona.call('POST', `/api/drafts/${sent}/send`, { text: 'Better words', subject: 'For you' });
    await oona.call('DELETE', `/api/drafts/${dropped}`);
    await oona.call('POST', `/api/drafts/${stopped}/send`, {});
    const [mail] = await until('the mail', () => (mailsOf(people[0]!).length ? mailsOf(people[0]!) : null));
    expect([mail!.subject, mail!.text.trim()]).to.deep.equal(['For you', 'Better words']);
    expect(mail!.html).to.include('Better words').and.include('/o/');
    expect((await oona.call('POST', `/api/drafts/${sent}/send`, {})).status).to.equal(409);
    const state = await until('the stopped draft', async () => {
      const row = await one<{ state: string; detail: string }>('select state, detail from delivery where id = $1', [
        stopped,
      ]);
      return row.state === 'refused' ? row : null;
    });
    expect(state.detail).to.equal('Stopped: asked for no more emails');
    expect([...mailsOf(people[1]!), ...mailsOf(people[2]!)]).to.have.length(0);
    expect(
      (
        await one<{ n: number }>(
          `select count(*)::int as n from needs_you where kind = 'draft_waits' and settled_at is null`,
        )
      ).n,
    ).to.equal(0);
    expect((await flow.run(people[0]!)).outcome).to.equal('Email sent by Oona Pell, Text sent');
  });

  it('puts people on a list once, wakes who waits for it, and never brings back who left', async () => {
    const list = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Tips' })).body.id;
    const joining = await live(
      [momentOf('a', { lanes: lanes([], [freshStep('list', 'j', { action: 'add', list })]) })],
      {
        samePerson: 'run_again',
      },
    );
    const waiting = await live([
      momentOf('a'),
      momentOf('b', { at: event('list', { list }), cases: came([freshStep('text', 't', { message: 'Welcome' })]) }),
    ]);
    const asking = await live(
      [
        momentOf('a', {
          onlyIf: { field: '', test: 'on_list', value: list, to: '', exact: false },
          lanes: lanes([freshStep('text', 't', { message: 'Member' })]),
        }),
      ],
      { samePerson: 'run_again' },
    );
    const [email, phone] = ['joins@example.org', '+61491570220'];
    await waiting.send({ email, phone });
    await waiting.waits(email);
    await asking.send({ email, phone });
    await asking.over(email);
    await joining.send({ email, phone });
    await joining.over(email);
    await waiting.over(email);
    await asking.send({ email, phone });
    await textsCome(phone, 2);
    expect(textsOn(stage, phone)).to.have.members(['Welcome', 'Member']);
    const { lead_id } = await joining.run(email);
    expect((await oona.call('PUT', `/api/lists/${list}/members/${lead_id}`, { on: false })).status).to.equal(200);
    await joining.send({ email, phone });
    await until(
      'the second try',
      async () =>
        (await one<{ n: number }>(`select count(*)::int as n from step_result where step_id = 'j' and state = 'done'`))
          .n === 2,
    );
    expect(await one('select state from list_member where list_id = $1', [list])).to.deep.equal({
      state: 'unsubscribed',
    });
    expect((await oona.call('PUT', `/api/lists/${list}/members/${lead_id}`, { on: true })).status).to.equal(409);
    const page = await (await fetch(`${stage.url}/lists/${list}`, { headers: { cookie: oona.cookie } })).text();
    expect(page).to.include('joins@example.org').and.include('Unsubscribed');
  });

  it('an email to many reaches each once though the process dies in the middle, and leaves out who must not be written to', async () => {
    const list = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Many' })).body.id;
    await stage.db.query(
      `with made as (insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
         select gen_random_uuid(), b.id, 'Reader', n::text, case when n % 50 = 0 then '' else 'reader' || n || '@example.net' end, '', '{}', now(), now()
         from business b, generate_series(1, 450) n returning id)
       insert into list_member (list_id, lead_id, state, how, joined_at, changed_at)
       select $1, id, 'active', 'For the test', now(), now() from made`,
      [list],
    );
    await stage.db.query(
      `insert into consent (id, business_id, lead_id, channel, state, wording, how, at)
       select gen_random_uuid(), business_id, id, 'email', 'withdrawn', '', 'For the test', now() from lead where email in ('reader7@example.net', 'reader8@example.net')`,
    );
    const reach = await oona.call<{ people: number; reached: number }>('GET', `/api/audience?to=list:${list}`);
    expect(reach.body).to.deep.equal({
      people: 450,
      reached: 439,
      left: [
        { code: 'no_address', count: 9 },
        { code: 'withdrawn', count: 2 },
      ],
    });
    const flow = await live([
      momentOf('a', {
        lanes: lanes([
          freshStep('mailing', 'm', {
            to: `list:${list}`,
            subject: 'News for {{ lead.first_name }} {{ lead.last_name }}: {{ answers.news }}',
            message: 'Read https://wrenfield.example/{{ answers.news }}',
          }),
        ]),
      }),
    ]);
    await flow.send({ email: 'sets.off@example.org', news: 'one' });
    await until(
      'the first emails',
      () => stage.desk.world.state.mails.filter((mail) => mail.subject.startsWith('News for')).length > 40,
    );
    for (const process of [stage.web, stage.worker!]) process.child.kill('SIGKILL');
    await Promise.all([stage.web.ended, stage.worker!.ended]);
    // What the dead process had in hand is given back when its lease ends; the test does not wait for that.
    await stage.db.query(`update delivery set due_at = now() where due_at is not null`);
    await stage.db.query(`update mailing set planned_at = now() where state = 'planning'`);
    await stage.startWeb();
    await stage.startWorker();
    await until(
      'all emails',
      async () =>
        (
          await one<{ n: number }>(
            `select count(*)::int as n from delivery where mailing_id is not null and state = 'accepted'`,
          )
        ).n === 439,
      40_000,
    );
    const mails = stage.desk.world.state.mails.filter((mail) => mail.subject.startsWith('News for'));
    const ids = new Map<string, Set<string>>();
    for (const mail of mails) {
      const id = mail.headers.find((header) => header.name === 'message-id')!.value;
      ids.set(mail.mailbox, (ids.get(mail.mailbox) ?? new Set()).add(id));
    }
    expect(ids.size).to.equal(439);
    // The few in hand when the process died may have come again, but as the same message.
    expect([...ids.values()].every((id) => id.size === 1)).to.equal(true);
    expect(mails.length - ids.size).to.be.lessThan(30);
    expect([...ids.keys()].some((mailbox) => mailbox === 'reader7@example.net')).to.equal(false);
    const sample = mails.find((mail) => mail.mailbox === 'reader11@example.net')!;
    expect(sample.subject).to.equal('News for Reader 11: one');
    expect(sample.text).to.match(/^Read http:\/\/[^ ]+\/l\/\w{9}/);
  }).timeout(90_000);

  it('chat: their window is shut, so it goes by text and says why; open, it goes, is read, and an answer wakes the run', async () => {
    const flow = await live([
      momentOf('a', {
        lanes: lanes([
          freshStep(
            'chat',
            'c',
            { message: 'Hello {{ lead.first_name }} 🎻' },
            { ifFails: { tryForMinutes: 1, after: 'other_channel' } },
          ),
        ]),
      }),
      momentOf('b', {
        at: event('reply'),
        cases: came([freshStep('chat', 'd', { message: 'You said {{ happened.text }}' })]),
      }),
    ]);
    await flow.send({ email: 'shut@example.org', phone: '+61491570230' });
    await flow.waits('shut@example.org');
    expect(textsOn(stage, '+61491570230')).to.deep.equal(['Hello Ada 🎻']);
    const chats = (number: string) => stage.desk.world.state.chats[number]?.messages.map((message) => message.text);
    await atTheDesk(stage, '/chats/write', { number: '+61491570231', text: 'Is anybody there?' });
    await flow.send({ email: 'open@example.org', phone: '+61491570231' });
    await flow.waits('open@example.org');
    await atTheDesk(stage, '/chats/write', { number: '+61491570231', text: 'Piano, please' });
    const run = await flow.over('open@example.org');
    expect(chats('+61491570231')).to.deep.equal([
      'Is anybody there?',
      'Hello Ada 🎻',
      'Piano, please',
      'You said Piano, please',
    ]);
    await until(
      'the read receipt',
      async () =>
        (await one<{ at: Date }>(`select read_at as at from delivery where run_id = $1 and step_id = 'c'`, [run.id]))
          .at,
    );
    const { body } = await oona.call<RunView>(
      'GET',
      `/api/workflows/${flow.id}/runs/${(await flow.run('shut@example.org')).id}`,
    );
    expect(body.steps.find((each) => each.stepId === 'c')?.plan).to.have.property(
      'note',
      'They have not written in chat within 24 hours, so a text goes instead',
    );
  });

  it('takes turns and keeps to them, goes by a field, and does a step for each line of an order', async () => {
    const ids = (
      await stage.db.query<{ id: string; name: string }>(
        `select id, name from person where name in ('Tomas Arden', 'Piano desk') order by name`,
      )
    ).rows;
    const [pianoDesk, tomas] = [ids[0]!.id, ids[1]!.id];
    const flow = await live([
      momentOf('a', {
        first: [
          freshStep('assign', 'o', {
            by: 'field',
            field: 'answers.plays',
            owners: [{ value: 'piano', colleague: pianoDesk }],
            among: [],
            keep: false,
          }),
        ],
        lanes: lanes(
          [],
          [freshStep('note', 'n', { text: '{{ item.name }} x {{ item.quantity }}' }, { each: 'lines' })],
          [
            freshStep('tell', 't', {
              colleague: 'rota',
              among: [tomas, pianoDesk],
              by: 'email',
              subject: 'Turn {{ lead.first_name }}',
              message: 'Yours',
            }),
          ],
        ),
      }),
    ]);
    for (const n of [1, 2, 3])
      await flow
        .send({
          name: `Turn${n}`,
          email: `turn${n}@example.org`,
          plays: n === 1 ? 'Piano ' : 'Oboe',
          lines: [
            { name: 'Strings', quantity: '2' },
            { name: 'Rosin', quantity: '1' },
          ],
        })
        .then(() => flow.over(`turn${n}@example.org`));
    const told = stage.desk.world.state.mails
      .filter((mail) => mail.subject.startsWith('Turn '))
      .map((mail) => mail.mailbox);
    expect(told).to.deep.equal(['tomas@wrenfield.example', 'piano.desk@wrenfield.example', 'tomas@wrenfield.example']);
    const owners = (await stage.db.query(`select email, owner_id from lead where email like 'turn%' order by email`))
      .rows;
    expect(owners.map((row) => row.owner_id)).to.deep.equal([pianoDesk, null, null]);
    const notes = (
      await stage.db.query(
        `select n.text from lead_note n join lead l on l.id = n.lead_id where l.email = 'turn2@example.org' order by n.text`,
      )
    ).rows;
    expect(notes.map((row) => row.text)).to.deep.equal(['Rosin x 1', 'Strings x 2']);
  });

  it('attaches a file kept here and one from an address; one that is not to be had is told', async () => {
    const server = createServer((request, response) => {
      const there = request.url === '/price%20list.pdf';
      response.writeHead(there ? 200 : 404, { 'content-type': 'application/pdf' }).end('%PDF-1.4 prices');
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const kept = await fetch(`${stage.url}/api/files?name=${encodeURIComponent('Notes für Ada.txt')}`, {
      method: 'POST',
      headers: { cookie: oona.cookie, 'sec-fetch-site': 'same-origin' },
      body: 'Scales first.',
    });
    const file = (await kept.json()) as { id: string; name: string; bytes: number };
    const flow = await live([
      momentOf('a', {
        lanes: lanes([
          freshStep('email', 'e', {
            subject: 'Attached',
            message: 'See there',
            attachments: [
              { from: 'file', fileId: file.id, name: file.name, bytes: file.bytes },
              { from: 'address', url: `${base}/{{ answers.which }}.pdf`, name: 'prices.pdf' },
            ],
          }),
        ]),
      }),
    ]);
    await flow.send({ email: 'attached@example.org', which: 'price list' });
    await flow.over('attached@example.org');
    const [mail] = mailsOf('attached@example.org');
    expect(mail!.attachments).to.deep.equal([
      { name: 'Notes für Ada.txt', type: 'text/plain', bytes: 13 },
      { name: 'prices.pdf', type: 'application/pdf', bytes: 15 },
    ]);
    await flow.send({ email: 'unattached@example.org', which: 'gone' });
    expect((await flow.over('unattached@example.org')).state).to.equal('needs_you');
    expect(mailsOf('unattached@example.org')).to.have.length(0);
    server.close();
  });

  it('tries a step that records or calls once, for oneself, and says where to look', async () => {
    const sheet = (await oona.call<GridSheet>('POST', '/api/sheets', { name: 'Tried' })).body;
    const [tab] = sheet.tabs;
    const column = tab!.columns[0]!.id;
    const flow = await live([
      momentOf('a', {
        lanes: lanes(
          [
            freshStep('mailing', 'm', {
              to: `list:${(await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Try' })).body.id}`,
              subject: 'To many',
              message: 'Hi {{ lead.first_name }}',
            }),
          ],
          [
            freshStep('sheet-row', 'r', { tab: tab!.id, cells: { [column]: '{{ lead.first_name }}' } }),
            freshStep('note', 'n', { text: 'Noted' }),
          ],
        ),
      }),
    ]);
    await flow.send({ email: 'sample@example.org' });
    await flow.over('sample@example.org');
    const attempt = async (stepId: string) =>
      (await oona.call<SentToMe>('POST', `/api/workflows/${flow.id}/send-to-me`, { stepId, arrivalId: null })).body;
    expect((await attempt('r')).look).to.deep.equal({ href: `/sheets/${sheet.id}`, words: 'Look in the sheet' });
    expect((await stage.db.query('select from sheet_row where tab_id = $1', [tab!.id])).rowCount).to.equal(2);
    const noted = await attempt('n');
    const me = await one<{ id: string }>(
      `select l.id from lead l join lead_note n on n.lead_id = l.id where l.email = 'oona@wrenfield.example' and n.text = 'Noted'`,
    );
    expect(noted.look?.href).to.equal(`/leads/${me.id}`);
    const before = stage.desk.world.state.mails.length;
    expect((await attempt('m')).to).to.equal('oona@wrenfield.example');
    expect(stage.desk.world.state.mails.slice(before).map((mail) => mail.mailbox)).to.deep.equal([
      'oona@wrenfield.example',
    ]);
  });
});
