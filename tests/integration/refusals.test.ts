import { expect } from 'chai';
import { atTheDesk, type Coordinator, liveFlow, textsOn } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

describe('what people write back when they want no more', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
  });
  const rows = async (sql: string, values: unknown[] = []) => (await stage.db.query(sql, values)).rows;
  const flowOf = () =>
    liveFlow(stage, oona, [momentOf('a', toTheLead(freshStep('text', 't', { message: 'Hello {{ answers.n }}' })))], {
      samePerson: 'run_again',
      endsWhen: [],
    });
  const writes = (number: string, text: string) => atTheDesk(stage, '/phones/write', { number, text });
  const idOf = async (phone: string) => (await rows('select id from lead where phone = $1', [phone]))[0].id as string;

  it('a STOP in full-width letters, in quotes or with a signature below it is a STOP', async () => {
    const flow = await flowOf();
    for (const [i, text] of [
      'ＳＴＯＰ',
      '“Stop.”',
      'stop, please',
      'Opt-out',
      'REVOKE\n\nSent from my phone',
    ].entries()) {
      const phone = `+6149157080${i}`;
      await flow.send({ name: 'Kay', email: `stops${i}@example.org`, phone, n: 'one' });
      await flow.over(`stops${i}@example.org`);
      await writes(phone, text);
      const id = await idOf(phone);
      await until(
        `“${text}” to count`,
        async () => (await rows(`select from consent where lead_id = $1 and state = 'withdrawn'`, [id])).length > 0,
      );
    }
  }).timeout(60_000);

  it('a longer message that sounds like one stops what goes out by itself until somebody has read it', async () => {
    const flow = await flowOf();
    const lead = { name: 'Lena', email: 'sounds@example.org', phone: '+61491570811' };
    const went = async (n: string) => {
      const before = (await rows('select from run where workflow_id = $1 and due_at is null', [flow.id])).length;
      await flow.send({ ...lead, n });
      await until(
        `run ${n}`,
        async () =>
          (await rows('select from run where workflow_id = $1 and due_at is null', [flow.id])).length === before + 1,
      );
      return textsOn(stage, lead.phone);
    };
    expect(await went('one')).to.deep.equal(['Hello one']);
    await writes(lead.phone, 'Please stop sending me these, I never signed up');
    const id = await idOf(lead.phone);
    const need = await until(
      'the question',
      async () =>
        (
          await rows(
            `select id, title, detail from needs_you where lead_id = $1 and kind = 'maybe_refusal' and settled_at is null`,
            [id],
          )
        )[0],
    );
    expect(need.detail).to.include('Lena wrote: “Please stop sending me these').and.include('no texts go to them');
    expect(await went('two')).to.deep.equal(['Hello one']);
    const [why] = await rows(
      `select s.plan -> 'why' ->> 'text' as text from step_result s join run r on r.id = s.run_id where r.lead_id = $1 order by s.started_at desc limit 1`,
      [id],
    );
    expect(why.text).to.match(/may have asked for no more texts; somebody has to read/);
    // A colleague may answer all the same.
    const [conversation] = await rows('select id from conversation where lead_id = $1', [id]);
    const { body } = await oona.call<{ ways: { channel: string; can: boolean }[] }>(
      'GET',
      `/api/conversations/${conversation.id}`,
    );
    expect(body.ways.find((way) => way.channel === 'text')?.can).to.equal(true);
    const read = (means: string) => oona.call<{ done: string }>('POST', `/api/needs/${need.id}/refusal`, { means });
    expect((await read('something_else')).body.done).to.match(/^What goes out by itself goes to them again/);
    expect((await read('no_more')).status).to.equal(409);
    expect(await went('three')).to.deep.equal(['Hello one', 'Hello three']);
    await writes(lead.phone, 'Do not text me again!');
    const second = await until(
      'the second question',
      async () =>
        (
          await rows(`select id from needs_you where lead_id = $1 and kind = 'maybe_refusal' and settled_at is null`, [
            id,
          ])
        )[0],
    );
    expect(
      (await oona.call<{ done: string }>('POST', `/api/needs/${second.id}/refusal`, { means: 'no_more' })).body.done,
    ).to.equal('They are written to no more this way.');
    expect(await went('four')).to.deep.equal(['Hello one', 'Hello three']);
    expect((await rows(`select consents_of($1, 'service') ->> 'text' as text`, [id]))[0].text).to.equal('withdrawn');
  }).timeout(60_000);
});
