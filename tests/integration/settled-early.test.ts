import { expect } from 'chai';
import { liveFlow } from '../stage/flow.ts';
import { type Invented, invented } from '../stage/invented-services.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

describe('what is dealt with while the run is still at work on the rest', function () {
  this.timeout(60_000);
  let stage: Stage;
  let slow: Invented;
  let answer: () => void;
  before(async () => {
    const held = new Promise<void>((resolve) => {
      answer = resolve;
    });
    [stage, slow] = await Promise.all([openStage(), invented(() => held.then(() => ({ body: '{}' })))]);
  });
  after(async () => {
    await slow?.close();
    await stage?.close();
  });

  it('counts as handled when the run has come to its end, and not as waiting for somebody', async () => {
    const oona = await signedIn(stage);
    const refused = '+447700900187';
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, refusedNumbers: [refused] };
    const call = freshStep('call-service', 'c', {
      ...{ name: 'Records', key: 'records', method: 'POST', address: `${slow.address}/add` },
      ...{ headers: [], body: 'json', fields: [], keep: [] },
    });
    const text = freshStep('text', 't', { message: 'Hello {{ lead.first_name }}' });
    const flow = await liveFlow(stage, oona, [momentOf('m', { lanes: { lead: [text], record: [call], team: [] } })]);
    await flow.send({ name: 'Wil', email: 'wil.early@example.com', phone: '07700 900187' });
    const need = await until('the refusal', async () => {
      const { rows } = await stage.db.query<{ id: string; run_id: string }>(
        `select n.id, n.run_id from needs_you n join lead l on l.id = n.lead_id where l.email = 'wil.early@example.com' and n.settled_at is null`,
      );
      return rows[0];
    });
    await until('the service to be asked', () => slow.seen.length === 1);
    expect((await oona.call('POST', `/api/needs/${need.id}/settle`)).status).to.equal(200);
    answer();
    const run = await flow.over('wil.early@example.com');
    expect(run.state).to.equal('handled');
    const { rows } = await stage.db.query('select from needs_you where run_id = $1 and settled_at is null', [
      need.run_id,
    ]);
    expect(rows).to.have.length(0);
  });
});
