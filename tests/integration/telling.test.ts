import { expect } from 'chai';
import { v7 as uuidv7 } from 'uuid';
import type { TellingView } from '../../src/app/people/telling.ts';
import type { EmailMessage } from '../../src/core/workflow/plan.ts';
import { sendMorningSummaries } from '../../src/worker/morning-summaries.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { openStage, SIGN_IN, type Stage, signedIn, until } from '../stage/stage.ts';

const NOT_QUIET = { quiet: null, summaryAt: null };

describe('being told by message', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Coordinator;
  let flow: Awaited<ReturnType<typeof liveFlow>>;
  before(async () => {
    stage = await openStage();
    oona = await signedIn(stage);
    flow = await liveFlow(stage, oona, [momentOf('a', toTheLead(freshStep('text', 't', { message: 'Hello' })))]);
  });
  after(() => stage.close());

  const put = (input: Partial<TellingView>) =>
    oona.call<TellingView & { detail?: string }>('PUT', '/api/my-telling', {
      email: [],
      text: [],
      ...NOT_QUIET,
      ...input,
    });
  const mails = (words: string) => stage.desk.world.state.mails.filter(({ subject }) => subject.includes(words));
  const texts = (words: string) => stage.desk.world.state.carrier.filter(({ text }) => text.includes(words));
  const way = async (by: string) => (await stage.db.query('select * from notice_way where by = $1', [by])).rows[0];
  /** As if the pause were over. */
  const nextMinutes = () => stage.db.query('update notice_way set not_before = null');

  it('wants a phone before it texts, and says so', async () => {
    await stage.db.query(`update membership set test_phone = '' where role = 'owner'`);
    const answer = await put({ text: ['leads'] });
    expect([answer.status, answer.body.detail]).to.deep.equal([
      422,
      'Say your phone first, under “Where you are reached”. Then you can be told by text.',
    ]);
    await stage.db.query(`update membership set test_phone = '07700 900321' where role = 'owner'`);
    expect((await put({ email: ['leads'], text: ['leads'] })).status).to.equal(200);
  });

  it('a lead is told at once by both, once, with the way to them in the business’s own address', async () => {
    await flow.send({ name: 'Wilma', email: 'wilma@example.org' });
    await until('the email', async () => mails('New lead: Wilma').length > 0);
    await until('the text', async () => texts('New lead: Wilma').length > 0);
    expect(texts('New lead: Wilma')[0]!.text).to.match(
      /^Wrenfield Music School: New lead: Wilma, Case \d+ http\S+\/at\/wrenfield-music-school\/leads\/[\da-f-]{36}$/,
    );
    expect(texts('New lead: Wilma')[0]!.to).to.equal('+447700900321');
    await until('it noted', async () => (await way('text')).told_at);
    await new Promise((resolve) => setTimeout(resolve, 3000));
    expect([mails('Wilma').length, texts('New lead: Wilma').length]).to.deep.equal([1, 1]);
  });

  it('what comes in the minutes after is told together', async () => {
    await flow.send({ name: 'Xara', email: 'xara@example.org' });
    await flow.send({ name: 'Yann', email: 'yann@example.org' });
    await flow.over('yann@example.org');
    await new Promise((resolve) => setTimeout(resolve, 4500));
    expect(mails('Xara').length + texts('Xara').length).to.equal(0);
    await nextMinutes();
    await until('both at once', async () => mails('2 new leads').length === 1 && texts('2 new leads').length === 1);
  });

  it('with the carrier away it is told once it is back, and the person sees why it was late', async () => {
    await put({ text: ['leads'] });
    stage.desk.world.state.trouble.carrierDown = true;
    await nextMinutes();
    await flow.send({ name: 'Zola', email: 'zola@example.org' });
    await until('the failure to be known', async () => (await way('text')).failures > 0, 20_000);
    expect((await oona.call<TellingView>('GET', '/api/my-telling')).body.problems.text).to.not.equal('');
    stage.desk.world.state.trouble.carrierDown = false;
    await nextMinutes();
    await until('the text', async () => texts('New lead: Zola').length === 1, 30_000);
    expect((await oona.call<TellingView>('GET', '/api/my-telling')).body.problems.text).to.equal('');
  });

  it('what waited over a weekend is not dropped by a carrier that is away on Monday', async () => {
    await stage.db.query(`update notice_way set told_until = now() - interval '3 days' where by = 'text'`);
    stage.desk.world.state.trouble.carrierDown = true;
    await nextMinutes();
    await flow.send({ name: 'Monday', email: 'monday@example.org' });
    await until('the failure to be known', async () => (await way('text')).failures > 0, 20_000);
    stage.desk.world.state.trouble.carrierDown = false;
    await nextMinutes();
    await until('the text', async () => texts('new leads').some(({ text }) => text.includes('Monday')), 30_000);
  });

  it('in quiet hours it waits, on devices too, and is told when they are changed', async () => {
    // Quiet but for the minute twelve hours from now.
    const clock = (hours: number) =>
      new Date(Date.now() + hours * 3_600_000).toLocaleTimeString('en-GB', {
        timeZone: 'Europe/London',
        hour: '2-digit',
        minute: '2-digit',
      });
    expect((await put({ text: ['leads'], quiet: { from: clock(-6), to: clock(6) } })).status).to.equal(200);
    await flow.send({ name: 'Quentin', email: 'quentin@example.org' });
    await until('it held', async () => {
      const row = await way('text');
      return row.not_before !== null && row.not_before.getTime() > Date.now() + 4 * 3_600_000;
    });
    expect(texts('Quentin').length).to.equal(0);
    await put({ text: ['leads'] });
    await until('the text', async () => texts('New lead: Quentin').length === 1);
  });

  it('what is unticked is not told, now or later; a colleague’s choices are their own', async () => {
    await put({ text: ['conversations'] });
    await nextMinutes();
    await flow.send({ name: 'Ugo', email: 'ugo@example.org' });
    await flow.over('ugo@example.org');
    await new Promise((resolve) => setTimeout(resolve, 4000));
    await put({ text: ['leads', 'conversations'] });
    await new Promise((resolve) => setTimeout(resolve, 3000));
    expect(texts('Ugo').length + mails('Ugo').length).to.equal(0);
    const tomas = await signedIn(stage, { ...SIGN_IN, email: 'tomas@wrenfield.example' });
    expect((await tomas.call<TellingView>('GET', '/api/my-telling')).body).to.deep.include({
      email: [],
      text: [],
      quiet: null,
    });
    expect((await put({ email: [], text: [] })).status).to.equal(200);
    expect((await stage.db.query('select from notice_way')).rowCount).to.equal(0);
  });

  it('in the morning what waits comes once, on days they work, by the business’s clock', async () => {
    const sent: EmailMessage[] = [];
    const answers = ['again', 'accepted', 'accepted'];
    const { rows } = await stage.db.query<{ id: string; person_id: string; business_id: string }>(
      `select * from membership where role = 'owner'`,
    );
    const me = rows[0]!;
    const morning = (now: string) =>
      sendMorningSummaries({
        pool: stage.db,
        now: () => Date.parse(now),
        settings: { publicUrl: 'http://pine.example' },
        settingsCache: {
          provisionsOf: async () => ({
            catalogue: {
              email: { connectionId: 'mail', fromName: 'W', fromAddress: 'w@wrenfield.example' },
              colleagues: [{ id: me.person_id, name: 'Oona', email: SIGN_IN.email }],
            },
            accounts: new Map([['mail', { kind: 'email', businessId: me.business_id }]]),
          }),
        },
        outside: {
          attachments: { read: async () => ({ ok: true, files: [] }) },
          mail: {
            send: async (_: unknown, message: EmailMessage) => {
              const kind = answers.shift() ?? 'accepted';
              if (kind === 'accepted') sent.push(message);
              return { kind, code: '', detail: '', remoteId: null, afterMs: null };
            },
          },
        },
      } as unknown as Parameters<typeof sendMorningSummaries>[0]);
    await put({ summaryAt: '08:00' });
    const lead = (await stage.db.query<{ id: string }>(`select id from lead where email = 'wilma@example.org'`))
      .rows[0]!.id;
    await stage.db.query(
      `insert into task (id, business_id, lead_id, colleague_id, title, due_at, created_at) values ($1, $2, $3, $4, 'Ring Wilma up', now(), now())`,
      [uuidv7(), me.business_id, lead, me.person_id],
    );
    const today = new Date().toISOString().slice(0, 10);
    const mondayOff = JSON.stringify({
      week: Array(7).fill({ from: '09:00', to: '17:00' }),
      off: [{ from: today, to: today }],
    });
    await stage.db.query(`update business set time_zone = 'UTC'`);
    await morning(`${today}T07:59:00Z`);
    expect(sent.length).to.equal(0);
    await stage.db.query('update membership set working = $2 where id = $1', [me.id, mondayOff]);
    await morning(`${today}T08:00:00Z`);
    await stage.db.query('update membership set working = null where id = $1', [me.id]);
    expect(sent.length, 'on a day off').to.equal(0);
    // The mail server is away for a minute; two look at the same time later.
    await morning(`${today}T08:01:00Z`);
    expect(sent.length).to.equal(0);
    await morning(`${today}T08:02:00Z`);
    await morning(`${today}T08:03:00Z`);
    expect(sent.map(({ to }) => to)).to.deep.equal([SIGN_IN.email]);
    expect(sent[0]!.subject).to.match(/^Wrenfield Music School, this morning: .*1 task due/);
    expect(sent[0]!.text)
      .to.include('Ring Wilma up')
      .and.to.include('http://pine.example/at/wrenfield-music-school/leads');
    // Hours late is no morning any more.
    await stage.db.query('update membership set summary_on = null where id = $1', [me.id]);
    await morning(`${today}T13:00:00Z`);
    expect(sent.length).to.equal(1);
  });

  it('dates are in one’s own language for oneself, and in the business’s for whoever it writes to', async () => {
    const form = (dates: string) =>
      fetch(`${stage.url}/settings/you`, {
        method: 'POST',
        headers: { cookie: oona.cookie, origin: stage.url },
        body: new URLSearchParams({ form: 'dates', dates }),
        redirect: 'manual',
      });
    const page = async (path: string) => (await fetch(stage.url + path, { headers: { cookie: oona.cookie } })).text();
    expect((await form('xx-XX')).status).to.equal(422);
    expect((await form('de-DE')).status).to.equal(303);
    expect(await page('/settings')).to.match(/today is (Montag|Dienstag|Mittwoch|Donnerstag|Freitag|Samstag|Sonntag)/);
    // The business's own hours are as they were.
    expect(await page('/settings')).to.match(/<option value="country" selected/);
    const { rows } = await stage.db.query('select locale from business');
    expect(rows[0].locale).to.equal('en-GB');
    expect((await form('')).status).to.equal(303);
  });
});
