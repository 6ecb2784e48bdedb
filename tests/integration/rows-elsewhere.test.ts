import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import pg from 'pg';
import type { WrittenTable } from '../../src/core/outside/written-table.ts';
import { RowsElsewhere } from '../../src/engine/services/rows-elsewhere.ts';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import type { CallSeen } from '../../src/gateways/described/described-caller.ts';
import { type FilePlaceAccount, FilePlaces, type PlacesReached } from '../../src/gateways/file-place.ts';
import { HttpCaller } from '../../src/gateways/http.ts';
import { SftpPlaces } from '../../src/gateways/sftp-place.ts';
import { columnsOf } from '../../src/tables/put-rows.ts';
import { type Authority, authority } from '../stage/certificates.ts';
import { FILE_USER, type FileServer, openFileServer } from '../stage/file-server.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { openSftpServer, type SftpServer } from '../stage/sftp-server.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { type Stage, signedIn, until } from '../stage/stage.ts';

const FILE = 'Email,Name\nada.rows@example.com,Ada\n';
const TABLE: WrittenTable = {
  key: 't',
  label: 'Entry',
  path: 'camp/rows.csv',
  columns: ['Email', 'Name'],
  by: 'Email',
};

describe('rows of tables in files that lie elsewhere', function () {
  this.timeout(120_000);
  let web: FileServer;
  let ssh: SftpServer;
  let ours: Authority;
  let stage: Stage;
  let oona: Coordinator;
  const http = new HttpCaller(addressGuard(true));
  const places = new FilePlaces(http, new SftpPlaces(addressGuard(true)));
  const seen: CallSeen[] = [];
  const pools: pg.Pool[] = [];
  /** As a process of its own has it. */
  const writer = (reached: Pick<PlacesReached, 'fetch' | 'put'> = places) => {
    const pool = new pg.Pool({ connectionString: stage.databaseUrl, max: 4 });
    pools.push(pool);
    return new RowsElsewhere({ pool, places: reached, now: Date.now, seen: (call) => seen.push(call) });
  };
  const byWeb = (): FilePlaceAccount => ({ address: web.address, ...FILE_USER, authority: ours.pem });
  const bySsh = (): FilePlaceAccount => ({
    address: ssh.address,
    user: ssh.user,
    password: ssh.key,
    hostKey: ssh.hostKey,
  });
  const row = (n: number) => ({ Email: `p${n}.rows@example.com`, Name: `Person ${n}` });
  const untilDone = (rows: RowsElsewhere, account: FilePlaceAccount, cells: Record<string, string>) =>
    until('the row to be written', async () => {
      const answer = await rows.put('c', account, TABLE, cells);
      if (answer.kind === 'refused') throw new Error(answer.detail);
      return answer.kind === 'accepted' && answer;
    });

  before(async () => {
    ours = await authority('Wrenfield own authority');
    web = await openFileServer(await ours.issue(['127.0.0.1']));
    ssh = await openSftpServer();
    ({ stage } = await sharedStage());
    oona = await signedIn(stage);
  });
  after(async () => {
    await http.close();
    await Promise.all([web?.close(), ssh?.close(), ...pools.map((pool) => pool.end())]);
  });

  for (const [way, account, put, read] of [
    [
      'WebDAV (Apache)',
      byWeb,
      (text: string) => web.put('camp/rows.csv', text),
      () => readFileSync(join(web.folder, 'camp/rows.csv'), 'utf8'),
    ],
    ['SFTP (OpenSSH)', bySsh, (text: string) => ssh.put('camp/rows.csv', text), () => ssh.read('camp/rows.csv')],
  ] as const)
    it(`by ${way}: many at once from two processes and somebody else who saves meanwhile, and every row stands there once`, async () => {
      put(FILE);
      const [one, other] = [writer(), writer()];
      const person = (async () => {
        for (let n = 0; n < 4; n++) {
          await new Promise((resolve) => setTimeout(resolve, 150));
          // As a spreadsheet does it: read whole, and saved whole a moment later unless it has changed.
          for (;;) {
            const got = await places.fetch(account(), TABLE.path, null, 100_000);
            if (!got.ok) throw new Error(got.problem);
            if (got.value.mark.etag?.startsWith('W/')) {
              await new Promise((resolve) => setTimeout(resolve, 200));
              continue;
            }
            const saved = await places.put(
              account(),
              TABLE.path,
              Buffer.from(`${got.value.bytes!.toString()}theirs${n}@example.com,Theirs ${n}\n`),
              got.value.mark,
            );
            if (saved.ok && saved.value === 'written') break;
            await new Promise((resolve) => setTimeout(resolve, 50));
          }
        }
      })();
      await Promise.all([
        person,
        ...Array.from({ length: 20 }, (_, n) => untilDone(n % 2 ? one : other, account(), row(n))),
        untilDone(one, account(), { Email: 'ADA.rows@example.com', Name: 'Ada Lark' }),
      ]);
      const lines = read().trim().split('\n');
      expect(lines.slice(0, 2)).to.deep.equal(['Email,Name', 'ada.rows@example.com,Ada Lark']);
      expect(lines.slice(2).toSorted()).to.deep.equal(
        [
          ...Array.from({ length: 20 }, (_, n) => `p${n}.rows@example.com,Person ${n}`),
          ...Array.from({ length: 4 }, (_, n) => `theirs${n}@example.com,Theirs ${n}`),
        ].toSorted(),
      );
    });

  it('what somebody holds for themselves is left alone until they are done (RFC 4918 §9.10); what a process that died left is no lock for ever', async () => {
    web.put('camp/rows.csv', FILE);
    const at = `${web.address}camp/rows.csv`;
    const signedIn = {
      authorization: `Basic ${Buffer.from(`${FILE_USER.user}:${FILE_USER.password}`).toString('base64')}`,
    };
    const locking =
      '<lockinfo xmlns="DAV:"><lockscope><exclusive/></lockscope><locktype><write/></locktype></lockinfo>';
    const locked = await http.call('LOCK', at, { ...signedIn, depth: '0' }, locking, undefined, {
      authority: ours.pem,
    });
    if (!locked.ok) throw new Error(locked.detail);
    const rows = writer();
    expect(await rows.put('c', byWeb(), TABLE, row(1))).to.deep.include({
      ...{ kind: 'again', detail: 'Somebody has the file open and holds it for themselves.' },
    });
    const token = locked.reply.headers['lock-token']!;
    await http.call('UNLOCK', at, { ...signedIn, 'lock-token': token }, undefined, undefined, { authority: ours.pem });
    await untilDone(rows, byWeb(), row(1));
    ssh.put('camp/rows.csv', FILE);
    ssh.put('camp/rows.csv.part', 'half a fi');
    expect(await rows.put('c', bySsh(), TABLE, row(1))).to.deep.include({ kind: 'again', code: 'busy' });
    ssh.put('camp/rows.csv.part', 'half a fi', Date.now() - 200_000);
    await untilDone(rows, bySsh(), row(1));
    expect(ssh.read('camp/rows.csv')).to.equal(`${FILE}p1.rows@example.com,Person 1\n`);
    expect(() => ssh.read('camp/rows.csv.part')).to.throw('ENOENT');
  });

  it('a file that is not there is made, in a folder that is; what cannot be is told', async () => {
    const rows = writer();
    for (const account of [byWeb(), bySsh()]) {
      const put = async (path: string) => rows.put('c', account, { ...TABLE, path }, row(1));
      expect(await put('camp/new.csv')).to.deep.equal({
        ...{ kind: 'accepted', code: 'made', detail: 'A row added to camp/new.csv' },
      });
      expect(await put('gone/new.csv')).to.deep.include({
        ...{ kind: 'refused', detail: 'The folder of this file is not there. Make it, or write another path.' },
      });
    }
    expect(ssh.read('camp/new.csv')).to.equal('\uFEFFEmail,Name\r\np1.rows@example.com,Person 1\r\n');
    const plain = { ...byWeb(), address: web.plain };
    expect(await rows.put('c', plain, { ...TABLE, path: 'contacts.csv' }, row(1))).to.deep.include({
      ...{ kind: 'refused', detail: 'The server takes no files at this address: it is read only, or no WebDAV.' },
    });
    expect(seen.at(-1)).to.deep.include({ connectionId: 'c', well: false });
  });

  it('an answer that never came, or a server that is down, is tried again, and the row stands there once', async () => {
    ssh.put('camp/rows.csv', FILE);
    let lost = 0;
    const losing = {
      fetch: places.fetch.bind(places),
      put: async (...args: Parameters<PlacesReached['put']>) => {
        const said = await places.put(...args);
        lost += 1;
        return lost === 1 ? ({ ok: false, refused: false, problem: 'The line broke.' } as const) : said;
      },
    };
    const rows = writer(losing);
    expect(await rows.put('c', bySsh(), TABLE, row(7))).to.deep.equal({
      ...{ kind: 'again', code: 'file', detail: 'The line broke.', afterMs: null },
    });
    expect(await rows.put('c', bySsh(), TABLE, row(7))).to.deep.include({ kind: 'accepted', code: 'same' });
    expect(ssh.read('camp/rows.csv')).to.equal(`${FILE}p7.rows@example.com,Person 7\n`);
    const nobody = { ...bySsh(), address: 'sftp://127.0.0.1:9/files' };
    expect(await rows.put('c', nobody, TABLE, row(7))).to.deep.include({ kind: 'again', code: 'file' });
  });

  it('in a workflow: a step puts each lead into the file; the second time its row is brought up to date', async () => {
    ssh.put('camp/rows.csv', FILE);
    const made = await oona.call<{ id: string; detail: string }>('POST', '/api/connections', {
      ...{
        kind: 'file_place',
        name: 'Camp files',
        address: ssh.address,
        user: ssh.user,
        secret: ssh.key,
        hostKey: ssh.hostKey,
      },
    });
    const id = made.body.id;
    const put = (tables: object[]) => oona.call<{ detail: string }>('PUT', `/api/connections/${id}/tables`, { tables });
    const table = { ...TABLE, key: 'camp_entry', label: 'Camp entry', columns: ['Email', 'Name', 'Instrument'] };
    const wrong = await put([{ ...table, path: '../else.csv' }]);
    expect([wrong.status, wrong.body.detail]).to.deep.equal([
      422,
      'Camp entry: Write a path below the folder of the connection.',
    ]);
    const kept = await put([table]);
    expect(kept.status, kept.body.detail).to.equal(200);
    const there = await oona.call<{ choices: { id: string }[] }>(
      'GET',
      `/api/sources/choices/workbook?${new URLSearchParams({ connection: id, q: '', of: 'columns:camp/rows.csv' })}`,
    );
    expect(there.body.choices.map((one) => one.id)).to.deep.equal(columnsOf(Buffer.from(FILE)));
    const step = freshStep('service-record', 'r', {
      ...{ connection: id, record: 'camp_entry' },
      values: { email: '{{ lead.email }}', name: '{{ lead.full_name }}', instrument: '{{ answers.instrument }}' },
    });
    const flow = await liveFlow(stage, oona, [momentOf('m', { lanes: { lead: [], record: [step], team: [] } })]);
    await flow.send({ name: 'Ada Lark', email: 'ada.rows@example.com', phone: '07700 900195' });
    await flow.over('ada.rows@example.com');
    await flow.send({ name: 'Bo Fair', email: 'bo.rows@example.com', phone: '07700 900196' });
    await flow.over('bo.rows@example.com');
    const lines = ssh.read('camp/rows.csv').trim().split('\n');
    expect(lines[0]).to.equal('Email,Name,Instrument');
    expect(lines.slice(1).map((line) => line.split(',').slice(0, 2).join(','))).to.deep.equal([
      'ada.rows@example.com,Ada Lark',
      'bo.rows@example.com,Bo Fair',
    ]);
    // What hangs on the place is told before it is removed.
    const gone = await oona.call<{ detail: string }>('DELETE', `/api/connections/${id}`);
    expect(gone.status).to.equal(409);
  });
});
