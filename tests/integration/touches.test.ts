import { expect } from 'chai';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, stepOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

describe('touches as fields', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Coordinator;
  before(async () => {
    ({ stage, oona } = await sharedStage());
  });

  const TEXT =
    'First {{ first_touch.utm_campaign }}, last {{ last_touch.utm_campaign }}, booked after {{ booking_touch.utm_campaign | default: "none" }}';

  it('the first, the last and the one before booking are known to messages, rows, segments and files', async () => {
    const sheet = (
      await oona.call<{ tabs: { id: string; columns: { id: string; name: string }[] }[] }>('POST', '/api/sheets', {
        name: 'By touch',
        columns: ['Who', 'First', 'Last', 'When'],
      })
    ).body.tabs[0]!;
    const [who, first, last, when] = sheet.columns.map(({ id }) => id);
    const flow = await liveFlow(
      stage,
      oona,
      [
        momentOf('a', {
          lanes: {
            ...toTheLead(freshStep('text', 't', { message: TEXT })).lanes,
            record: [
              stepOf('sheet-row', 'r', {
                tab: sheet.id,
                cells: {
                  [who!]: '{{ lead.first_name }}',
                  [first!]: '{{ first_touch.utm_campaign }}',
                  [last!]: '{{ last_touch.utm_campaign }}',
                  [when!]: '{{ first_touch.at | date: "iso" }}',
                },
                key: '',
                whenThere: 'skip',
                each: '',
              }),
            ],
          },
        }),
      ],
      { samePerson: 'run_again' },
    );
    const texts = () => (stage.desk.world.state.phones['+447700900671']?.messages ?? []).map((message) => message.text);
    const comes = (campaign: string) =>
      flow.send({ name: 'Tessa', email: 'tessa@example.org', phone: '+447700900671', utm_campaign: campaign });
    await comes('spring');
    await until('the first text', () => texts().includes('First spring, last spring, booked after none'));
    await comes('summer');
    await until('the second text', () => texts().includes('First spring, last summer, booked after none'));
    // She books; what she clicks after that did not bring it.
    await stage.db.query(
      `update arrival set means = 'booked' where id = (select a.id from arrival a join lead l on l.id = a.lead_id where l.email = 'tessa@example.org' order by a.received_at desc limit 1)`,
    );
    await comes('autumn');
    await until('the third text', () => texts().includes('First spring, last autumn, booked after summer'));
    const rows = await until('three rows', async () => {
      const found = await stage.db.query<{ cells: Record<string, string> }>(
        'select cells from sheet_row where tab_id = $1 order by position',
        [sheet.id],
      );
      return found.rows.length === 3 ? found.rows.map(({ cells }) => cells) : null;
    });
    const today = new Date().toISOString().slice(0, 10);
    expect(rows.map((cells) => [cells[who!], cells[first!], cells[last!], cells[when!]])).to.deep.equal([
      ['Tessa', 'spring', 'spring', today],
      ['Tessa', 'spring', 'summer', today],
      ['Tessa', 'spring', 'autumn', today],
    ]);

    const counts = async (field: string, value: string) =>
      (
        await oona.call<{ n: number }>('POST', '/api/leads/count', {
          ...{ ids: null, search: 'tessa@example.org', segment: null, list: null, tag: null, source: null },
          condition: { field, test: 'is', value, to: '', exact: false },
        })
      ).body.n;
    expect(await counts('first_touch.utm_campaign', 'spring')).to.equal(1);
    expect(await counts('first_touch.utm_campaign', 'summer')).to.equal(0);
    expect(await counts('last_touch.utm_campaign', 'autumn')).to.equal(1);
    expect(await counts('booking_touch.utm_campaign', 'summer')).to.equal(1);

    const file = await fetch(`${stage.url}/api/leads/file?search=tessa%40example.org`, {
      headers: { cookie: oona.cookie },
    });
    const [head, line] = (await file.text()).split(/\r?\n/).map((row) => row.split(','));
    const cell = (name: string) => line![head!.findIndex((one) => one.replaceAll('"', '') === name)];
    expect([
      cell('First touch: campaign'),
      cell('Last touch: campaign'),
      cell('Touch before booking: campaign'),
    ]).to.deep.equal(['spring', 'autumn', 'summer']);
  });

  it('an unknown field of a touch is said before it goes live', async () => {
    const made = await oona.call<{ id: string }>('POST', '/api/workflows', { name: 'Touched', folder: '' });
    const { body } = await oona.call<{ workflow: { draft: object; revision: number } }>(
      'GET',
      `/api/workflows/${made.body.id}`,
    );
    const draft = {
      ...body.workflow.draft,
      moments: [momentOf('a', toTheLead(freshStep('text', 't', { message: 'Hi {{ first_touch.campain }}' })))],
    };
    const saved = await oona.call<{ findings: { text: string }[] }>('PUT', `/api/workflows/${made.body.id}`, {
      revision: body.workflow.revision,
      draft,
    });
    expect(saved.body.findings.map(({ text }) => text).join('\n')).to.match(
      /Did you mean First touch: (ad )?campaign\?/,
    );
  });
});
