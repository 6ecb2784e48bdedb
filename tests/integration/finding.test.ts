import { expect } from 'chai';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { otherBusiness } from '../stage/other-business.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

describe('finding people, and what is kept of them where', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async () => {
    ({ stage, oona } = await sharedStage());
  });

  it('by their number in every usual way of writing it, by their name in either Unicode form and without accents', async () => {
    const flow = await liveFlow(stage, oona, [momentOf('a', toTheLead(freshStep('note', 'n', { text: 'In' })))]);
    // Composed and decomposed: Zoë as a phone types it, Zoë as some systems store it; the number as a contact app copies it.
    await flow.send({
      name: 'Zo\u00eb D\u00edaz-\u0141uk',
      email: 'zoe@example.org',
      phone: '\u202a+44\u00a07700\u00a0900\u2011871\u202c',
    });
    await flow.over('zoe@example.org');
    const found = async (search: string) =>
      (
        await oona.call<{ rows: { email: string }[] }>('GET', `/api/leads?search=${encodeURIComponent(search)}`)
      ).body.rows.some((row) => row.email === 'zoe@example.org');
    for (const search of [
      '07700900871',
      '07700 900871',
      '+44 7700 900871',
      '0044 7700 900 871',
      '(07700) 900-871',
      '\u202a+447700900871\u202c',
      '900871',
      'Zo\u00eb',
      'Zoe\u0308',
      'zoe',
      'DIAZ',
      'diaz-\u0142uk zo\u00eb',
      'zoe@EXAMPLE.org',
    ])
      expect(await found(search), search).to.equal(true);
    for (const search of ['Zoltan', '07700 900872', '%', '_oe']) expect(await found(search), search).to.equal(false);
  });

  it('joining a list with fields of its own changes no answer of the lead', async () => {
    const list = (await oona.call<{ id: string }>('POST', '/api/lists', { name: 'Own fields' })).body;
    const { key } = (await oona.call<{ key: string }>('POST', `/api/lists/${list.id}/fields`, { label: 'Instrument' }))
      .body;
    const flow = await liveFlow(stage, oona, [
      momentOf('a', toTheLead(freshStep('list', 'l', { action: 'add', list: list.id, fields: { [key]: 'Violin' } }))),
    ]);
    await flow.send({ email: 'fields@example.org', instrument: 'Piano' });
    await flow.over('fields@example.org');
    const { rows } = await stage.db.query(
      `select l.answers, l.own, m.fields from lead l join list_member m on m.lead_id = l.id where l.email = 'fields@example.org' and m.list_id = $1`,
      [list.id],
    );
    expect(rows[0].fields).to.deep.equal({ [key]: 'Violin' });
    expect(rows[0].answers.instrument).to.equal('Piano');
    expect(rows[0].own).to.deep.equal({});
  });

  it('by the source: every row of a sheet is answered, the same person at a form only once', async () => {
    const sheet = (
      await oona.call<{ id: string; tabs: { id: string; columns: { id: string }[] }[] }>('POST', '/api/sheets', {
        name: 'Counter',
      })
    ).body;
    const [tab] = sheet.tabs;
    const [name, , email] = tab!.columns.map((column) => column.id) as [string, string, string];
    const made = await oona.call<{ id: string }>('POST', '/api/sources', {
      ...{ kind: 'sheet', tabId: tab!.id, when: 'new', fromRow: null, filter: null, everyMinutes: 0 },
    });
    const sourceId = made.body.id;
    const type = (cells: Record<string, string>) =>
      oona.call('POST', `/api/tabs/${tab!.id}/rows`, { insert: [{ id: crypto.randomUUID(), after: null, cells }] });
    // While it is being set up a row appears by itself as a sample, and comes in for good once the source is live.
    await type({ [name]: 'Ida', [email]: 'ida@example.org' });
    const caught = async () =>
      (await oona.call<{ state: string; fields: { value: string }[] }[]>('GET', `/api/sources/${sourceId}/arrivals`))
        .body;
    const [sample] = await until('the row as a sample', async () => {
      const all = await caught();
      return all.length > 0 ? all : null;
    });
    expect([sample!.state, sample!.fields[0]!.value]).to.deep.equal(['aside', 'Ida']);
    await oona.call('PUT', `/api/sources/${sourceId}/card`, {
      fields: { first_name: name, email },
      consent: { kind: 'not_asked' },
    });
    // Before a workflow listens: else that row would be one more of its runs.
    await until('the row in for good', async () => (await caught()).some((arrival) => arrival.state === 'read'));

    const moments = [momentOf('a', toTheLead(freshStep('note', 'n', { text: 'Answered' })))];
    const flow = await liveFlow(stage, oona, moments, { samePerson: 'by_source' });
    const { body } = await oona.call<{ workflow: { draft: object } }>('GET', `/api/workflows/${flow.id}`);
    await flow.put({ ...(body.workflow.draft as Parameters<typeof flow.put>[0]), sources: [flow.source.id, sourceId] });
    const runs = async () =>
      (await stage.db.query('select state from run where workflow_id = $1 order by created_at', [flow.id])).rows.map(
        (row) => row.state,
      );
    await type({ [name]: 'Ida', [email]: 'ida@example.org' });
    await until('the first row answered', async () => (await runs()).filter((state) => state === 'done').length === 1);
    await type({ [name]: 'Ida', [email]: 'ida@example.org' });
    await until('the second row answered', async () => (await runs()).filter((state) => state === 'done').length === 2);
    await flow.send({ email: 'once@example.org' });
    await flow.over('once@example.org');
    await flow.send({ email: 'once@example.org' });
    await until('the second entry known', async () => (await runs()).includes('known'));
    expect((await runs()).filter((state) => state === 'done')).to.have.length(3);
  }).timeout(40_000);

  it('and everything that has a name, by some of its letters, accents or none, and nothing of another business', async () => {
    await oona.call('POST', '/api/lists', { name: 'Für Elise 100 %' });
    const found = async (typed: string, who = oona) =>
      (
        await who.call<{ found: { kind: string; name: string; href: string }[] }>(
          'GET',
          `/api/find?${new URLSearchParams({ q: typed })}`,
        )
      ).body.found;
    expect((await found('fur eli')).map(({ kind, name }) => [kind, name])).to.deep.equal([['list', 'Für Elise 100 %']]);
    expect((await found('100 %'))[0]?.name).to.equal('Für Elise 100 %');
    // A sign that means something to the database means itself here.
    expect((await found('%')).map(({ name }) => name)).to.deep.equal(['Für Elise 100 %']);
    expect(await found('')).to.deep.equal([]);
    expect(await found('   ')).to.deep.equal([]);
    // Pasted from elsewhere: half a sign, more than anybody types; and a NUL, which is refused in words.
    for (const odd of ['\ud800', 'x'.repeat(5000)]) expect(await found(odd), odd.slice(0, 4)).to.deep.equal([]);
    expect((await oona.call('GET', '/api/find?q=a%00b')).status).to.be.within(400, 499);
    const trial = await found('trial');
    expect(new Set(trial.map(({ kind }) => kind))).to.include.all.keys(['workflow', 'source']);
    for (const { href } of trial)
      expect((await fetch(stage.url + href, { headers: { cookie: oona.cookie } })).status, href).to.equal(200);
    const { eve } = await otherBusiness(stage);
    expect(await found('a', eve)).to.deep.equal([]);
    expect(await found('zoe', eve)).to.deep.equal([]);
    expect((await found('zoe')).map(({ kind }) => kind)).to.include('lead');
  });
});
