import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import type { TriedLink } from '../../src/app/messages/try-links.ts';
import type { RowChange, RowPage } from '../../src/app/sheets/sheet-rows.ts';
import type { SheetView } from '../../src/app/sheets/sheets.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { momentOf, stepOf } from '../stage/sheets.ts';
import type { Stage } from '../stage/stage.ts';
import { workbook } from '../stage/workbook.ts';

describe('long sheets, and who wrote a row', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
  });
  const sheet = async (name: string) => (await oona.call<SheetView>('POST', '/api/sheets', { name })).body;
  const rows = async (tab: string, after = '') =>
    (await oona.call<RowPage>('GET', `/api/tabs/${tab}/rows${after && `?after=${after}`}`)).body;
  const history = async (tab: string, row: string) =>
    (await oona.call<RowChange[]>('GET', `/api/tabs/${tab}/rows/${row}`)).body;
  const upload = (tab: string, text: string, name = 'people.csv') =>
    fetch(`${stage.url}/api/tabs/${tab}/file?name=${name}`, {
      method: 'POST',
      headers: { cookie: oona.cookie, origin: stage.url },
      body: text,
    });

  it('comes a page at a time, in its order, every row once; columns keep what they hold', async function () {
    this.timeout(30_000);
    const made = await sheet('Long');
    const [tab] = made.tabs;
    const lines = Array.from({ length: 12_000 }, (_, i) => `Person ${i},${i}`);
    const put = await (await upload(tab!.id, ['Name,Number', ...lines].join('\n'))).json();
    expect(put, JSON.stringify(put)).to.include({ rows: 12_000 });
    const held = (await oona.call<SheetView>('GET', `/api/sheets/${made.id}`)).body.tabs[0]!.columns;
    // Cells are found by their column: in which order the database keeps a row's cells says nothing.
    const [name, number] = ['Name', 'Number'].map((each) => held.find((column) => column.name === each)!.id);
    const seen: string[] = [];
    for (let page = await rows(tab!.id); ; page = await rows(tab!.id, page.next!)) {
      expect(page.total).to.equal(12_000);
      seen.push(...page.rows.map((row) => `${row.cells[name!]},${row.cells[number!]}`));
      if (page.next === null) break;
    }
    expect(seen).to.deep.equal(lines);
    const typed = [{ id: '', name: 'When', type: 'date', shade: 'slate' }];
    const shading = [{ column: 'c', test: 'is_empty', value: '', shade: 'warn', row: true }];
    const changed = await oona.call<SheetView['tabs'][number]>('PUT', `/api/tabs/${tab!.id}`, {
      columns: typed,
      shading,
      agreed: true,
    });
    expect(changed.body.columns[0]).to.include({ name: 'When', type: 'date', shade: 'slate' });
    expect(changed.body.shading).to.deep.equal(shading);
    const wrong = [{ id: '', name: 'When', type: 'colour' }];
    expect((await oona.call('PUT', `/api/tabs/${tab!.id}`, { columns: wrong })).status).to.equal(422);
  });

  it('a workbook with several tabs in sight asks which is added; one with a hidden one besides is added', async () => {
    const made = await sheet('From a workbook');
    const add = (tabs: [name: string, state: string, cell: string][], tab?: string) => {
      const rows = (cell: string) =>
        Buffer.from(
          `<worksheet><sheetData>${['First name', cell].map((text) => `<row><c t="inlineStr"><is><t>${text}</t></is></c></row>`).join('')}</sheetData></worksheet>`,
        );
      const file = workbook(
        {
          'xl/_rels/workbook.xml.rels': Buffer.from(
            `<Relationships>${tabs.map((_, i) => `<Relationship Id="r${i}" Target="worksheets/sheet${i + 1}.xml"/>`).join('')}</Relationships>`,
          ),
          ...Object.fromEntries(tabs.map(([, , cell], i) => [`xl/worksheets/sheet${i + 1}.xml`, rows(cell)])),
        },
        `<workbook xmlns:r="r"><sheets>${tabs.map(([name, state], i) => `<sheet name="${name}" sheetId="${i + 1}" state="${state}" r:id="r${i}"/>`).join('')}</sheets></workbook>`,
      );
      const asked = new URLSearchParams({ name: 'fair.xlsx', ...(tab === undefined ? {} : { tab }) });
      return fetch(`${stage.url}/api/tabs/${made.tabs[0]!.id}/file?${asked}`, {
        method: 'POST',
        headers: { cookie: oona.cookie, origin: stage.url },
        body: new Uint8Array(file),
      });
    };
    const two: Parameters<typeof add>[0] = [
      ['Prices', 'hidden', 'Not this'],
      ['Friday', 'visible', 'Freya'],
      ['Sunday', 'visible', 'Sunniva'],
    ];
    const asks = await add(two);
    expect(asks.status).to.equal(409);
    expect(await asks.json()).to.deep.include({ tabs: ['Friday', 'Sunday'] });
    expect((await rows(made.tabs[0]!.id)).total, 'nothing is added before it is answered').to.equal(0);
    expect((await add(two, 'Saturday')).status).to.equal(422);
    expect((await add(two, 'Sunday')).status).to.equal(200);
    expect((await add([two[0]!, two[1]!])).status).to.equal(200);
    const names = (await rows(made.tabs[0]!.id)).rows.flatMap((row) => Object.values(row.cells));
    expect(names).to.deep.equal(['Sunniva', 'Freya']);
  });

  it('tells who typed, which file, and which run of which lead wrote a row; a lead’s page leads there', async () => {
    const made = await sheet('Diary');
    const tab = made.tabs[0]!;
    await upload(tab.id, 'First name,Email\nAda,ada@example.org', 'old%20list.csv');
    const [first] = (await rows(tab.id)).rows;
    const [nameColumn, emailColumn] = (await oona.call<SheetView>('GET', `/api/sheets/${made.id}`)).body.tabs[0]!
      .columns;
    const change = (cells: Record<string, string>) =>
      oona.call('POST', `/api/tabs/${tab.id}/rows`, { change: [{ id: first!.id, cells }] });
    await change({ [nameColumn!.id]: 'Ida' });
    await change({ [nameColumn!.id]: '' });
    const told = (await history(tab.id, first!.id)).map((rowChange) => [
      rowChange.by,
      rowChange.how,
      rowChange.file,
      rowChange.cells,
    ]);
    expect(told).to.deep.equal([
      ['Oona Pell', 'typed', '', [{ column: 'First name', before: 'Ida', after: '' }]],
      ['Oona Pell', 'typed', '', [{ column: 'First name', before: 'Ada', after: 'Ida' }]],
      ['Oona Pell', 'file', 'old list.csv', []],
    ]);
    const settings = {
      ...(stepKinds.get('sheet-row')!.blank() as object),
      ...{ tab: tab.id, key: emailColumn!.id, whenThere: 'update' },
      cells: { [nameColumn!.id]: '{{ lead.first_name }}', [emailColumn!.id]: '{{ lead.email }}' },
    };
    const flow = await liveFlow(stage, oona, [
      momentOf('a', { lanes: { lead: [], record: [stepOf('sheet-row', 'r', settings)], team: [] } }),
    ]);
    await flow.send({ name: 'Augusta', email: 'ada@example.org' });
    const run = await flow.over('ada@example.org');
    const [last] = await history(tab.id, first!.id);
    expect(last).to.deep.include({
      how: 'step',
      run: { workflowId: flow.id, id: run.id },
      lead: { id: run.lead_id, name: 'Augusta' },
    });
    expect(last!.by).to.match(/^The workflow Case/);
    expect(last!.cells[0]).to.deep.equal({ column: 'First name', before: '', after: 'Augusta' });
    const lead = (await oona.call<{ events: { title?: string }[] }>('GET', `/api/leads/${run.lead_id}`)).body;
    expect(lead.events.map((event) => event.title)).to.include('Row changed in the sheet Diary');
    await oona.call('POST', `/api/tabs/${tab.id}/rows`, { remove: [first!.id] });
    expect((await history(tab.id, first!.id))[0]).to.include({ how: 'removed', by: 'Oona Pell' });
    expect((await oona.call('GET', `/api/tabs/${tab.id}/rows/nonsense`)).status).to.equal(404);
  });

  it('tries the links of an email, and says which lead nowhere', async () => {
    const server = createServer((request, response) => {
      response.statusCode = request.url === '/gone' ? 404 : request.url === '/moved' ? 302 : 200;
      response.end();
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const html = ['/here', '/gone', '/moved'].map((path) => `<a href="${base}${path}">x</a>`).join('');
    const layout = { as: 'html', html: `${html}<a href="http://127.0.0.1:1/">y</a>` };
    const { body } = await oona.call<TriedLink[]>('POST', '/api/email-templates/links', { layout });
    expect(body.map((triedLink) => [triedLink.address.replace(base, ''), triedLink.good])).to.deep.equal([
      ['/here', true],
      ['/gone', false],
      ['/moved', true],
      ['http://127.0.0.1:1/', false],
    ]);
    expect(body[1]!.said).to.equal('There is no such page');
    server.close();
  });
});
