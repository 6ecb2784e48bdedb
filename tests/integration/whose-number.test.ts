import { expect } from 'chai';
import type { LeadView } from '../../src/app/leads/get-lead.ts';
import { atTheDesk, type Coordinator, liveFlow, textsOn } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

describe('a number that is given under two names', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
  });
  const rows = async (sql: string, values: unknown[] = []) => (await stage.db.query(sql, values)).rows;
  const lead = async (id: string) => (await oona.call<LeadView>('GET', `/api/leads/${id}`)).body;
  const leadsWith = (phone: string) =>
    rows('select id, first_name, email, phone from lead where phone = $1 order by created_at', [phone]);
  const question = async (leadId: string) =>
    (
      await rows(
        `select id, title, detail, lead_id, other_lead_id from needs_you where kind = 'number_shared' and lead_id = $1 and settled_at is null`,
        [leadId],
      )
    )[0];
  const answer = (needId: string, how: string) =>
    oona.call<{ done?: string; detail?: string }>('POST', `/api/needs/${needId}/whose`, { answer: how });

  /** A live flow whose form asks for consent with a tick, and texts. */
  async function tickFlow() {
    const flow = await liveFlow(
      stage,
      oona,
      [momentOf('a', toTheLead(freshStep('text', 't', { message: 'Hi {{ lead.first_name }}', needsConsent: true })))],
      { samePerson: 'run_again' },
    );
    await oona.call('PUT', `/api/sources/${flow.source.id}/card`, {
      fields: { first_name: 'name', email: 'email', phone: 'phone' },
      consent: { kind: 'field', key: 'agree', wordingKey: null },
    });
    return flow;
  }
  const state = async (leadId: string) =>
    (await rows(`select consents_of($1, 'service') ->> 'text' as text`, [leadId]))[0].text;

  it('somebody else’s row changes nothing of a person, turns no no into a yes, and asks', async () => {
    const form = await tickFlow();
    const phone = '+61491570891';
    await form.send({ name: 'Ines', email: 'ines.own@example.org', phone, agree: 'no' });
    const [ines] = await until('Ines', async () => {
      const found = await leadsWith(phone);
      return found.length > 0 ? found : null;
    });
    expect(await state(ines.id)).to.equal(null);
    // A sheet row with another name, a broken email and her number, in a source that says all have agreed elsewhere.
    const sheet = (
      await oona.call<{ id: string; tabs: { id: string }[] }>('POST', '/api/sheets', { name: 'Sign-in of the door' })
    ).body;
    const flow = await liveFlow(
      stage,
      oona,
      [
        momentOf(
          'a',
          toTheLead(freshStep('text', 't', { message: 'Hello {{ lead.first_name }}', needsConsent: true })),
        ),
      ],
      { hours: { text: null, email: null, chat: null } },
    );
    expect(sheet.id).to.be.a('string');
    await flow.send({ name: 'Bertram', email: 'bertram@', phone });
    const both = await until('a lead of their own', async () => {
      const found = await leadsWith(phone);
      return found.length === 2 ? found : null;
    });
    expect(both[0]).to.include({ id: ines.id, first_name: 'Ines', email: 'ines.own@example.org' });
    expect(await state(ines.id), 'Ines left it unticked').to.equal(null);
    const bertram = both[1];
    expect(await state(bertram.id), 'nobody has said whose number it is').to.equal(null);
    await until(
      'the run to end',
      async () => (await rows('select from run where lead_id = $1 and due_at is null', [bertram.id])).length === 1,
    );
    expect(textsOn(stage, phone)).to.deep.equal([]);
    const asked = await question(ines.id);
    expect(asked.detail).to.include('Ines').and.include('Bertram').and.include(phone);
    expect(asked.other_lead_id).to.equal(bertram.id);
    // The same row again asks nothing more and makes nobody.
    await flow.send({ name: 'Bertram', email: '', phone });
    await until(
      'the second arrival',
      async () => (await rows('select from arrival where lead_id = $1', [bertram.id])).length === 2,
    );
    expect(await leadsWith(phone)).to.have.length(2);

    // Two people who share it: what was said of him counts now, but her no holds for the number.
    expect((await answer(asked.id, 'shared')).body.done).to.include('share the number');
    expect((await answer(asked.id, 'moved')).status).to.equal(409);
    expect(await state(bertram.id), 'her box left unticked').to.equal(null);
    // Only his own act outweighs it.
    await form.send({ name: 'Bertram', email: '', phone, agree: 'yes' });
    await until('his own yes', async () => (await state(bertram.id)) === 'given');
    expect(await state(ines.id)).to.equal(null);
    await until('his text', () => textsOn(stage, phone).includes('Hi Bertram'));
    // A reply goes to whom we wrote to last; a STOP is for the number.
    await atTheDesk(stage, '/phones/write', { number: phone, text: 'Which day?' });
    await until(
      'the reply',
      async () => (await rows('select from inbound where lead_id = $1', [bertram.id])).length === 1,
    );
    await atTheDesk(stage, '/phones/write', { number: phone, text: 'STOP' });
    await until('the stop', async () => (await state(bertram.id)) === 'withdrawn');
    expect(await state(ines.id)).to.equal('withdrawn');
  }).timeout(60_000);

  it('said to be one person, the two are made one and nothing they had is lost; said to have changed hands, it is let go', async () => {
    const form = await tickFlow();
    const phone = '+61491570892';
    await form.send({ name: 'Mara', email: 'mara@example.org', phone, agree: 'yes' });
    await form.send({ name: 'Theo', email: 'theo@example.org', phone, agree: 'yes' });
    const [mara, theo] = await until('both', async () => {
      const found = await leadsWith(phone);
      return found.length === 2 ? found : null;
    });
    // Both have said it themselves: both hear back.
    await until('both texts', () => textsOn(stage, phone).length === 2);
    expect(textsOn(stage, phone)).to.have.members(['Hi Mara', 'Hi Theo']);
    const asked = await question(mara.id);
    await until(
      'the runs to end',
      async () =>
        (await rows('select from run where lead_id = any($1::uuid[]) and due_at is not null', [[mara.id, theo.id]]))
          .length === 0,
    );
    expect((await answer(asked.id, 'same')).body).to.deep.equal({
      done: 'Mara and Theo are one lead now. It can be undone on their page.',
    });
    expect(
      await rows('select first_name, email, is_person from lead where id = any($1::uuid[]) order by created_at', [
        [mara.id, theo.id],
      ]),
    ).to.deep.equal([
      { first_name: 'Mara', email: 'mara@example.org', is_person: true },
      { first_name: 'Theo', email: 'theo@example.org', is_person: false },
    ]);
    await form.send({ name: 'Theo', email: '', phone, agree: 'yes' });
    await until(
      'the third arrival',
      async () => (await rows('select from arrival where lead_id = $1', [mara.id])).length === 3,
    );
    expect(await question(mara.id)).to.equal(undefined);

    const other = '+61491570893';
    await form.send({ name: 'Ada', email: 'ada.was@example.org', phone: other, agree: 'yes' });
    await form.send({ name: 'Otto', email: 'otto.now@example.org', phone: other, agree: 'yes' });
    const [ada, otto] = await until('both', async () => {
      const found = await leadsWith(other);
      return found.length === 2 ? found : null;
    });
    expect((await answer((await question(ada.id)).id, 'moved')).status).to.equal(200);
    expect((await rows('select phone from lead where id = $1', [ada.id]))[0].phone).to.equal('');
    expect(await state(ada.id)).to.equal('withdrawn');
    expect(await state(otto.id)).to.equal('given');
    // What comes from the number now is Otto's.
    await atTheDesk(stage, '/phones/write', { number: other, text: 'It is me' });
    await until(
      'the message',
      async () => (await rows('select from inbound where lead_id = $1', [otto.id])).length === 1,
    );
    expect((await oona.call('POST', `/api/leads/${ada.id}/release-number`)).status).to.equal(409);
  }).timeout(60_000);

  it('an empty answer erases nothing; every change stands on the time line and can be put back', async () => {
    const flow = await liveFlow(stage, oona, [
      momentOf('a', {
        first: [freshStep('tidy', 'tidy', { names: true, email: true, phone: true })],
        lanes: {
          lead: [],
          record: [
            freshStep('field', 'empty', { field: 'lead.first_name', value: '{{ answers.nothing_such }}' }),
            freshStep('field', 'mail', { field: 'lead.email', value: '{{ answers.also_nothing }}' }),
            freshStep('field', 'set', { field: 'lead.last_name', value: 'Of {{ answers.town }}' }),
          ],
          team: [],
        },
      }),
    ]);
    const email = 'kept.name@example.org';
    await flow.send({ name: 'wilma', email, phone: '', town: 'Wrenfield' });
    await flow.over(email);
    const [{ id }] = await rows('select id from lead where email = $1', [email]);
    expect(await lead(id)).to.include({ first_name: 'Wilma', last_name: 'Of Wrenfield', email });
    const [empty] = await rows(
      `select state, plan -> 'why' ->> 'text' as why from step_result where step_id = 'empty' and run_id in (select id from run where lead_id = $1)`,
      [id],
    );
    expect(empty).to.deep.equal({ state: 'nothing', why: 'First name left as it was: the value is empty' });
    const changes = async () =>
      (await lead(id)).events.flatMap((event) =>
        event.kind === 'record' && event.change ? [{ ...event, change: event.change }] : [],
      );
    expect((await changes()).map((one) => one.title).sort()).to.deep.equal([
      'First name: “wilma” became “Wilma”',
      'Last name: nothing became “Of Wrenfield”',
    ]);
    expect((await changes())[0]!.text).to.match(/^By the workflow Case \d+$/);
    // By hand, and put back.
    expect(
      (await oona.call('PUT', `/api/leads/${id}`, { first_name: 'Wilhelmina', last_name: '', email, phone: '' }))
        .status,
    ).to.equal(200);
    const byHand = (await changes()).filter((one) => one.text.startsWith('By Oona'));
    expect(byHand.map((one) => one.title).sort()).to.deep.equal([
      'First name: “Wilma” became “Wilhelmina”',
      'Last name: “Of Wrenfield” became empty',
    ]);
    const name = byHand.find((one) => one.title.startsWith('Last'))!;
    expect((await oona.call<{ done: string }>('POST', `/api/leads/${id}/changes/${name.change}`)).body.done).to.equal(
      'Last name is “Of Wrenfield” again.',
    );
    expect((await oona.call('POST', `/api/leads/${id}/changes/${name.change}`)).status).to.equal(409);
    expect(await lead(id)).to.include({ first_name: 'Wilhelmina', last_name: 'Of Wrenfield' });
    // Clearing must be said.
    const { body } = await oona.call<{ workflow: { draft: object } }>('GET', `/api/workflows/${flow.id}`);
    expect(JSON.stringify(body.workflow)).to.include('"empty":"keep"');
  }).timeout(60_000);
});
