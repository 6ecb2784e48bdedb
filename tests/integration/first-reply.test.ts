import { expect } from 'chai';
import { v7 as uuidv7 } from 'uuid';
import { adEntry, openStage, push, type Stage, signedIn, until } from '../stage/stage.ts';

describe('from an ad form to a text on the phone', () => {
  let stage: Stage;
  before(async function () {
    this.timeout(60_000);
    stage = await openStage();
  });
  after(() => stage.close());

  const texts = (number: string) =>
    stage.desk.world.state.phones[number]?.messages.filter((message) => message.direction === 'to_phone') ?? [];
  const runOf = (email: string) =>
    stage.db
      .query(
        `select r.*, l.email, l.phone, l.first_name from run r join lead l on l.id = r.lead_id where l.email ilike $1 order by r.created_at desc`,
        [email],
      )
      .then(({ rows }) => rows[0]);
  const finished = (email: string) =>
    until(`the run of ${email} to finish`, async () => {
      const run = await runOf(email);
      return run && run.due_at === null ? run : null;
    });

  it('tidies, texts, emails and tells the desk, and notes every answer', async () => {
    const source = await stage.source('Trial lesson form');
    const answer = await push(
      source,
      adEntry('e-1', {
        first_name: 'MAREN',
        last_name: "o'hanlon",
        email: 'Maren@Example.org',
        phone: '07700 900 201',
      }),
    );
    expect(answer.status).to.equal(202);
    const run = await finished('maren@example.org');
    expect(run).to.include({
      state: 'done',
      outcome: 'Text sent, Email sent, Team told',
      phone: '+447700900201',
      first_name: 'Maren',
    });
    expect(texts('+447700900201')[0]?.text).to.equal(
      'Hi Maren, thanks for asking about piano lessons. Reply 1 for a call today or 2 to choose a time. Oona, Wrenfield Music',
    );
    const mails = stage.desk.world.state.mails.filter((mail) => mail.mailbox === 'maren@example.org');
    expect(mails.map((mail) => mail.subject)).to.deep.equal(['Your trial lesson: pick a time that suits you']);
    const {
      rows: [delivery],
    } = await stage.db.query(`select id from delivery where run_id = $1 and channel = 'email' and audience = 'lead'`, [
      run.id,
    ]);
    expect(mails[0]!.headers.find((header) => header.name === 'message-id')?.value).to.equal(
      `<${delivery.id}@wrenfield.example>`,
    );
    const told = stage.desk.world.state.mails.find((mail) => mail.mailbox === 'piano.desk@wrenfield.example');
    expect(told?.subject).to.equal("New trial lesson: Maren O'Hanlon, Piano");
    await until(
      'the delivery report',
      async () =>
        (await stage.db.query(`select 1 from delivery where run_id = $1 and state = 'delivered'`, [run.id])).rowCount,
    );
  });

  it('answers a repeat of the same entry with the first arrival and does nothing else', async () => {
    const source = await stage.source('Trial lesson form');
    const entry = adEntry('e-2', { email: 'teo@example.org', phone: '07700 900202' });
    const first = await push(source, entry);
    await finished('teo@example.org');
    const second = await push(source, entry);
    expect(second).to.deep.include({ status: 202, body: { id: first.body.id, repeat: true, count: 0 } });
    expect(texts('+447700900202')).to.have.length(1);
  });

  it('makes one lead and one text of the same person arriving twice in the same instant from two sources', async () => {
    const [trial, openDay] = await Promise.all([stage.source('Trial lesson form'), stage.source('Open day sign-in')]);
    const pairs = Array.from({ length: 12 }, (_, i) => ({
      email: `twin${i}@example.org`,
      phone: `07700 9003${String(i).padStart(2, '0')}`,
    }));
    await Promise.all(
      pairs.flatMap(({ email, phone }, i) => [
        push(trial, adEntry(`twin-${i}-a`, { email: email.toUpperCase(), phone })),
        push(trial, adEntry(`twin-${i}-b`, { email, phone: `+44 ${phone.slice(1)}` })),
        push(
          openDay,
          JSON.stringify({ name: 'Nadia Okafor', email: '', contact_number: phone, agrees_to_texts: 'yes' }),
          {},
          null,
        ),
      ]),
    );
    for (const { email, phone } of pairs) {
      const { rows } = await stage.db.query('select distinct lead_id from lead_identity where value = any($1)', [
        [email, `+44${phone.replaceAll(' ', '').slice(1)}`],
      ]);
      expect(rows, email).to.have.length(1);
      const { rows: runs } = await until(`runs of ${email}`, async () => {
        const found = await stage.db.query(
          'select w.name, r.state from run r join workflow w on w.id = r.workflow_id where r.lead_id = $1 and r.due_at is null order by w.name, r.state',
          [rows[0].lead_id],
        );
        return found.rowCount === 3 ? found : null;
      });
      expect(runs.map((run) => `${run.name}: ${run.state}`)).to.deep.equal([
        'Open day follow-up: done',
        'Trial lesson: first reply: done',
        'Trial lesson: first reply: known',
      ]);
    }
  });

  it('tries again while the carrier is busy, and the text arrives once', async () => {
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, carrierBusy: true };
    await push(
      await stage.source('Trial lesson form'),
      adEntry('e-busy', { email: 'busy@example.org', phone: '07700 900203' }),
    );
    await until(
      'a first try',
      async () =>
        (
          await stage.db.query(
            `select 1 from step_result s join run r on r.id = s.run_id join lead l on l.id = r.lead_id where l.email = 'busy@example.org' and s.state = 'again'`,
          )
        ).rowCount,
    );
    const mailed = await until('the desk to be told meanwhile', () =>
      stage.desk.world.state.mails.some((mail) => mail.text.includes('busy@example.org')),
    );
    expect(mailed).to.equal(true);
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, carrierBusy: false };
    const run = await finished('busy@example.org');
    expect(run.state).to.equal('done');
    expect(texts('+447700900203')).to.have.length(1);
    const {
      rows: [step],
    } = await stage.db.query(`select attempts from step_result where run_id = $1 and step_id = 'text-1'`, [run.id]);
    expect(step.attempts[0]).to.include({ outcome: 'again', code: 'http-429' });
    // The carrier asked for three seconds: it is not asked sooner.
    expect(Date.parse(step.attempts[1].at) - Date.parse(step.attempts[0].at)).to.be.at.least(2990);
    expect(step.attempts.at(-1)).to.include({ outcome: 'accepted' });
  }).timeout(30_000);

  it('puts a final refusal on the pile, carries on below, and runs again after the number is put right', async () => {
    await push(
      await stage.source('Trial lesson form'),
      adEntry('e-land', { email: 'ivo@example.org', phone: '0117 496 0009' }),
    );
    const run = await finished('ivo@example.org');
    expect(run).to.include({ state: 'needs_you', outcome: 'Text refused, Email sent, Team told' });
    const { rows: needs } = await stage.db.query(
      'select title, detail from needs_you where run_id = $1 and settled_at is null',
      [run.id],
    );
    expect(needs).to.have.length(1);
    expect(needs[0].detail).to.contain('Not a mobile number');
    const { call } = await signedIn(stage);
    await call('PUT', `/api/leads/${run.lead_id}`, {
      first_name: 'Ivo',
      last_name: 'Brandt',
      email: 'ivo@example.org',
      phone: '07700 900204',
    });
    const already = await call<{ detail: string }>('POST', `/api/workflows/${run.workflow_id}/runs/${run.id}/again`, {
      stepId: 'email-1',
      sendAgain: false,
      key: uuidv7(),
    });
    expect(already.status).to.equal(409);
    // Pressed twice: one key, one run.
    const key = uuidv7();
    const press = () =>
      call<{ runId: string }>('POST', `/api/workflows/${run.workflow_id}/runs/${run.id}/again`, {
        stepId: 'text-1',
        sendAgain: false,
        key,
      });
    const [again, twice] = await Promise.all([press(), press()]);
    expect([again.status, twice.status, twice.body.runId]).to.deep.equal([200, 200, key]);
    await until('the second text', () => texts('+447700900204').length);
    const {
      rows: [old],
    } = await stage.db.query('select state from run where id = $1', [run.id]);
    expect(old.state).to.equal('handled');
    // From the text on, in its lane: the desk is not told twice.
    await until(
      'the second run',
      async () =>
        (await stage.db.query('select 1 from run where id = $1 and due_at is null', [again.body.runId])).rowCount,
    );
    const { rows: steps } = await stage.db.query(
      'select step_id, state from step_result where run_id = $1 order by step_id',
      [again.body.runId],
    );
    expect(Object.fromEntries(steps.map((step) => [step.step_id, step.state]))).to.deep.equal({
      'email-1': 'done',
      'tell-1': 'skipped',
      'text-1': 'done',
      'tidy-1': 'done',
    });
  });

  it('writes to nobody without consent and says so', async () => {
    await push(
      await stage.source('Trial lesson form'),
      adEntry('e-no', { email: 'quill@example.org', phone: '07700 900205', consent: 'false' }),
    );
    const run = await finished('quill@example.org');
    expect(run).to.include({ state: 'stopped', outcome: 'Stopped: no consent to texts' });
    expect(texts('+447700900205')).to.have.length(0);
    expect(stage.desk.world.state.mails.some((mail) => mail.mailbox === 'quill@example.org')).to.equal(false);
  });

  it('keeps to a STOP written on the phone, for texts only', async () => {
    const source = await stage.source('Trial lesson form');
    await push(source, adEntry('e-stop', { email: 'stop@example.org', phone: '07700 900206' }));
    await finished('stop@example.org');
    await fetch(`${stage.desk.url}/api/phones/write`, {
      method: 'POST',
      body: JSON.stringify({ number: '+447700900206', text: ' Stop! ' }),
    });
    const { rows } = await until('the withdrawal', async () => {
      const found = await stage.db.query(
        `select c.* from consent c join lead l on l.id = c.lead_id where l.email = 'stop@example.org' and c.state = 'withdrawn'`,
      );
      return found.rowCount ? found : null;
    });
    expect(rows[0]).to.include({ channel: 'text', wording: ' Stop! ' });
    // Another workflow, another source, the same phone.
    await push(
      await stage.source('Open day sign-in'),
      JSON.stringify({ name: 'Nadia Okafor', contact_number: '07700900206', agrees_to_texts: 'no' }),
      {},
      null,
    );
    const run = await until(
      'the second run',
      async () =>
        (
          await stage.db.query(
            `select r.* from run r join workflow w on w.id = r.workflow_id where w.name = 'Open day follow-up' and r.lead_id = $1 and r.due_at is null`,
            [rows[0].lead_id],
          )
        ).rows[0],
    );
    expect(run.outcome).to.equal('Stopped: asked for no more texts');
    // The first reply, and that there will be no more.
    expect(texts('+447700900206')).to.have.length(2);
  });

  it('an accepted text that never reaches the phone goes on the pile', async () => {
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, carrierLosesReports: true };
    await push(
      await stage.source('Trial lesson form'),
      adEntry('e-lost', { email: 'lost@example.org', phone: '07700 900207' }),
    );
    const run = await finished('lost@example.org');
    const {
      rows: [delivery],
    } = await stage.db.query(`select id from delivery where run_id = $1 and channel = 'text'`, [run.id]);
    const {
      rows: [connection],
    } = await stage.db.query(`select report_key, report_secret from connection where kind = 'text_carrier'`);
    const reports = {
      url: `${stage.url}/reports/${connection.report_key}`,
      secret: stage.secrets.open(connection.report_secret),
    };
    const report = (type: string, at: string, more = {}) =>
      push(reports, JSON.stringify({ type, data: { reference: delivery.id, at, ...more } }));
    expect(
      (
        await report('text.undelivered', '2026-11-25T10:00:05.000Z', {
          code: 'absent',
          detail: 'The phone was switched off for two days',
        })
      ).status,
    ).to.equal(200);
    // A report that was overtaken does not undo a later one.
    expect((await report('text.delivered', '2026-11-25T10:00:01.000Z')).status).to.equal(200);
    const {
      rows: [after],
    } = await stage.db.query(
      'select d.state, r.state as run_state from delivery d join run r on r.id = d.run_id where d.id = $1',
      [delivery.id],
    );
    expect(after).to.deep.equal({ state: 'undelivered', run_state: 'needs_you' });
    expect((await push({ ...reports, secret: 'whsec_b3RoZXI=' }, '{}')).status).to.equal(401);
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, carrierLosesReports: false };
  });

  it('keeps its promise in the middle of the night: who has just filled in the form is texted, an hour when texts are shut', async () => {
    const oona = await signedIn(stage);
    const {
      rows: [workflow],
    } = await stage.db.query(`select id, draft, revision from workflow where name = 'Trial lesson: first reply'`);
    // As at 03:00, whatever the hour of this test: the hours of texts begin three hours from now in London.
    const clock = (hours: number) =>
      new Date(Date.now() + hours * 3_600_000).toLocaleTimeString('en-GB', {
        timeZone: 'Europe/London',
        hour: '2-digit',
        minute: '2-digit',
      });
    expect(workflow.draft.rules.answerAtOnce, 'the demo has it on').to.equal(true);
    const night = {
      ...workflow.draft.rules,
      hours: { text: { from: clock(3), to: clock(5) }, email: null, chat: null },
    };
    await oona.call('PUT', `/api/workflows/${workflow.id}`, {
      revision: workflow.revision,
      draft: { ...workflow.draft, rules: night },
    });
    expect((await oona.call('POST', `/api/workflows/${workflow.id}/live`, { moveOn: false })).status).to.equal(200);
    const answer = await push(
      await stage.source('Trial lesson form'),
      adEntry('e-night', { first_name: 'Nyx', last_name: 'Vale', email: 'nyx@example.org', phone: '07700 900 299' }),
    );
    expect(answer.status).to.equal(202);
    await until('the text, at night', async () => texts('+447700900299').length === 1);
  });
});
