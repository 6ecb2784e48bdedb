import { randomUUID } from 'node:crypto';
import { expect } from 'chai';
import type { SheetView as GridSheet } from '../../src/app/sheets/sheets.ts';
import type { RehearsalShown, RehearsedLead } from '../../src/app/workflows/rehearse.ts';
import type { At } from '../../src/core/workflow/at.ts';
import { blankMoment, type Definition, type Moment, type Step } from '../../src/core/workflow/definition.ts';
import type { Rules } from '../../src/core/workflow/rules.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { freshStep, momentOf, stepOf } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

const later = (amount: number, unit: 'seconds' | 'hours'): At => ({ kind: 'later', span: { amount, unit } });
const reply = (amount: number, unit: 'seconds' | 'hours', words = ''): At => ({
  kind: 'event',
  event: 'reply',
  words,
  sources: [],
  tag: '',
  list: '',
  stage: '',
  step: '',
  within: { amount, unit },
});
const text = (id: string, message: string, more: Partial<Step> = {}) =>
  stepOf('text', id, { message, needsConsent: false }, more);
const lanes = (lead: Step[], record: Step[] = [], team: Step[] = []): Moment['lanes'] => ({ lead, record, team });
const yes = { field: 'happened.it', test: 'is' as const, value: 'yes', to: '', exact: false };

describe('the run sheet, in real processes', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    stage = await openStage();
    oona = await signedIn(stage);
  });
  after(() => stage.close());

  const texts = (number: string) =>
    (stage.desk.world.state.phones[number]?.messages ?? [])
      .filter((message) => message.direction === 'to_phone')
      .map((message) => message.text);
  const one = async <T = Record<string, unknown>>(sql: string, values: unknown[] = []) =>
    (await stage.db.query(sql, values)).rows[0] as T;

  const live = (moments: Moment[], rules: Partial<Rules> = {}) => liveFlow(stage, oona, moments, rules);

  it('a wait survives the death of every process; the moment comes once', async () => {
    const flow = await live([
      momentOf('a', { lanes: lanes([text('t1', 'first')]) }),
      momentOf('b', {
        at: later(3, 'seconds'),
        lanes: lanes([text('t2', 'second')], [stepOf('note', 'n', { text: 'then' })]),
      }),
    ]);
    await flow.send({ email: 'wait@example.org', phone: '+61491570156' });
    await flow.waits('wait@example.org');
    for (const one of [stage.web, stage.worker!]) one.child.kill('SIGKILL');
    await Promise.all([stage.web.ended, stage.worker!.ended]);
    await stage.startWeb();
    await stage.startWorker();
    const run = await flow.over('wait@example.org');
    expect(run.state).to.equal('done');
    expect(texts('+61491570156')).to.deep.equal(['first', 'second']);
    expect(
      (await one<{ n: number }>('select count(*)::int as n from lead_note where run_id = $1', [run.id])).n,
    ).to.equal(1);
  }).timeout(60_000);

  it('a reply wakes the run at once; one that says something else does not', async () => {
    const flow = await live([
      momentOf('a', { lanes: lanes([text('t1', 'Reply yes')]) }),
      momentOf('b', {
        at: reply(20, 'hours', 'yes'),
        cases: [{ id: 'c', name: '', when: yes, lanes: lanes([text('t2', 'You said {{ happened.text }}')]) }],
        lanes: lanes([text('t3', 'Pity')]),
      }),
    ]);
    await flow.send({ email: 'reply@example.org', phone: '+61491570157' });
    await flow.waits('reply@example.org');
    const write = (words: string) =>
      fetch(`${stage.desk.url}/api/phones/write`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({ number: '+61491570157', text: words }),
      });
    await write('maybe');
    await until(
      'the first reply',
      async () => (await stage.db.query(`select from inbound where text = 'maybe'`)).rowCount,
    );
    expect((await flow.run('reply@example.org')).due_at).to.not.equal(null);
    await write('Yes!');
    await flow.over('reply@example.org');
    expect(texts('+61491570157')).to.deep.equal(['Reply yes', 'You said Yes!']);
  });

  it('a reply in the same instant as the end of the wait: one way or the other, never both, never neither', async () => {
    const flow = await live([
      momentOf('a'),
      momentOf('b', {
        at: reply(2, 'seconds'),
        cases: [{ id: 'c', name: '', when: yes, lanes: lanes([text('t2', 'replied')]) }],
        lanes: lanes([text('t3', 'silent')]),
      }),
    ]);
    const numbers = Array.from({ length: 24 }, (_, i) => `+447700900${String(300 + i)}`);
    await Promise.all(numbers.map((phone, i) => flow.send({ email: `race${i}@example.org`, phone })));
    await Promise.all(
      numbers.map(async (phone, i) => {
        const run = await flow.waits(`race${i}@example.org`);
        // Around the very moment the wait runs out and a process takes it up.
        await new Promise((r) => setTimeout(r, Math.max(0, run.due_at!.getTime() - Date.now() + i * 30 - 200)));
        await fetch(`${stage.desk.url}/api/phones/write`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify({ number: phone, text: 'here' }),
        });
      }),
    );
    const ways = [];
    for (const [i, phone] of numbers.entries()) {
      await flow.over(`race${i}@example.org`);
      expect(texts(phone), phone).to.have.length(1);
      ways.push(texts(phone)[0]);
    }
    expect(ways).to.include('replied');
    expect(ways).to.include('silent');
  }).timeout(60_000);

  it('puts on record what the sheet says, each once, and shows it to later steps', async () => {
    const sheet = (await oona.call<GridSheet>('POST', '/api/sheets', { name: 'Leads so far' })).body;
    const tab = sheet.tabs[0]!;
    const [first, , email, , notes] = tab.columns.map((column) => column.id) as string[];
    const tag = (await oona.call<{ id: string }>('POST', '/api/tags', { name: 'Warm' })).body.id;
    const tomas = (await one<{ id: string }>(`select id from person where name = 'Tomas Arden'`)).id;
    const desk = (await one<{ id: string }>(`select id from person where name = 'Piano desk'`)).id;
    const flow = await live(
      [
        momentOf('a', {
          first: [
            stepOf('assign', 'own', { among: [tomas, desk], keep: true }),
            stepOf('look-up', 'look', {
              name: 'Before',
              tab: tab.id,
              column: email,
              value: '{{ lead.email }}',
              whenNone: 'blanks',
            }),
          ],
          lanes: lanes(
            [
              text(
                't',
                'Hi {{ lead.first_name }}, {{ owner.name }} will call. {{ found["before.' +
                  notes +
                  '"] | default: "New here" }}',
              ),
            ],
            [
              stepOf('sheet-row', 'row', {
                tab: tab.id,
                cells: {
                  [first!]: '{{ lead.first_name }}',
                  [email!]: '{{ lead.email }}',
                  [notes!]: 'came in as {{ answers.level }}',
                },
                key: email,
                whenThere: 'update',
                each: '',
              }),
              stepOf('tag', 'tag', { action: 'add', tag }),
              stepOf('field', 'set', { field: 'answers.level', value: 'beginner' }),
              stepOf('note', 'note', { text: 'Now a {{ answers.level }}' }),
            ],
            [
              stepOf('task', 'task', {
                title: 'Call {{ lead.first_name }}',
                colleague: 'owner',
                within: { amount: 1, unit: 'hours' },
              }),
              stepOf('hold-time', 'hold', {
                colleague: desk,
                title: 'Call',
                time: '08:00',
                day: 'next_day',
                workingDays: false,
                minutes: 15,
              }),
            ],
          ),
        }),
      ],
      { samePerson: 'run_again' },
    );
    for (const [i, name] of ['Ada', 'Bo', 'Ada'].entries()) {
      await flow.send({
        name,
        email: `${name.toLowerCase()}@example.org`,
        phone: `+6149157015${8 + (name === 'Bo' ? 1 : 0)}`,
        level: `level ${i}`,
      });
      await flow.over(`${name.toLowerCase()}@example.org`);
      await until(
        'all runs',
        async () =>
          (await stage.db.query(`select from run where workflow_id = $1 and due_at is null`, [flow.id])).rowCount ===
          i + 1,
      );
    }
    const rows = (await stage.db.query('select cells from sheet_row where tab_id = $1 order by position', [tab.id]))
      .rows;
    expect(rows.map((row) => [row.cells[first!], row.cells[notes!]])).to.deep.equal([
      ['Ada', 'came in as level 2'],
      ['Bo', 'came in as level 1'],
    ]);
    expect(texts('+61491570158')).to.deep.equal([
      'Hi Ada, Tomas Arden will call. New here',
      'Hi Ada, Tomas Arden will call. came in as level 0',
    ]);
    expect(texts('+61491570159')).to.deep.equal(['Hi Bo, Piano desk will call. New here']);
    const ada = await one<{ id: string; answers: Record<string, string>; owner_id: string }>(
      `select * from lead where email = 'ada@example.org'`,
    );
    expect([ada.answers.level, ada.owner_id]).to.deep.equal(['beginner', tomas]);
    const notesWritten = (await stage.db.query('select text from lead_note where lead_id = $1', [ada.id])).rows;
    expect(notesWritten.map((row) => row.text)).to.deep.equal(['Now a beginner', 'Now a beginner']);
    expect((await stage.db.query('select from lead_tag where tag_id = $1', [tag])).rowCount).to.equal(2);
    expect((await stage.db.query('select from task where colleague_id = $1', [tomas])).rowCount).to.equal(2);
    const held = (
      await stage.db.query('select starts_at, ends_at from calendar_entry where colleague_id = $1 order by starts_at', [
        desk,
      ])
    ).rows;
    for (let i = 1; i < held.length; i++)
      expect(held[i].starts_at.getTime(), 'nobody is held twice').to.be.at.least(held[i - 1].ends_at.getTime());
  });

  it('looks up their company once for many, passes over addresses anybody can have, and goes on when the directory is away', async () => {
    const flow = await live(
      [
        momentOf('a', {
          first: [
            stepOf(
              'company',
              'c',
              { whenNone: 'blanks', keepDays: 30 },
              { ifFails: { tryForMinutes: 0, after: 'carry_on' } },
            ),
            stepOf(
              'check',
              'k',
              {
                condition: { field: 'lead.email', test: 'throw_away', value: '', to: '', exact: false },
                ends: 'run',
                name: '',
              },
              { on: false },
            ),
          ],
          lanes: lanes([
            text('t', 'From {{ found["company.name"] | default: "somewhere" }}, {{ found["company.town"] }}'),
          ]),
        }),
      ],
      { samePerson: 'run_again' },
    );
    const asked = async (email: string, phone: string) => {
      await flow.send({ email, phone });
      return flow.over(email);
    };
    await asked('ann@harrow-mills.example', '+447700900360');
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, directoryDown: true };
    // Known from an earlier look, so it does not matter that the directory is away now.
    await asked('bea@harrow-mills.example', '+447700900361');
    await asked('cid@gmail.com', '+447700900362');
    const failed = await asked('dan@northquay.example', '+447700900363');
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, directoryDown: false };
    expect(['60', '61', '62', '63'].map((n) => texts(`+4477009003${n}`)[0])).to.deep.equal([
      'From Harrow Mills, Bath',
      'From Harrow Mills, Bath',
      'From somewhere,',
      'From somewhere,',
    ]);
    expect(failed.state).to.equal('needs_you');
    // It went on without it: taking it up from there would write a second time, and that must be said outright.
    const again = (sendAgain: boolean) =>
      oona.call<{ runId: string; done: string; detail: string }>(
        'POST',
        `/api/workflows/${flow.id}/runs/${failed.id}/again`,
        {
          stepId: 'c',
          sendAgain,
          key: randomUUID(),
        },
      );
    expect((await again(false)).status).to.equal(409);
    expect((await again(true)).body.done).to.match(/^It goes on from “Look up their company” now/);
    await until('the text with the company', () => texts('+447700900363').length === 2);
  });

  it('a look-up in First waits while the directory is away, and the lead is answered with what it told', async () => {
    const flow = await live([
      momentOf('a', {
        first: [stepOf('company', 'c', { whenNone: 'blanks', keepDays: 0 })],
        lanes: lanes([text('t', 'From {{ found["company.name"] | default: "somewhere" }}')]),
      }),
    ]);
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, directoryDown: true };
    await flow.send({ email: 'eva@harrow-mills.example', phone: '+447700900364' });
    await until('a first try', () =>
      one(`select from step_result s join run r on r.id = s.run_id where r.workflow_id = $1 and s.state = 'again'`, [
        flow.id,
      ]),
    );
    expect(texts('+447700900364')).to.deep.equal([]);
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, directoryDown: false };
    // The directory asks for half a minute; the test does not wait for that.
    await until('the run to be given back', () =>
      one(`select from run where workflow_id = $1 and lease_by is null and due_at is not null`, [flow.id]),
    );
    await stage.db.query(
      `update step_result set next_try_at = now() where step_id = 'c' and run_id in (select id from run where workflow_id = $1)`,
      [flow.id],
    );
    await stage.db.query('update run set due_at = now() where workflow_id = $1', [flow.id]);
    expect((await flow.over('eva@harrow-mills.example')).state).to.equal('done');
    expect(texts('+447700900364')).to.deep.equal(['From Harrow Mills']);
  });

  it('one open deal per lead and pipeline: opened, moved, closed, and opened anew', async () => {
    const { stages } = (
      await oona.call<{ stages: { id: string; name: string }[] }>('POST', '/api/pipelines', { name: 'Enrolment' })
    ).body;
    const stage1 = (n: number) => stages[n]!.id;
    const flow = await live(
      [
        momentOf('a', {
          lanes: lanes(
            [],
            [stepOf('deal', 'd1', { stage: stage1(0), title: '{{ lead.first_name }}', value: '£1,200' })],
          ),
        }),
        momentOf('b', {
          at: later(1, 'seconds'),
          lanes: lanes([], [stepOf('deal', 'd2', { stage: stage1(3), title: 'x', value: '' })]),
        }),
      ],
      { samePerson: 'run_again' },
    );
    const who = { email: 'deal@example.org', phone: '+61491570115' };
    await Promise.all([flow.send(who), flow.send(who)]);
    await until(
      'both runs',
      async () =>
        (await stage.db.query('select from run where workflow_id = $1 and due_at is null', [flow.id])).rowCount === 2,
    );
    const { rows } = await stage.db.query(
      'select d.title, d.value, s.name, d.closed_at is not null as closed from deal d join stage s on s.id = d.stage_id order by d.created_at',
    );
    expect(rows.filter((row) => !row.closed)).to.have.length.at.most(1);
    expect(rows[0]).to.deep.equal({ title: 'Ada', value: '1200.00', name: 'Won', closed: true });
  });

  it('an email with its own sender and copies; a test of it goes to oneself only', async () => {
    const flow = await live([
      momentOf('a', {
        lanes: lanes([
          stepOf('email', 'e', {
            subject: 'Hello {{ lead.first_name }}',
            message: 'Text',
            needsConsent: false,
            fromName: 'The piano desk',
            replyTo: 'desk@wrenfield.example',
            cc: 'owner@wrenfield.example',
            bcc: 'archive@wrenfield.example',
            preheader: 'Behind the subject',
          }),
        ]),
      }),
    ]);
    await flow.send({ email: 'copies@example.org' });
    await flow.over('copies@example.org');
    const mails = stage.desk.world.state.mails.filter((mail) => mail.subject === 'Hello Ada');
    expect(mails.map((mail) => mail.mailbox).sort()).to.deep.equal([
      'archive@wrenfield.example',
      'copies@example.org',
      'owner@wrenfield.example',
    ]);
    const header = (name: string) => mails[0]!.headers.find((header) => header.name === name)?.value ?? '';
    expect(header('from')).to.equal('The piano desk <hello@wrenfield.example>');
    expect(header('reply-to')).to.equal('desk@wrenfield.example');
    expect(header('cc')).to.equal('owner@wrenfield.example');
    expect(mails.some((mail) => mail.headers.some((header) => header.value.includes('archive@')))).to.equal(false);
    const before = stage.desk.world.state.mails.length;
    await oona.call('POST', `/api/workflows/${flow.id}/send-to-me`, { stepId: 'e', arrivalId: null });
    const fresh = stage.desk.world.state.mails.slice(before);
    expect(fresh.map((mail) => mail.mailbox)).to.deep.equal(['oona@wrenfield.example']);
  });

  it('a tag wakes what waits for it; a booking ends what ends by it', async () => {
    const tag = (await oona.call<{ id: string }>('POST', '/api/tags', { name: 'Signed up' })).body.id;
    const waiting = await live([
      momentOf('a'),
      momentOf('b', {
        at: {
          kind: 'event',
          event: 'tag',
          words: '',
          sources: [],
          tag,
          list: '',
          stage: '',
          step: '',
          within: { amount: 9, unit: 'hours' },
        },
        lanes: lanes([text('t', 'Welcome')]),
      }),
    ]);
    const ending = await live(
      [momentOf('a'), momentOf('b', { at: later(9, 'hours'), lanes: lanes([text('t', 'Never')]) })],
      {
        endsWhen: ['booked'],
      },
    );
    const tagging = await live([momentOf('a', { lanes: lanes([], [stepOf('tag', 'g', { action: 'add', tag })]) })]);
    const who = { email: 'tagged@example.org', phone: '+61491570110' };
    await waiting.send(who);
    await waiting.waits(who.email);
    await ending.send(who);
    await ending.waits(who.email);
    await tagging.send(who);
    await waiting.over(who.email);
    expect(texts(who.phone)).to.deep.equal(['Welcome']);
    await fetch(`${stage.desk.url}/api/appointments`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        calendar: 'cal-piano',
        title: 'Trial',
        start: '2026-12-01T10:00:00Z',
        end: '2026-12-01T10:30:00Z',
        bookedBy: 'self',
        person: { name: 'Tagged', ...who },
      }),
    });
    const ended = await ending.over(who.email);
    expect(ended.outcome).to.equal('Ended early: they booked');
  });

  it('outside the hours a text is held until they begin, and the team is told at once', async () => {
    const clock = (hours: number) =>
      new Date(Date.now() + hours * 3_600_000).toLocaleTimeString('en-GB', {
        timeZone: 'Europe/London',
        hour: '2-digit',
        minute: '2-digit',
      });
    const flow = await live(
      [momentOf('a', { lanes: lanes([text('t', 'Later')], [stepOf('note', 'n', { text: 'now' })]) })],
      { hours: { text: { from: clock(3), to: clock(6) }, email: null, chat: null }, answerAtOnce: false },
    );
    await flow.send({ email: 'held@example.org', phone: '+447700900350' });
    const run = await flow.waits('held@example.org');
    expect((run.due_at!.getTime() - Date.now()) / 3_600_000).to.be.within(2.9, 3.1);
    expect(texts('+447700900350')).to.deep.equal([]);
    expect(await one('select state from step_result where run_id = $1 and step_id = $2', [run.id, 'n'])).to.deep.equal({
      state: 'done',
    });
  });

  it('outside the hours, an email below a held text goes, and whoever has just come in by themselves is answered at once', async () => {
    const clock = (hours: number) =>
      new Date(Date.now() + hours * 3_600_000).toLocaleTimeString('en-GB', {
        timeZone: 'Europe/London',
        hour: '2-digit',
        minute: '2-digit',
      });
    const shut = { hours: { text: { from: clock(3), to: clock(6) }, email: null, chat: null } };
    const both = [text('t', 'Later'), freshStep('email', 'e', { subject: 'Below the text', message: 'x' })];
    const held = await live([momentOf('a', { lanes: lanes(both) })], { ...shut, answerAtOnce: false });
    await held.send({ email: 'below@example.org', phone: '+447700900391' });
    await held.waits('below@example.org');
    const mails = (email: string) =>
      stage.desk.world.state.mails.filter((mail) => mail.mailbox === email).map((mail) => mail.subject);
    expect(mails('below@example.org')).to.deep.equal(['Below the text']);
    expect(texts('+447700900391')).to.deep.equal([]);
    const now = await live([momentOf('a', { lanes: lanes(both) })], shut);
    await now.send({ email: 'at.once@example.org', phone: '+447700900392' });
    await now.over('at.once@example.org');
    expect(texts('+447700900392')).to.deep.equal(['Later']);
  });

  it('a sheet that has gone stops its own step only, and a person is asked', async () => {
    const sheet = (await oona.call<GridSheet>('POST', '/api/sheets', { name: 'Short-lived' })).body;
    const [column] = sheet.tabs[0]!.columns;
    const flow = await live([
      momentOf('a', {
        lanes: lanes(
          [text('t', 'All the same')],
          [
            stepOf('sheet-row', 'row', {
              tab: sheet.tabs[0]!.id,
              cells: { [column!.id]: 'x' },
              key: '',
              whenThere: 'add',
              each: '',
            }),
            stepOf('note', 'n', { text: 'after it' }),
          ],
        ),
      }),
    ]);
    const refused = await oona.call<{ detail: string }>('DELETE', `/api/sheets/${sheet.id}`);
    expect(refused.status).to.equal(409);
    expect(refused.body.detail).to.match(/Case \d+/);
    await stage.db.query('delete from sheet where id = $1', [sheet.id]);
    await new Promise((resolve) => setTimeout(resolve, 1100));
    await flow.send({ email: 'gone@example.org', phone: '+61491570111' });
    const run = await flow.over('gone@example.org');
    expect(run.state).to.equal('needs_you');
    expect(texts('+61491570111')).to.deep.equal(['All the same']);
    const { rows } = await stage.db.query('select step_id, state from step_result where run_id = $1 order by step_id', [
      run.id,
    ]);
    expect(rows).to.deep.equal([
      { step_id: 'n', state: 'done' },
      { step_id: 'row', state: 'ask' },
      { step_id: 't', state: 'done' },
    ]);
  });

  it('refused by the carrier, it goes by email instead; a colleague is told of what nothing could be done about', async () => {
    const tomas = (await one<{ id: string }>(`select id from person where name = 'Tomas Arden'`)).id;
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, refusedNumbers: ['+61491570112'] };
    const flow = await live(
      [
        momentOf('a', {
          lanes: lanes([
            text('t', 'By one way or the other', { ifFails: { tryForMinutes: 5, after: 'other_channel' } }),
            text('u', 'Only by text'),
          ]),
        }),
      ],
      { tell: { colleague: tomas, every: 'each' } },
    );
    await flow.send({ email: 'other@example.org', phone: '+61491570112' });
    const run = await flow.over('other@example.org');
    expect(run.state).to.equal('needs_you');
    expect(run.outcome).to.equal('Text refused, email sent instead, Text refused');
    const mail = stage.desk.world.state.mails.find((mail) => mail.mailbox === 'other@example.org');
    expect(mail?.subject).to.equal('A message from Wrenfield Music School');
    const told = await until('the notice', () =>
      stage.desk.world.state.mails.find(
        (mail) => mail.mailbox === 'tomas@wrenfield.example' && /Case/.test(mail.subject),
      ),
    );
    expect(told.subject).to.match(/Text refused$/);
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, refusedNumbers: [] };
  }).timeout(40_000);

  it('a rehearsal shows every moment with its time, and leaves no trace', async () => {
    const flow = await live([
      momentOf('a', { lanes: lanes([text('t1', 'Hi')], [stepOf('note', 'n', { text: 'x' })]) }),
      momentOf('b', {
        at: { kind: 'time_of_day', time: '09:00', day: 'next_day', workingDays: true, whose: 'lead' },
        cases: [
          {
            id: 'c',
            name: '',
            when: { field: 'answers.level', test: 'is', value: 'beginner', to: '', exact: false },
            lanes: lanes([text('t2', 'Easy')]),
          },
        ],
        lanes: lanes([text('t3', 'Hard')]),
      }),
    ]);
    await flow.send({ email: 'sample@example.org', phone: '+447700900351', level: 'Beginner' });
    await flow.waits('sample@example.org');
    const size = async () =>
      JSON.stringify(
        await one(`select (select count(*) from delivery) d, (select count(*) from step_result) s, (select count(*) from run) r,
          (select count(*) from lead_note) n, (select count(*) from lead_tag) t, (select count(*) from task) k, (select count(*) from arrival) a`),
      ) +
      stage.desk.world.state.mails.length +
      Object.values(stage.desk.world.state.phones).flatMap((p) => p.messages).length;
    const before = await size();
    const shown = (
      await oona.call<RehearsalShown>('POST', `/api/workflows/${flow.id}/rehearse`, { arrivalId: null, happens: false })
    ).body;
    const last = (await oona.call<RehearsedLead[]>('POST', `/api/workflows/${flow.id}/rehearse-last`)).body;
    expect(await size()).to.equal(before);
    const [, b] = shown.moments;
    expect(b).to.include({ caseId: 'c', zone: 'Europe/London', leftOut: null });
    const clock = new Date(b!.at!).toLocaleString('en-GB', {
      timeZone: 'Europe/London',
      hour: '2-digit',
      minute: '2-digit',
      weekday: 'short',
    });
    expect(clock).to.match(/^(Mon|Tue|Wed|Thu|Fri).* 09:00$/);
    expect(b!.compared[0]).to.deep.include({ holds: true, found: 'Beginner' });
    expect(b!.steps.filter((step) => step.taken).map((step) => step.stepId)).to.deep.equal(['t2']);
    expect(last[0]).to.include({ name: 'Ada', stopped: null });
    expect(last[0]!.messages).to.deep.equal(['Text', 'Text']);
    const other = (
      await oona.call<RehearsalShown>('POST', `/api/workflows/${flow.id}/rehearse`, {
        arrivalId: null,
        happens: false,
        values: { 'answers.level': 'grade 8', 'lead.phone': '+819012345678' },
      })
    ).body;
    expect(other.moments[1]).to.include({ caseId: null, zone: 'Asia/Tokyo' });
  });

  it('put live while leads are under way: they finish as they began, or move on where they can', async () => {
    const flow = await live([
      momentOf('a', { lanes: lanes([text('t1', 'one')]) }),
      momentOf('b', { at: later(9, 'hours'), lanes: lanes([text('t2', 'two')]) }),
    ]);
    await flow.send({ email: 'moves@example.org', phone: '+61491570113' });
    const before = await flow.waits('moves@example.org');
    const { body } = await oona.call<{ workflow: { draft: Definition } }>('GET', `/api/workflows/${flow.id}`);
    const changed = structuredClone(body.workflow.draft);
    changed.moments[1]!.lanes.lead[0]!.settings.message = 'changed';
    changed.moments.push({ ...blankMoment('z', later(1, 'seconds')), lanes: lanes([text('t9', 'more')]) });
    const under = await oona.call<{ count: number; canMove: number }>('GET', `/api/workflows/${flow.id}/live`);
    expect(under.body).to.deep.equal({ count: 1, canMove: 1 });
    expect(await flow.put(changed, true)).to.include({ version: 2, moved: 1 });
    await stage.db.query('update run set due_at = now() where id = $1', [before.id]);
    await flow.over('moves@example.org');
    expect(texts('+61491570113')).to.deep.equal(['one', 'changed', 'more']);
  });

  it('the same person again: nothing, or again once some days have passed', async () => {
    const never = await live([momentOf('a', { lanes: lanes([text('t', 'never twice')]) })], { samePerson: 'nothing' });
    const days = await live([momentOf('a', { lanes: lanes([text('t', 'after days')]) })], {
      samePerson: 'run_again_after',
      againAfterDays: 7,
    });
    const who = { email: 'again@example.org', phone: '+61491570114' };
    for (const flow of [never, days]) {
      await flow.send(who);
      await flow.over(who.email);
      await flow.send(who);
    }
    await stage.db.query(`update run set created_at = created_at - interval '8 days' where workflow_id = $1`, [
      days.id,
    ]);
    await days.send(who);
    await until('the third', () => texts(who.phone).length >= 3);
    // A text is on the phone before its run has written down that it is done.
    await days.over(who.email);
    expect(texts(who.phone)).to.deep.equal(['never twice', 'after days', 'after days']);
    const runs = (id: string) =>
      stage.db.query('select state from run where workflow_id = $1 order by created_at', [id]);
    expect((await runs(never.id)).rows.map((row) => row.state)).to.deep.equal(['done']);
    expect((await runs(days.id)).rows.map((row) => row.state).sort()).to.deep.equal(['done', 'done', 'known']);
  });
});
