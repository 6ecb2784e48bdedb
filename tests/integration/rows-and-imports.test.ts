import { expect } from 'chai';
import type { SheetView } from '../../src/app/sheets/sheets.ts';
import type { SourceView } from '../../src/app/sources/sources.ts';
import type { ImportView } from '../../src/sources/import/import-view.ts';
import { textsOn } from '../stage/flow.ts';
import { adEntry, openStage, push, type Stage, signedIn, until } from '../stage/stage.ts';
import { workbook } from '../stage/workbook.ts';

type Refused = { detail?: string; status?: number };

describe('rows, from a sheet, a workbook or an old file', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Awaited<ReturnType<typeof signedIn>>;
  before(async () => {
    stage = await openStage();
    oona = await signedIn(stage);
  });
  after(() => stage.close());

  const texted = (number: string) => until(`a text to ${number}`, () => textsOn(stage, number)[0]);
  const idOf = async (name: string): Promise<string> =>
    (await stage.db.query('select id from source where name = $1', [name])).rows[0].id;
  const arrivals = async (name: string, where = 'true') =>
    (
      await stage.db.query(
        `select a.* from arrival a join source s on s.id = a.source_id where s.name = $1 and ${where} order by a.received_at`,
        [name],
      )
    ).rows;
  const source = async (name: string) => (await oona.call<SourceView>('GET', `/api/sources/${await idOf(name)}`)).body;

  describe('sheets and files', () => {
    it('a row comes in once it has come to rest, with its consent; renamed columns change nothing; deleting asks', async () => {
      const sheets = (await oona.call<{ id: string; name: string }[]>('GET', '/api/sheets')).body;
      const sheet = sheets.find(({ name }) => name === 'Front desk sign-in');
      const view = (await oona.call<SheetView>('GET', `/api/sheets/${sheet!.id}`)).body;
      const [tab] = view.tabs;
      const [name, email, mobile, instrument, agrees] = tab!.columns.map((column) => column.id) as [
        string,
        string,
        string,
        string,
        string,
      ];
      await oona.call('PUT', `/api/tabs/${tab!.id}`, {
        name: 'Renamed',
        columns: tab!.columns.map((column) => ({ ...column, name: `${column.name} (new)` })),
      });
      const id = crypto.randomUUID();
      const last = (await oona.call<{ rows: { id: string }[] }>('GET', `/api/tabs/${tab!.id}/rows`)).body.rows.at(
        -1,
      )!.id;
      const edit = (body: object) => oona.call('POST', `/api/tabs/${tab!.id}/rows`, body);
      await edit({ insert: [{ id, after: last, cells: { [name]: 'Hal' } }] });
      await edit({ change: [{ id, cells: { [name]: 'Hal Iver', [mobile]: '07700 900708' } }] });
      await edit({ change: [{ id, cells: { [email]: 'hal@example.org', [instrument]: 'Harp', [agrees]: 'yes' } }] });
      expect(await texted('+447700900708')).to.match(/^Hi Hal,/);
      await edit({ change: [{ id, cells: { [instrument]: 'Lute' } }] });
      const kept = await arrivals('Front desk sheet');
      expect(kept.map((one) => one.fields.map((field: { value: string }) => field.value))).to.deep.equal([
        ['Hal Iver', 'hal@example.org', '07700 900708', 'Harp', 'yes'],
      ]);
      const asked = await oona.call<Refused>('DELETE', `/api/sheets/${sheet!.id}`);
      expect([asked.status, asked.body.detail]).to.deep.equal([
        409,
        '"Front desk sheet" listens to it and would get nothing more.',
      ]);
      const taken = await oona.call<Refused>('PUT', `/api/tabs/${tab!.id}`, { columns: tab!.columns.slice(1) });
      expect(taken.status).to.equal(409);
    });

    it('a sheet goes out as CSV and XLSX and comes back as it was', async () => {
      const made = (await oona.call<SheetView>('POST', '/api/sheets', { name: 'Round' })).body;
      const [tab] = made.tabs;
      const columns = tab!.columns.map((column) => column.id);
      const nasty = ['=1+1', '+447700900142', 'two\nlines', 'a "quote", a comma', '007'];
      await oona.call('POST', `/api/tabs/${tab!.id}/rows`, {
        insert: [
          {
            id: crypto.randomUUID(),
            after: null,
            cells: Object.fromEntries(nasty.map((cell, i) => [columns[i]!, cell])),
          },
        ],
      });
      for (const format of ['csv', 'xlsx']) {
        const file = await fetch(`${stage.url}/api/tabs/${tab!.id}/file?format=${format}`, {
          headers: { cookie: oona.cookie },
        });
        const bytes = Buffer.from(await file.arrayBuffer());
        const back = (await oona.call<SheetView>('POST', '/api/sheets', { name: `Back ${format}` })).body;
        const put = await fetch(`${stage.url}/api/tabs/${back.tabs[0]!.id}/file?name=x`, {
          method: 'POST',
          headers: { cookie: oona.cookie, origin: stage.url, 'content-type': 'application/octet-stream' },
          body: bytes,
        });
        expect(await put.json(), format).to.deep.equal({ rows: 1, columns: 5 });
        const [view] = (await oona.call<SheetView>('GET', `/api/sheets/${back.id}`)).body.tabs;
        const { rows } = (
          await oona.call<{ rows: { cells: Record<string, string> }[] }>('GET', `/api/tabs/${back.tabs[0]!.id}/rows`)
        ).body;
        expect(
          view!.columns.map((column) => rows[0]!.cells[column.id]),
          format,
        ).to.deep.equal(nasty);
      }
    });

    it('a workbook dropped off again: only rows not seen before, whatever was renamed and moved', async () => {
      const { address } = await source('Instrument fair contacts');
      await until(
        'the first file',
        async () => (await arrivals('Instrument fair contacts', `a.state = 'read'`)).length === 3,
      );
      const drop = (text: string) => fetch(address, { method: 'PUT', body: text });
      const second = await drop(
        'Contacts at stand 14,,,\nMobile,E-Mail,Name,Tried\n07700 900621,gideon.marsh@example.com,Gideon Marsh,Cello\n07700 900709,iris@example.org,Iris Mott,"Harp\nand lute"\n',
      );
      expect(second.status).to.equal(202);
      await until(
        'the new row',
        async () => (await arrivals('Instrument fair contacts', `a.state = 'read'`)).length === 4,
      );
      const [iris] = await arrivals('Instrument fair contacts', `a.external_id = 'key:iris@example.org'`);
      expect(
        Object.fromEntries(iris.fields.map((field: { key: string; value: string }) => [field.key, field.value])),
      ).to.deep.equal({
        mobile: '07700 900709',
        email: 'iris@example.org',
        name: 'Iris Mott',
        tried: 'Harp\nand lute',
      });
      const broken = await drop('%PDF-1.7');
      expect([broken.status, ((await broken.json()) as Refused).detail]).to.deep.equal([
        422,
        'This is a PDF. Save the table as XLSX or CSV.',
      ]);
      expect((await fetch(`${address}x`, { method: 'PUT', body: 'a' })).status).to.equal(404);
    });

    it('hostile files are refused with a reason, and the server stays well', async () => {
      const made = (await oona.call<SourceView>('POST', '/api/sources', { kind: 'workbook', name: 'Hostile' })).body;
      const drop = async (bytes: Buffer) => {
        const answer = await fetch(made.address, { method: 'PUT', body: new Uint8Array(bytes) });
        return [answer.status, ((await answer.json()) as Refused).detail] as const;
      };
      const bomb = workbook({ 'xl/worksheets/sheet1.xml': Buffer.alloc(120 * 1024 * 1024, ' ') });
      expect(bomb.length).to.be.lessThan(300_000);
      expect((await drop(bomb))[1]).to.match(/unpacks to far more/);
      await drop(Buffer.from('email\na@example.org\n'));
      await oona.call('PUT', `/api/sources/${made.id}/card`, {
        fields: { email: 'email' },
        consent: { kind: 'not_asked' },
      });
      await drop(Buffer.from(`email\n${'a\n'.repeat(200_001)}`));
      const told = await until(
        'the refusal',
        async () => {
          const files = (await oona.call<{ problem: string | null }[]>('GET', `/api/sources/${made.id}/files`)).body;
          return files.find((file) => file.problem?.includes('rows'));
        },
        30_000,
      );
      expect(told.problem).to.match(/more than 200,000 rows/);
      expect((await drop(Buffer.from([0xd0, 0xcf, 0x11, 0xe0, 1, 2, 3])))[1]).to.match(/old kind/);
      expect((await drop(Buffer.concat([Buffer.from('PK\x03\x04'), Buffer.alloc(200)])))[1]).to.match(
        /not a whole ZIP|damaged/,
      );
      expect((await drop(Buffer.from('GIF89a\0\0\0')))[1]).to.match(/not a table/);
      expect((await drop(workbook({}, '<!DOCTYPE x [<!ENTITY a "b">]><workbook/>')))[1]).to.match(
        /document type|cannot be read/,
      );
      expect((await fetch(`${stage.url}/healthz`)).status).to.equal(200);
    });
  });

  describe('imports', () => {
    let id: string;
    const view = async () => (await oona.call<ImportView>('GET', `/api/sources/${id}/import`)).body;
    const at = (state: string) =>
      until(
        `the import to be ${state}`,
        async () => {
          const now = await view();
          return now?.state === state && (state !== 'ready' || now.checked) ? now : null;
        },
        30_000,
      );
    const upload = async (text: string) => {
      id = (await oona.call<SourceView>('POST', '/api/sources', { kind: 'import', name: 'Old customers' })).body.id;
      const answer = await fetch(`${stage.url}/api/sources/${id}/import/file?name=old.csv`, {
        method: 'POST',
        headers: { cookie: oona.cookie, origin: stage.url, 'content-type': 'application/octet-stream' },
        body: text,
      });
      expect(answer.status).to.equal(200);
      await at('read');
      await oona.call('PUT', `/api/sources/${id}/card`, {
        fields: { full_name: 'name', email: 'email', phone: 'phone' },
        consent: { kind: 'asked_elsewhere', note: 'on paper', wording: 'You may write to me about lessons and news.' },
      });
      return at('ready');
    };

    it('marks what is wrong, twice, or known; records the rest; gives the refused rows back; and can be undone', async () => {
      const finn = adEntry('finn', { first_name: 'Finn', email: 'finn@example.org', phone: '07700 900711' });
      expect((await push(await stage.source('Trial lesson form'), finn)).status).to.equal(202);
      await until('Finn', async () => {
        const { rowCount } = await stage.db.query(`select from lead where email = 'finn@example.org'`);
        return rowCount;
      });
      const ready = await upload(
        'Name;Email;Phone\nJo Kay;jo@example.org;\nJo Kay;JO@example.org;\nLia;no address;12\nFinn;finn@example.org;\nMax;max@example.org;07700 900710\n',
      );
      expect(ready.counts).to.deep.equal({ good: 3, refused: 1, duplicate: 1, known: 1 });
      // Finn himself has been answered by then.
      await texted('+447700900711');
      const before = stage.desk.world.state.carrier.length;
      const start = (count: number) =>
        oona.call<Refused & ImportView>('POST', `/api/sources/${id}/import`, { workflowId: null, count });
      expect((await start(4)).body.detail).to.equal('There are 3 now, not 4. Look again before you start.');
      await start(3);
      expect((await at('done')).done).to.equal(3);
      expect((await stage.db.query(`select 1 from lead where email = 'max@example.org'`)).rowCount).to.equal(1);
      expect(stage.desk.world.state.carrier.length).to.equal(before);
      const refused = await fetch(`${stage.url}/api/sources/${id}/import/file`, { headers: { cookie: oona.cookie } });
      expect((await refused.text()).split('\r\n').slice(1, 3)).to.deep.equal([
        '3,Jo Kay,JO@example.org,,Stands further up in the file already.',
        '4,Lia,no address,12,"""no address"" is not an email address, ""12"" is not a phone number: nobody can be recognised or reached."',
      ]);
      await oona.call('POST', `/api/sources/${id}/import/undo`);
      expect((await view()).state).to.equal('undone');
      expect((await stage.db.query(`select 1 from lead where email = 'max@example.org'`)).rowCount).to.equal(0);
      expect((await stage.db.query(`select 1 from lead where email = 'finn@example.org'`)).rowCount).to.equal(1);
      expect((await stage.db.query('select 1 from arrival where source_id = $1', [id])).rowCount).to.be.greaterThan(2);
    });

    it('runs a workflow for each at a pace, and stops when told to', async () => {
      await upload(
        `Name;Email;Phone\n${Array.from({ length: 40 }, (_, i) => `P${i};p${i}@example.net;07700 9008${String(i).padStart(2, '0')}`).join('\n')}\n`,
      );
      const { rows } = await stage.db.query(`select id from workflow where name = 'Open day follow-up'`);
      await oona.call('POST', `/api/sources/${id}/import`, { workflowId: rows[0].id, perMinute: 120, count: 40 });
      const hour = Number(
        new Intl.DateTimeFormat('en-GB', { hour: '2-digit', hourCycle: 'h23', timeZone: 'Europe/London' }).format(
          new Date(),
        ),
      );
      if (hour >= 21 || hour < 8) {
        // It is night in London: nobody is written to, and that is said.
        const held = await until('the hold', async () =>
          (await view()).problem?.includes('Held until 08:00') ? view() : null,
        );
        expect(held.done).to.equal(0);
        await stage.db.query(`update business set time_zone = 'Pacific/Auckland'`);
        const there = Number(
          new Intl.DateTimeFormat('en-GB', { hour: '2-digit', hourCycle: 'h23', timeZone: 'Pacific/Auckland' }).format(
            new Date(),
          ),
        );
        if (there >= 21 || there < 8) await stage.db.query(`update business set time_zone = 'America/New_York'`);
        await stage.db.query('update lead_import set next_at = now() where source_id = $1', [id]);
      }
      await until('the first of them', async () => (await view()).done > 0, 20_000);
      await oona.call('POST', `/api/sources/${id}/import/stop`);
      const stopped = await view();
      expect(stopped.state).to.equal('stopped');
      expect(stopped.done).to.be.lessThan(40);
      await new Promise((resolve) => setTimeout(resolve, 2500));
      expect((await view()).done).to.equal(stopped.done);
      expect(await texted('+447700900800')).to.match(/^Hi P0/);
    });
  });
});
