import { expect } from 'chai';
import { stepKinds } from '../../src/steps/registry.ts';
import { type Coordinator, liveFlow, textsOn } from '../stage/flow.ts';
import { momentOf, stepOf } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

describe('texts within limits', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Coordinator;
  before(async () => {
    stage = await openStage();
    oona = await signedIn(stage);
  });
  after(() => stage.close());

  const flowOf = (message: string) =>
    liveFlow(stage, oona, [
      momentOf('a', {
        lanes: {
          lead: [stepOf('text', 't', { ...(stepKinds.get('text')!.blank() as object), message, needsConsent: false })],
          record: [],
          team: [],
        },
      }),
    ]);
  const settings = async (change: Record<string, string>) => {
    const answer = await fetch(`${stage.url}/settings/messages`, {
      method: 'POST',
      headers: { origin: stage.url, cookie: oona.cookie },
      body: new URLSearchParams({
        form: 'texts',
        countries: 'GB, AU',
        partsPerDay: '2000',
        partCost: '0.04',
        ...change,
      }),
      redirect: 'manual',
    });
    return answer.status;
  };
  const stepOfRun = async (email: string) =>
    (
      await stage.db.query(
        `select s.state, s.plan, r.state as run from step_result s join run r on r.id = s.run_id join lead l on l.id = r.lead_id where l.email = $1 and s.step_id = 't'`,
        [email],
      )
    ).rows[0];

  it('go to the countries that were chosen, never to numbers that cost, and say so', async () => {
    expect(await settings({ countries: 'GB, XX' })).to.equal(422);
    expect(await settings({})).to.equal(303);
    const flow = await flowOf('Hi {{ lead.first_name }}');
    await flow.send({ email: 'france@example.org', phone: '+33612345678' });
    await flow.over('france@example.org');
    const france = await stepOfRun('france@example.org');
    expect([france.state, france.run]).to.deep.equal(['ask', 'needs_you']);
    expect(JSON.stringify(france.plan)).to.contain('France is not among the countries you text');
    for (const [email, phone] of [
      ['premium@example.org', '+449098790123'],
      ['satellite@example.org', '+881612345678'],
      ['uan@example.org', '+443001234567'],
    ] as const) {
      await flow.send({ email, phone });
      await flow.over(email);
      const told = await stepOfRun(email);
      expect(told.state, JSON.stringify(told)).to.equal('nothing');
      expect(JSON.stringify(told.plan), email).to.match(/costs whoever|belongs to no country/);
      expect(textsOn(stage, phone)).to.have.length(0);
    }
    expect(await settings({ countries: 'gb au fr' })).to.equal(303);
  });

  it('a link in a name is nobody’s name and no link of ours; a name without end is cut', async () => {
    const flow = await flowOf(
      'Hi {{ lead.first_name }}{{ lead.full_name }}, see https://wrenfield.example/start about {{ answers.about }}',
    );
    const phone = '+61491570931';
    await flow.send({
      ...{ name: 'Win https://evil.example/now', email: 'evil@example.org', phone },
      about: 'https://evil.example/more',
    });
    const [text] = await until('the text', () => {
      const sent = textsOn(stage, phone);
      return sent.length > 0 && sent;
    });
    const { rows } = await stage.db.query<{ url: string }>('select url from tracked_link where url is not null');
    expect(rows.map((row) => row.url)).to.include('https://wrenfield.example/start');
    expect(rows.filter((row) => row.url.includes('evil.example'))).to.have.length(0);
    expect(text).to.not.contain('evil.example/now');
    const long = '+61491570932';
    await flow.send({
      name: `${'Ada'.repeat(1000)} Byron`,
      email: 'long@example.org',
      phone: long,
      about: 'x'.repeat(5000),
    });
    const [cut] = await until('the text to the long name', () => {
      const sent = textsOn(stage, long);
      return sent.length > 0 && sent;
    });
    expect(cut!.length).to.be.below(760);
  });

  it('a ceiling a day holds and loses nothing, warns before, and lets go when it is raised', async () => {
    await stage.db.query('delete from text_day');
    const used = 100;
    const { rows: business } = await stage.db.query('select id from business limit 1');
    expect(await settings({ partsPerDay: String(used + 60) })).to.equal(303);
    await stage.db.query(
      `insert into text_day (business_id, day, parts) select id, (now() at time zone time_zone)::date, $2 from business where id = $1
       on conflict (business_id, day) do update set parts = excluded.parts`,
      [business[0].id, used + 60],
    );
    const flow = await flowOf('Held {{ lead.first_name }}');
    for (let n = 0; n < 60; n++)
      await flow.send({ name: `N${n}`, email: `ceiling${n}@example.org`, phone: `+6149157${String(4000 + n)}` });
    const held = () =>
      stage.db.query(
        `select r.id from step_result s join run r on r.id = s.run_id where r.workflow_id = $1 and s.state = 'held'`,
        [flow.id],
      );
    const full = await until('the ceiling to be told', async () => {
      const { rows } = await stage.db.query(
        `select title from needs_you where kind = 'text_ceiling' and subject like '%:full'`,
      );
      return rows[0];
    });
    expect(full.title).to.equal('No more texts today');
    const gone = async () => {
      const { rows } = await stage.db.query(
        `select count(*)::int as n from delivery d join run r on r.id = d.run_id where r.workflow_id = $1 and d.state in ('accepted', 'delivered')`,
        [flow.id],
      );
      return rows[0].n as number;
    };
    // Until what becomes of each is written: one that is held a moment after the ceiling was raised looks again in ten minutes.
    const ended = await until('each to have gone or to be held', async () => {
      const [went, kept] = [await gone(), (await held()).rowCount!];
      return went + kept === 60 && { kept };
    });
    expect(ended.kept).to.be.above(0);
    expect(await settings({ partsPerDay: '5000' })).to.equal(303);
    await stage.db.query(`update run set due_at = now() where workflow_id = $1 and due_at > now()`, [flow.id]);
    await stage.db.query(
      `update step_result set next_try_at = now() where state = 'held' and run_id in (select id from run where workflow_id = $1)`,
      [flow.id],
    );
    await until('all to have gone', async () => (await gone()) === 60, 30_000);
  });

  it('a source that suddenly brings far more than ever is held and asked about, and keeps what comes', async () => {
    const flow = await flowOf('Flood');
    await flow.send({ email: 'first@example.org', phone: '+61491579998' });
    await flow.over('first@example.org');
    await stage.db.query(`update arrival set received_at = received_at - interval '5 days' where source_id = $1`, [
      flow.source.id,
    ]);
    for (let n = 0; n < 205; n++) await flow.send({ email: `flood${n}@example.org`, phone: '' });
    const told = await until('it to be told', async () => {
      const { rows } = await stage.db.query(
        `select title, detail from needs_you where kind = 'source_flood' and source_id = $1`,
        [flow.source.id],
      );
      return rows[0];
    });
    expect(told.title).to.match(/far more than usual/);
    const { rows } = await stage.db.query(
      `select (select state from source where id = $1) as state, count(*) filter (where state = 'held')::int as held, count(*)::int as n from arrival where source_id = $1`,
      [flow.source.id],
    );
    expect(rows[0].state).to.equal('paused');
    expect(rows[0].n, 'nothing is lost').to.equal(206);
    expect(rows[0].held).to.be.above(0);
    // Somebody has looked and put it live again: it is not asked about once more today.
    await stage.db.query(`update source set state = 'live' where id = $1`, [flow.source.id]);
    await new Promise((resolve) => setTimeout(resolve, 1200));
    for (let n = 0; n < 205; n++) await flow.send({ email: `again${n}@example.org`, phone: '' });
    const again = await stage.db.query('select state from source where id = $1', [flow.source.id]);
    expect(again.rows[0].state).to.equal('live');
  });
});
