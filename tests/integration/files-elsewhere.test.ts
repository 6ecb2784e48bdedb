import { utimesSync } from 'node:fs';
import { expect } from 'chai';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { type FileMark, FilePlaces } from '../../src/gateways/file-place.ts';
import { HttpCaller } from '../../src/gateways/http.ts';
import { SftpPlaces } from '../../src/gateways/sftp-place.ts';
import { type Authority, authority } from '../stage/certificates.ts';
import { FILE_USER, type FileServer, openFileServer } from '../stage/file-server.ts';
import type { Coordinator } from '../stage/flow.ts';
import { invented } from '../stage/invented-services.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

const MOST = 1_000_000;
const CSV = 'Name,Email\nAda Fair,ada@example.com\n';

describe('files that lie elsewhere, on a web server nobody here wrote (Apache with WebDAV)', function () {
  this.timeout(90_000);
  let server: FileServer;
  let ours: Authority;
  const http = new HttpCaller(addressGuard(true));
  const places = new FilePlaces(http, new SftpPlaces(addressGuard(true)));
  const account = (more: object = {}) => ({ address: server.address, ...FILE_USER, authority: ours.pem, ...more });

  before(async () => {
    ours = await authority('Wrenfield own authority');
    server = await openFileServer(await ours.issue(['127.0.0.1']));
    server.put('contacts.csv', CSV);
    server.put('camp/Übung & more #1.csv', CSV);
  });
  after(async () => {
    await http.close();
    await server?.close();
  });

  it('are listed (RFC 4918), folders and names of any kind, where the server lists them', async () => {
    expect(await places.list(account(), '')).to.deep.equal({
      ok: true,
      value: [
        { path: 'camp', folder: true },
        { path: 'contacts.csv', folder: false },
      ],
    });
    expect(await places.list(account(), 'camp')).to.deep.equal({
      ok: true,
      value: [{ path: 'camp/Übung & more #1.csv', folder: false }],
    });
    expect(await places.list(account({ address: server.plain }), '')).to.deep.include({
      ok: false,
      problem: 'The server does not list its files. Write the path of the file.',
    });
  });

  it('come once for each change: by their mark, and by what is in them where the mark changes alone', async () => {
    const fetched = async (known: FileMark | null, path = 'contacts.csv') => {
      const got = await places.fetch(account(), path, known, MOST);
      if (!got.ok) throw new Error(got.problem);
      return got.value;
    };
    const first = await fetched(null);
    expect(first.bytes?.toString()).to.equal(CSV);
    expect((await fetched(null, 'camp/Übung & more #1.csv')).bytes?.toString()).to.equal(CSV);
    expect((await fetched(first.mark)).bytes).to.equal(null);
    expect(server.asked().at(-1)).to.equal('GET /shared/contacts.csv 304');
    // Touched, and the same: another mark, and nothing new.
    utimesSync(`${server.folder}/contacts.csv`, new Date(), new Date(Date.now() - 60_000));
    const touched = await fetched(first.mark);
    expect(server.asked().at(-1)).to.equal('GET /shared/contacts.csv 200');
    expect([touched.bytes, touched.mark.etag === first.mark.etag]).to.deep.equal([null, false]);
    server.put('contacts.csv', `${CSV}Bo Fair,bo@example.com\n`);
    expect((await fetched(touched.mark)).bytes?.toString()).to.include('Bo Fair');
    server.put('contacts.csv', CSV);
  });

  it('that cannot be had are told with what to do', async () => {
    const problem = async (of: object, path = 'contacts.csv', most = MOST) => {
      const got = await places.fetch(account(of), path, null, most);
      return got.ok ? 'none' : got.problem;
    };
    expect(await problem({ password: 'wrong' })).to.include('does not accept this user and password');
    expect(await problem({}, 'Contacts.csv')).to.include('There is no file at this path');
    expect(await problem({}, 'camp')).to.include('There is no file at this path');
    expect(await problem({}, '../users')).to.include('Write the address as');
    expect(await problem({}, 'camp/../../users')).to.include('Write the address as');
    expect(await problem({ authority: undefined })).to.include('signed by an authority nobody here knows');
    expect(await problem({}, 'contacts.csv', 10)).to.include('larger than');
    expect(await problem({ address: 'ftp://files.example/' })).to.include('Write the address as');
    const shut = new FilePlaces(new HttpCaller(addressGuard(false)), new SftpPlaces(addressGuard(false)));
    expect(await shut.fetch(account(), 'contacts.csv', null, MOST)).to.include({ ok: false, refused: true });
  });

  it('of a server that lists what it should not are left where they are, and what is no list lists nothing', async () => {
    const odd = await invented(({ url }) => ({
      status: 207,
      headers: { 'content-type': 'application/xml' },
      body:
        url.pathname === '/bomb/'
          ? '<!DOCTYPE x [<!ENTITY a "aaaa">]><multistatus xmlns="DAV:">&a;</multistatus>'
          : url.pathname === '/html/'
            ? '<html><body>Welcome'
            : `<q:multistatus xmlns:q="DAV:">${[
                '/place/in.csv',
                'https://elsewhere.example/place/out.csv',
                '/other.csv',
                '/place/%E0%A4%A',
                '/place/',
                '/place/sub/',
              ]
                .map(
                  (href) =>
                    `<q:response><q:href>${href}</q:href><q:propstat><q:prop><q:resourcetype>${href.endsWith('b/') ? '<q:collection/>' : ''}</q:resourcetype></q:prop></q:propstat></q:response>`,
                )
                .join('')}</q:multistatus>`,
    }));
    const listed = async (path: string) => places.list({ address: odd.address + path, user: '', password: '' }, '');
    expect(await listed('/place')).to.deep.equal({
      ok: true,
      value: [
        { path: 'in.csv', folder: false },
        { path: 'sub', folder: true },
      ],
    });
    expect(await listed('/bomb')).to.deep.equal({ ok: true, value: [] });
    expect(await listed('/html')).to.deep.equal({ ok: true, value: [] });
    await odd.close();
  });

  describe('as a source, in real processes', () => {
    let stage: Stage;
    let oona: Coordinator;
    let source: string;
    before(async () => {
      stage = await openStage();
      oona = await signedIn(stage);
    });
    after(() => stage?.close());
    const leads = async () =>
      (
        await stage.db.query<{ email: string }>(
          'select l.email from arrival a join lead l on l.id = a.lead_id where a.source_id = $1 order by 1',
          [source],
        )
      ).rows.map(({ email }) => email);
    const look = () => stage.db.query('update pull set next_at = now() where source_id = $1', [source]);

    it('each new row comes in once, when the file has changed', async () => {
      const made = await oona.call<{ id: string; detail: string }>('POST', '/api/connections', {
        ...{ kind: 'file_place', name: 'Fair files', address: server.address, user: FILE_USER.user },
        ...{ secret: FILE_USER.password, untried: true },
      });
      expect(made.status, made.body.detail).to.equal(200);
      await oona.call('PUT', `/api/connections/${made.body.id}/care`, { keyUntil: '', authority: ours.pem });
      const tried = await oona.call<{ found: string }>('POST', `/api/connections/${made.body.id}/try`);
      expect(tried.body.found).to.equal('It lets us in: 2 files and folders.');
      const input = { kind: 'workbook', name: 'Fair', connectionId: made.body.id, everyMinutes: 1 };
      const wrong = await oona.call<{ detail: string }>('POST', '/api/sources', { ...input, path: 'gone.csv' });
      expect(wrong.body.detail).to.include('There is no file at this path');
      const added = await oona.call<{ id: string; detail: string }>('POST', '/api/sources', {
        ...input,
        path: 'contacts.csv',
      });
      expect(added.status, added.body.detail).to.equal(200);
      source = added.body.id;
      const sample = await oona.call<{ detail: string }>('POST', `/api/sources/${source}/sample`);
      expect(sample.status, JSON.stringify(sample.body)).to.equal(200);
      const { rows } = await stage.db.query('select settings from source where id = $1', [source]);
      expect(rows[0].settings).to.deep.include({
        headerRow: 1,
        connectionId: made.body.id,
        path: 'contacts.csv',
      });
      const [name, email] = rows[0].settings.columns.map(({ id }: { id: string }) => id);
      await oona.call('PUT', `/api/sources/${source}/card`, {
        fields: { full_name: name, email },
        consent: { kind: 'not_asked' },
      });
      // What hangs on a place is told before it is removed.
      const gone = await oona.call<{ detail: string }>('DELETE', `/api/connections/${made.body.id}`);
      expect(gone.body.detail).to.include('the source “Fair”');
      await look();
      await until('Ada', async () => (await leads()).length === 1);
      server.put('contacts.csv', `${CSV}Bo Fair,bo@example.com\nCy Fair,cy@example.com\n`);
      await look();
      await until('Bo and Cy', async () => (await leads()).length === 3);
      await look();
      await until(
        'another look',
        async () =>
          (await stage.db.query('select from pull where source_id = $1 and next_at > now()', [source])).rowCount,
      );
      expect(await leads()).to.deep.equal(['ada@example.com', 'bo@example.com', 'cy@example.com']);
    });

    it('a file that is broken, or away for a while, is told and loses nothing', async () => {
      server.put('contacts.csv', Buffer.from([0x50, 0x4b, 3, 4, 0, 0, 0, 0]));
      await look();
      await until(
        'the broken file to be told',
        async () =>
          (
            await stage.db.query(
              `select from needs_you where subject = 'source:' || $1::text || ':file' and settled_at is null`,
              [source],
            )
          ).rowCount,
      );
      server.put('contacts.csv', `${CSV}Bo Fair,bo@example.com\nCy Fair,cy@example.com\nDi Fair,di@example.com\n`);
      await look();
      await until('Di', async () => (await leads()).includes('di@example.com'));
      expect(await leads()).to.have.length(4);
      const open = await stage.db.query(
        `select from needs_you where subject = 'source:' || $1::text || ':file' and settled_at is null`,
        [source],
      );
      expect(open.rowCount).to.equal(0);
    });
  });
});
