import { expect } from 'chai';
import type { SentenceView } from '../../src/app/workflows/from-sentence.ts';
import type { Definition } from '../../src/core/workflow/definition.ts';
import type { Coordinator } from '../stage/flow.ts';
import { otherBusiness } from '../stage/other-business.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import type { Stage } from '../stage/stage.ts';

const SAID =
  'When somebody fills in the trial lesson form, text them, tell Tomas, put them on Practice hour, and two days later if they have not replied send an email.';

describe('a workflow in somebody’s own words', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async () => {
    ({ stage, oona } = await sharedStage());
    await oona.call('POST', '/api/lists', { name: 'Practice hour' });
  });
  const read = async (text: string, answers: Record<string, string> = {}, who = oona) =>
    (await who.call<SentenceView>('POST', '/api/sentences/read', { text, answers })).body;
  const count = async () => (await stage.db.query('select from workflow')).rowCount;

  it('is read by what this business has a name for, and writes nothing by that', async () => {
    const before = await count();
    const view = await read(SAID);
    expect([view.asks, view.unread]).to.deep.equal([[], []]);
    expect(view.aloud).to.deep.equal([
      'Leads come in by Trial lesson form.',
      'On arrival, we text them; on record we put them on the list Practice hour; for the team we tell Tomas Arden.',
      'When they reply, or after 2 days, one of these.',
      'If nothing happened, we email them.',
      'Otherwise nothing happens.',
    ]);
    expect(view.moments.map(({ when, steps }) => [when, steps.length])).to.deep.equal([
      ['On arrival', 3],
      ['When they reply, or after 2 days', 1],
    ]);
    expect(await count()).to.equal(before);
  });

  it('becomes a draft, never live, whose settings every step takes; a second of its name gets a number', async () => {
    const made = await oona.call<{ id: string }>('POST', '/api/sentences', {
      text: SAID,
      answers: {},
      name: 'As I said',
    });
    const again = await oona.call<{ id: string }>('POST', '/api/sentences', {
      text: SAID,
      answers: {},
      name: 'As I said',
    });
    const { rows } = await stage.db.query<{ name: string; state: string; draft: Definition }>(
      'select name, state, draft from workflow where id = any($1) order by created_at',
      [[made.body.id, again.body.id]],
    );
    expect(rows.map(({ name, state }) => [name, state])).to.deep.equal([
      ['As I said', 'draft'],
      ['As I said (2)', 'draft'],
    ]);
    const sheet = await oona.call<{ findings: { weight: string; text: string }[] }>(
      'GET',
      `/api/workflows/${made.body.id}`,
    );
    expect(sheet.body.findings.filter(({ weight }) => weight === 'must')).to.deep.equal([]);
    expect(rows[0]!.draft.moments[0]!.lanes.record[0]!.settings).to.include({ proven: false });
  });

  it('asks who is meant, takes the answer, and takes nobody of another business for one', async () => {
    const text = 'When somebody fills in the trial lesson form, tell Jack.';
    const [jack] = (await read(text)).asks;
    expect(jack!.said).to.equal('Jack');
    const tomas = jack!.options.find(({ name }) => name === 'Tomas Arden')!.id;
    expect((await read(text, { [jack!.id]: tomas })).aloud[1]).to.equal(
      'On arrival, for the team we tell Tomas Arden.',
    );
    const { eve, person } = await otherBusiness(stage);
    const across = { text, answers: { [jack!.id]: person } };
    expect((await oona.call('POST', '/api/sentences/read', across)).status).to.equal(404);
    const theirs = await read(SAID, {}, eve);
    expect(JSON.stringify(theirs)).not.to.include(tomas);
    expect(theirs.asks.map(({ kind }) => kind)).to.include('source');
  });

  it('that says nothing to do, or nothing at all, or more than a sentence, gets a reason', async () => {
    const answer = async (text: string) => {
      const { status, body } = await oona.call<{ detail: string }>('POST', '/api/sentences', {
        text,
        answers: {},
        name: 'X',
      });
      return `${status} ${body.detail}`;
    };
    for (const text of ['Good morning', ''])
      expect(await answer(text)).to.match(/^422 Nothing in this sentence says what to do/);
    expect(await answer('text them '.repeat(400))).to.match(/^422 That is longer than a sentence can be/);
  });
});
