import { randomUUID } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { expect } from 'chai';
import type { SheetView } from '../../src/app/sheets/sheets.ts';
import type { SourceView } from '../../src/app/sources/sources.ts';
import { keepArchive } from '../../src/engine/archive/pack-months.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { atTheDesk, type Coordinator, liveFlow } from '../stage/flow.ts';
import { momentOf, stepOf } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';
import { workbook } from '../stage/workbook.ts';

const WHO = { first: 'Zorbaxia', last: 'Quillfeather', email: 'zorbaxia.q@example.org', typed: '07700 900 777' };
const NUMBER = '+447700900777';
/** What may be found of her nowhere: also not in another case, in bytes, or with the number in other groups. */
const MARKS = ['zorbaxia', 'quillfeather', '7700900777', '07700 900 777'];

describe('erasing a person', function () {
  this.timeout(90_000);
  let stage: Stage;
  let oona: Coordinator;
  before(async () => {
    stage = await openStage({ history: true });
    oona = await signedIn(stage);
  });
  after(() => stage.close());

  const post = (url: string, body: unknown, type = 'application/json') =>
    fetch(url, {
      method: 'POST',
      headers: { 'content-type': type },
      body: typeof body === 'string' ? body : JSON.stringify(body),
    }).then((answer) => answer.status);

  /** Every table, its rows as text with their bytes readable, that hold one of the marks. */
  async function inTheDatabase(): Promise<string[]> {
    const { rows: tables } = await stage.db.query<{ schema: string; name: string }>(
      `select table_schema as schema, table_name as name from information_schema.tables where table_type = 'BASE TABLE' and table_schema not in ('pg_catalog', 'information_schema')`,
    );
    const found: string[] = [];
    for (const { schema, name } of tables) {
      const { rows } = await stage.db.query<{ row: string }>(`select x::text as row from "${schema}"."${name}" x`);
      for (const { row } of rows) {
        const bytes = [...row.matchAll(/\\x([0-9a-f]{8,})/g)].map(([, hex]) => {
          const bytes = Buffer.from(hex!, 'hex');
          return (bytes[0] === 0x1f && bytes[1] === 0x8b ? gunzipSync(bytes) : bytes).toString('latin1');
        });
        const text = [row, ...bytes].join('\n').toLowerCase();
        const mark = MARKS.find((mark) => text.includes(mark));
        if (mark) found.push(`${name}: ${mark}: ${text.slice(0, 300)}`);
      }
    }
    return found;
  }

  it('leaves nothing of them in any table or file, wherever they came in; everybody else stays', async () => {
    const sheet = (await oona.call<SheetView>('POST', '/api/sheets', { name: 'Desk' })).body;
    const tab = sheet.tabs[0]!;
    const [first, second] = tab.columns;
    const flow = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: {
          lead: [
            stepOf('text', 't', {
              ...(stepKinds.get('text')!.blank() as object),
              message: 'Hi {{ lead.full_name }} https://wrenfield.example',
              needsConsent: false,
            }),
          ],
          record: [
            stepOf('sheet-row', 'r', {
              ...(stepKinds.get('sheet-row')!.blank() as object),
              ...{ tab: tab.id, cells: { [first!.id]: '{{ lead.full_name }}', [second!.id]: 'new' } },
            }),
            stepOf('note', 'n', { text: '{{ lead.full_name }} would like a harp' }),
          ],
          team: [],
        },
      }),
    ]);
    // A lead, a body that breaks off, one with a wrong signature, one to a source that is being set up.
    await flow.send({ name: `${WHO.first} ${WHO.last}`, email: WHO.email, phone: WHO.typed });
    const { lead_id: id } = await flow.over(WHO.email);
    expect(await post(flow.source.address, `{"name":"${WHO.first}","email":"${WHO.email}"`)).to.equal(400);
    const ad = await stage.source('Trial lesson form');
    expect(await post(ad.url, { email: WHO.email })).to.equal(401);
    const waiting = (
      await oona.call<SourceView>('POST', '/api/sources', { kind: 'webhook', name: 'Soon', signed: false })
    ).body;
    expect(await post(waiting.address, { who: WHO.first, phone: WHO.typed })).to.equal(202);
    // Files: a workbook with others in it, and an import; a row typed into a sheet.
    const row = (...cells: string[]) =>
      `<row>${cells.map((text) => `<c t="inlineStr"><is><t>${text}</t></is></c>`).join('')}</row>`;
    const book = workbook({
      'xl/worksheets/sheet1.xml': Buffer.from(
        `<worksheet><sheetData>${row('First name', 'Last name', 'Email', 'Phone')}${row(WHO.first, WHO.last, WHO.email.toUpperCase(), WHO.typed)}${row('Odo', 'Stays', 'odo.stays@example.org', '')}</sheetData></worksheet>`,
      ),
    });
    const fair = (await oona.call<SourceView>('POST', '/api/sources', { kind: 'workbook', name: 'Fair' })).body;
    const drop = () =>
      fetch(fair.address, { method: 'PUT', body: new Uint8Array(book) }).then((answer) => answer.status);
    expect(await drop()).to.equal(202);
    const card = await oona.call('PUT', `/api/sources/${fair.id}/card`, {
      fields: { first_name: 'first_name', last_name: 'last_name', email: 'email', phone: 'phone' },
      consent: { kind: 'not_asked' },
    });
    expect(card.status, JSON.stringify(card.body)).to.equal(200);
    expect(await drop()).to.equal(202);
    await stage.db.query('update pull set next_at = now() where source_id = $1', [fair.id]);
    await until('the workbook to be read', async () => {
      const { rows } = await stage.db.query(`select from lead where email = 'odo.stays@example.org'`);
      return rows.length > 0;
    });
    const old = (await oona.call<SourceView>('POST', '/api/sources', { kind: 'import', name: 'Old' })).body;
    await fetch(`${stage.url}/api/sources/${old.id}/import/file?name=old.csv`, {
      method: 'POST',
      headers: { cookie: oona.cookie, origin: stage.url, 'content-type': 'application/octet-stream' },
      body: `Name,Phone\n${WHO.first} ${WHO.last},(07700) 900-777\nUna Stays,07700 900778\n`,
    });
    await until('the import to be read', async () => {
      const { rows } = await stage.db.query('select from import_row where source_id = $1', [old.id]);
      return rows.length >= 2;
    });
    const typed = randomUUID();
    await oona.call('POST', `/api/tabs/${tab.id}/rows`, {
      insert: [
        { id: typed, after: null, cells: { [first!.id]: `${WHO.first}, ${WHO.email}`, [second!.id]: 'call back' } },
      ],
    });
    await oona.call('POST', `/api/tabs/${tab.id}/rows`, {
      change: [{ id: typed, cells: { [first!.id]: 'somebody' } }],
    });
    // What colleagues did about her, and what she wrote.
    await oona.call('PUT', `/api/leads/${id}`, {
      ...{ first_name: WHO.first, last_name: WHO.last, email: `new.${WHO.email}`, phone: NUMBER },
    });
    const colleague = (await stage.db.query('select person_id as id from membership limit 1')).rows[0].id;
    await oona.call('POST', '/api/calendar/appointments', {
      ...{
        colleagueId: colleague,
        leadId: id,
        title: `Harp for ${WHO.first} ${WHO.last}`,
        startsAt: '2031-01-01T09:00',
      },
    });
    await oona.call('POST', '/api/bulk', {
      choice: { ids: null, search: WHO.email, segment: null, condition: null, list: null, tag: null, source: null },
      action: { does: 'tag', tag: (await stage.db.query('select id from tag limit 1')).rows[0].id },
      count: 1,
    });
    await atTheDesk(stage, '/phones/write', { number: NUMBER, text: `It is ${WHO.first}, is Saturday possible?` });
    await until('what she wrote', async () => {
      const { rows } = await stage.db.query('select from inbound where sender = $1', [NUMBER]);
      return rows.length > 0;
    });
    await until('the bulk work to end', async () => {
      const { rows } = await stage.db.query(`select from bulk_work where state = 'running'`);
      return rows.length === 0;
    });
    // What came in of her stands packed with that of others, by the time she asks; a part of it came later.
    await keepArchive(stage.db, Date.now() + 130 * 86_400_000);
    await flow.send({ name: WHO.first, email: WHO.email });
    const before = await inTheDatabase();
    for (const table of [
      'lead',
      'arrival',
      'arrival_pack',
      'stored_file',
      'import_row',
      'sheet_row',
      'sheet_row_change',
      'audit',
      'delivery',
      'inbound',
      'bulk_work',
      'calendar_entry',
      'lead_note',
      'lead_change',
      'step_result',
    ])
      expect(
        before.some((one) => one.startsWith(`${table}:`)),
        `she stands in ${table}`,
      ).to.equal(true);
    const others = async () =>
      (await stage.db.query('select count(*)::int n from lead where id <> $1', [id])).rows[0].n as number;
    const count = await others();

    const erased = await oona.call<{ detail?: string }>('POST', `/api/leads/${id}/erase`, {
      name: `${WHO.first} ${WHO.last}`,
    });
    expect(erased.status, erased.body?.detail).to.equal(200);
    expect(await inTheDatabase()).to.deep.equal([]);
    const folder = stage.env.PINEBELL_DATA!;
    for (const file of readdirSync(folder, { recursive: true, withFileTypes: true }).filter((dirent) =>
      dirent.isFile(),
    ))
      for (const mark of MARKS)
        expect(readFileSync(join(file.parentPath, file.name), 'latin1').toLowerCase(), file.name).not.to.include(mark);
    expect(stage.logs.join('\n').toLowerCase(), 'nor in what the processes write').not.to.include('zorbaxia');
    expect(await others()).to.equal(count);
    const files = await stage.db.query(
      `select convert_from(bytes, 'UTF8') as text from stored_file where source_id = any($1)`,
      [[fair.id, old.id]],
    );
    const texts = files.rows.map((row) => row.text).join('\n');
    expect(texts, 'the others in the same files').to.include('odo.stays@example.org').and.include('Una Stays');
    const proof = await stage.db.query('select hashes from erasure order by at desc limit 1');
    expect(proof.rows[0].hashes.length).to.be.at.least(2);
  });
});
