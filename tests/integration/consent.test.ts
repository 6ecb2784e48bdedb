import { expect } from 'chai';
import { atTheDesk, type Coordinator, liveFlow, textsOn } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, sheetOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

describe('consent by channel and purpose, and whose number it is', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
  });
  const rows = async (sql: string, values: unknown[] = []) => (await stage.db.query(sql, values)).rows;
  const leadOf = async (email: string) => (await rows('select * from lead where email = $1', [email]))[0];
  const says = (leadId: string, input: object) =>
    oona.call<{ detail?: string }>('POST', `/api/leads/${leadId}/consents`, { how: 'On the phone', ...input });
  const why = async (email: string, stepId: string) =>
    (
      await rows(
        `select s.state, s.plan -> 'why' ->> 'text' as why from step_result s join run r on r.id = s.run_id join lead l on l.id = r.lead_id
         where l.email = $1 and s.step_id = $2 order by r.created_at desc limit 1`,
        [email, stepId],
      )
    )[0];

  it('news need a yes to news; no to news leaves what they asked for, and one channel leaves the other', async () => {
    const flow = await liveFlow(
      stage,
      oona,
      [
        momentOf(
          'a',
          toTheLead(
            freshStep('text', 'service', { message: 'Your lesson is on Monday' }),
            freshStep('text', 'news', { message: 'Half price today', purpose: 'marketing' }),
            freshStep('email', 'letter', { subject: 'News', message: 'Half price', purpose: 'marketing' }),
          ),
        ),
      ],
      { samePerson: 'run_again' },
    );
    const lead = { name: 'Ines', email: 'purposes@example.org', phone: '+61491570601' };
    await flow.send(lead);
    await flow.over(lead.email);
    // The source asked elsewhere: for everything.
    expect(textsOn(stage, lead.phone)).to.deep.equal(['Your lesson is on Monday', 'Half price today']);
    const { id } = await leadOf(lead.email);
    expect((await says(id, { channel: 'text', purpose: 'marketing', state: 'withdrawn', how: '' })).status).to.equal(
      422,
    );
    expect((await says(id, { channel: 'text', purpose: 'marketing', state: 'withdrawn' })).status).to.equal(200);
    // Not the source's word again: an arrival of the same kind would renew it.
    await stage.db.query(
      `update source set card = jsonb_set(card, '{consent}', '{"kind":"not_asked"}') where id = $1`,
      [flow.source.id],
    );
    await new Promise((resolve) => setTimeout(resolve, 1100));
    await flow.send(lead);
    await until(
      'the second run',
      async () => (await rows('select from run where workflow_id = $1 and due_at is null', [flow.id])).length === 2,
    );
    expect(await why(lead.email, 'news')).to.include({
      state: 'nothing',
      why: 'Stopped: asked for no more news and offers by text',
    });
    expect(textsOn(stage, lead.phone)).to.deep.equal([
      'Your lesson is on Monday',
      'Half price today',
      'Your lesson is on Monday',
    ]);
    expect((await why(lead.email, 'letter')).state, 'email is not silenced by it').to.equal('done');
    const stranger = { name: 'Jo', email: 'no-yes@example.org', phone: '+61491570602' };
    await flow.send(stranger);
    await flow.over(stranger.email);
    expect(await why(stranger.email, 'news')).to.include({ why: 'Stopped: no consent to news and offers by text' });
    expect(textsOn(stage, stranger.phone)).to.deep.equal(['Your lesson is on Monday']);
    const page = await oona.call<string>('GET', `/leads/${id}/consent`);
    expect(page.body).to.include('On the phone (written down by Oona').and.include('news and offers');
    const file = await oona.call<string>('GET', `/api/leads/consents?ids=${id}`);
    expect(file.body).to.match(/text,marketing,withdrawn/);
  });

  it('as many news a day as the business allows, across workflows; the rest waits for the next morning', async () => {
    await stage.db.query('update business set marketing_per_day = 2');
    try {
      const news = (n: number) =>
        momentOf('a', toTheLead(freshStep('text', 'n', { message: `News ${n}`, purpose: 'marketing' })));
      const flows = [1, 2, 3].map((n) => () => liveFlow(stage, oona, [news(n)]));
      const lead = { name: 'Kit', email: 'enough@example.org', phone: '+61491570603' };
      const made = [];
      for (const make of flows) made.push(await make());
      // At the same moment, by three workflows.
      await Promise.all(made.map((flow) => flow.send(lead)));
      await until('two of them', () => textsOn(stage, lead.phone).length === 2);
      const held = await until(
        'the third to be held',
        async () =>
          (
            await rows(
              `select s.next_try_at, s.plan ->> 'note' as note, b.time_zone from step_result s join run r on r.id = s.run_id join lead l on l.id = r.lead_id join business b on b.id = r.business_id
           where l.email = $1 and s.state = 'held'`,
              [lead.email],
            )
          )[0],
      );
      expect(held.note).to.match(/Held until tomorrow/);
      const clock = new Intl.DateTimeFormat('en-GB', { timeZone: held.time_zone, hour: '2-digit', minute: '2-digit' });
      expect(clock.format(held.next_try_at)).to.equal('09:00');
      expect(held.next_try_at.getTime() - Date.now()).to.be.within(0, 34 * 3_600_000);
      expect(textsOn(stage, lead.phone)).to.have.length(2);
    } finally {
      await stage.db.query('update business set marketing_per_day = 3');
    }
  });

  it('consent withdrawn between plan and send is kept: what waits for the carrier does not go', async () => {
    const flow = await liveFlow(stage, oona, [momentOf('a', toTheLead(freshStep('text', 't', { message: 'Hello' })))], {
      endsWhen: [],
    });
    stage.desk.world.state.trouble.carrierDown = true;
    const lead = { name: 'Lou', email: 'between@example.org', phone: '+61491570604' };
    await flow.send(lead);
    await until(
      'a first try',
      async () =>
        (
          await rows(
            `select from step_result s join run r on r.id = s.run_id where r.workflow_id = $1 and s.state = 'again'`,
            [flow.id],
          )
        ).length,
    );
    await atTheDesk(stage, '/phones/write', { number: lead.phone, text: 'STOP' });
    await until('the STOP', async () => (await rows(`select from inbound where sender = $1`, [lead.phone])).length);
    stage.desk.world.state.trouble.carrierDown = false;
    await flow.over(lead.email);
    expect((await why(lead.email, 't')).why).to.equal('Stopped: asked for no more texts');
    expect(textsOn(stage, lead.phone).filter((text) => text === 'Hello')).to.deep.equal([]);
  }).timeout(60_000);

  it('no to news stops what a sequence and an email to many still had to send, and answers go on', async () => {
    const { id: list } = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'No news' })).body;
    const { rows: before } = await stage.db.query(`select source_id from nurture_list where id = $1`, [list]);
    const { id: sequence } = (
      await oona.call<{ id: string }>('POST', '/api/workflows', { name: 'No news', folder: '' })
    ).body;
    const later = { kind: 'later', span: { amount: 1, unit: 'hours' } } as const;
    const mail = (subject: string) => toTheLead(freshStep('email', subject, { subject, message: 'Hello' }));
    const draft = sheetOf([momentOf('a', mail('One')), momentOf('b', { at: later, ...mail('Two') })], {}, [
      before[0].source_id,
    ]);
    await oona.call('PUT', `/api/workflows/${sequence}`, { revision: 0, draft });
    expect((await oona.call('POST', `/api/workflows/${sequence}/live`, { moveOn: false })).status).to.equal(200);
    const flow = await liveFlow(stage, oona, [
      momentOf('a', { lanes: { lead: [], record: [freshStep('list', 'l', { action: 'add', list })], team: [] } }),
    ]);
    const email = 'no-news@example.org';
    const mails = () =>
      stage.desk.world.state.mails.filter((mail) => mail.mailbox === email).map((mail) => mail.subject);
    await flow.send({ name: 'Una', email, phone: '' });
    await until('the first of the sequence', () => mails().includes('One'));
    const { id } = await leadOf(email);
    expect((await says(id, { channel: 'email', purpose: 'marketing', state: 'withdrawn' })).status).to.equal(200);
    await stage.db.query(`update run set due_at = now() where workflow_id = $1`, [sequence]);
    await until('the second to be stopped', async () => (await why(email, 'Two'))?.why);
    expect((await why(email, 'Two')).why).to.equal('Stopped: asked for no more news and offers by email');
    expect(mails()).to.deep.equal(['One']);
  });
});
