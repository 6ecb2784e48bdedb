import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import pg from 'pg';
import { startPostgres } from '../../scripts/setup/postgres.mjs';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { OutsideDatabases } from '../../src/gateways/outside-database.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, signedIn, until } from '../stage/stage.ts';

/** Against a second cluster of Debian's PostgreSQL, which belongs to nobody here. */
describe('rows of the business’s own database', function () {
  this.timeout(90_000);
  const folder = mkdtempSync(join(tmpdir(), 'pine-bell-outside-'));
  let cluster: Awaited<ReturnType<typeof startPostgres>>;
  let theirs: pg.Client;
  let stage: Stage;
  let oona: Coordinator;
  let address: string;
  const account = () => ({ address, user: 'reader', password: 'read only' });
  const open = new OutsideDatabases(addressGuard(true));
  before(async () => {
    [{ stage }, cluster] = await Promise.all([sharedStage(), startPostgres(folder, { fast: true })]);
    oona = await signedIn(stage);
    const admin = new pg.Client({ connectionString: cluster.url('postgres') });
    await admin.connect();
    await admin.query('create database school');
    await admin.end();
    theirs = new pg.Client({ connectionString: cluster.url('school') });
    await theirs.connect();
    await theirs.query(`create table enquiry (id bigint primary key, "First name" text, email text, phone text, asked_at timestamptz not null, secret text);
      create view enquiries as select id, "First name", email, phone, asked_at from enquiry;
      create role reader login password 'read only';
      grant select on enquiries to reader;
      insert into enquiry values (1, 'Old', 'old.row@example.com', '07700 900190', now() - interval '1 day', 'x')`);
    address = `postgres://127.0.0.1:${new URL(cluster.url('school')).port}/school`;
  });
  after(async () => {
    await theirs?.end();
    await cluster?.stop();
    rmSync(folder, { recursive: true, force: true });
  });

  it('is read and never written to: what this user may see, in the order of its marks, behind a place', async () => {
    expect(await open.views(account())).to.deep.equal({ ok: true, value: ['public.enquiries'] });
    const columns = await open.columns(account(), 'public.enquiries');
    expect(columns.ok && columns.value.map(({ name }) => name)).to.deep.equal([
      'id',
      'First name',
      'email',
      'phone',
      'asked_at',
    ]);
    const of = { view: 'public.enquiries', key: 'id', mark: 'asked_at' };
    const rows = await open.rows(account(), of, null, 10);
    expect(rows.ok && rows.value.map(({ row }) => row.email)).to.deep.equal(['old.row@example.com']);
    expect(await open.rows(account(), of, rows.ok ? rows.value[0]!.place : null, 10)).to.deep.equal({
      ok: true,
      value: [],
    });
    // Names are names, whatever stands in them.
    expect(await open.rows(account(), { ...of, key: 'id"; drop table enquiry; --' }, null, 10)).to.include({
      ok: false,
    });
    expect(await open.rows(account(), { ...of, view: 'public.enquiry' }, null, 10)).to.deep.equal({
      ok: false,
      refused: true,
      problem: 'This user may not read that.',
    });
  });

  it('what is wrong is told: password, name, address, a view that is gone, an address inside, nobody there', async () => {
    expect(await open.views({ ...account(), password: 'no' })).to.deep.equal({
      ok: false,
      refused: true,
      problem: 'The database does not accept this user and password.',
    });
    expect(await open.views({ ...account(), address: address.replace('/school', '/nothing') })).to.include({
      problem: 'There is no database of this name.',
    });
    expect(await open.views({ ...account(), address: 'school' })).to.include({ refused: true });
    expect(await open.rows(account(), { view: 'public.gone', key: 'id', mark: 'id' }, null, 1)).to.include({
      problem: 'What is read is not there any more: look at the view and its columns.',
    });
    expect(await open.views({ ...account(), address: 'postgres://127.0.0.1:1/school' })).to.deep.equal({
      ok: false,
      refused: false,
      problem: 'The database does not answer.',
    });
    const shut = new OutsideDatabases(addressGuard(false));
    for (const one of [address, address.replace('127.0.0.1', 'localhost'), address.replace('127.0.0.1', '[::1]')])
      expect(await shut.views({ ...account(), address: one }), one).to.include({ refused: true });
  });

  it('brings new rows in once each, also one that was written before a later one and shows after it', async () => {
    const made = await oona.call<{ id: string; found: string; detail: string }>('POST', '/api/connections', {
      kind: 'database',
      name: 'School database',
      address,
      user: 'reader',
      secret: 'read only',
    });
    expect(made.body.found, made.body.detail).to.equal('It lets us in: one view or table to read.');
    const refused = await oona.call<{ detail: string }>('POST', '/api/connections', {
      kind: 'database',
      name: 'x',
      address: address.replace('//', '//reader:read@'),
      user: 'reader',
    });
    expect(refused.body.detail).to.include('without user and password');
    const source = await oona.call<{ id: string; detail: string }>('POST', '/api/sources', {
      kind: 'database',
      connectionId: made.body.id,
      view: 'public.enquiries',
      key: 'id',
      mark: 'asked_at',
      everyMinutes: 1,
      from: 'new',
    });
    expect(source.status, source.body.detail).to.equal(200);
    await oona.call('PUT', `/api/sources/${source.body.id}/card`, {
      fields: { first_name: 'First name', email: 'email', phone: 'phone' },
      consent: { kind: 'not_asked' },
    });
    const look = () => stage.db.query('update pull set next_at = now() where source_id = $1', [source.body.id]);
    const came = (n: number) =>
      until(`${n} rows`, async () => {
        await look();
        const { rows } = await stage.db.query<{ email: string }>(
          'select l.email from arrival a join lead l on l.id = a.lead_id where a.source_id = $1 order by l.email',
          [source.body.id],
        );
        return rows.length === n ? rows.map(({ email }) => email) : null;
      });
    await theirs.query(`insert into enquiry values (3, 'Ria', 'ria.row@example.com', '07700 900192', now(), '')`);
    expect(await came(1)).to.deep.equal(['ria.row@example.com']);
    // Its mark is older than the last that was read.
    await theirs.query(
      `insert into enquiry values (2, 'Per', 'per.row@example.com', '07700 900191', now() - interval '20 seconds', '')`,
    );
    expect(await came(2)).to.deep.equal(['per.row@example.com', 'ria.row@example.com']);
    await look();
    await until(
      'another look',
      async () =>
        (
          await stage.db.query<{ ok: boolean }>(
            `select last_ok_at > now() - interval '2 seconds' as ok from pull where source_id = $1`,
            [source.body.id],
          )
        ).rows[0]?.ok,
    );
    expect((await stage.db.query('select from arrival where source_id = $1', [source.body.id])).rowCount).to.equal(2);
  });

  it('a row is found by what is given: the very same, else in other letters, the newest of several; what fits no column is nobody', async () => {
    await theirs.query(`create view customers as select * from (values
        ('Ada@Example.com', 41, date '2024-05-01', true, 'Violin'), ('ada.two@example.com', 42, date '2025-01-01', false, 'Flute'),
        ('ada.two@example.com', 43, date '2026-01-01', null, 'O''Neill; drop table enquiry')) c(email, number, since, pays, "What they play");
      grant select on customers to reader`);
    const ask = { view: 'public.customers', by: 'email', gives: ['number', 'since', 'pays', 'What they play'] };
    const find = async (value: string, more = {}) => {
      const answer = await open.find(account(), { ...ask, newestBy: '', ...more }, value);
      return answer.ok ? answer.value : answer.problem;
    };
    const ada = { number: '41', since: '2024-05-01', pays: 'true', 'What they play': 'Violin' };
    expect(await find('ada@example.com')).to.deep.equal(ada);
    expect(await find('Ada@Example.com')).to.deep.equal(ada);
    expect(await find('ada.two@example.com', { newestBy: 'since' })).to.deep.equal({
      ...{
        number: '43',
        since: '2026-01-01',
        pays: '',
        'What they play': 'O’Neill; drop table enquiry'.replace('’', "'"),
      },
    });
    expect(await find('41', { by: 'number' })).to.deep.equal(ada);
    for (const value of ['nobody@example.com', '', "' or 1=1 --", '%', '\u{1F3BA}'])
      expect(await find(value), value).to.equal(null);
    for (const value of ['forty-one', '99999999999999999999', ''])
      expect(await find(value, { by: 'number' }), value).to.equal(null);
    expect(await find('41', { by: 'gone' })).to.include('is not there any more');
    expect(await find('x', { view: 'public.enquiry', by: 'email', gives: ['secret'] })).to.equal(
      'This user may not read that.',
    );
  });

  it('a step in First asks it, and what it says goes into the answer; nobody there leaves blanks', async () => {
    const { rows } = await stage.db.query<{ id: string }>(`select id from connection where name = 'School database'`);
    const id = rows[0]!.id;
    const lookUp = { key: 'customer', label: 'Customer', view: 'public.customers', by: 'email', newestBy: 'since' };
    const put = (gives: string[], seen?: string) =>
      fetch(`${stage.url}/api/connections/${id}/look-ups`, {
        method: 'PUT',
        headers: {
          ...{ origin: stage.url, cookie: oona.cookie, 'content-type': 'application/json' },
          ...(seen === undefined ? {} : { 'if-match': `"${seen}"` }),
        },
        body: JSON.stringify({ lookUps: [{ ...lookUp, gives }] }),
      });
    const wrong = await put(['price']);
    expect([wrong.status, ((await wrong.json()) as { detail: string }).detail]).to.deep.equal([
      422,
      'Customer: What is read is not there any more: look at the view and its columns.',
    ]);
    const kept = await put(['number', 'What they play']);
    expect(kept.status).to.equal(200);
    // A colleague who saw it before is told, and what was kept since stays.
    expect((await put(['number'], 'other')).status).to.equal(409);
    const look = freshStep('service-look-up', 'q', {
      ...{ name: 'School', key: 'school', connection: id, lookUp: 'customer', values: { value: '{{ lead.email }}' } },
      whenNone: 'blanks',
    });
    const text = freshStep('text', 't', {
      message:
        'You play {{ found["school.what_they_play"] | default: "nothing" }} as number {{ found["school.number"] | default: "none" }}.',
    });
    const flow = await liveFlow(stage, oona, [{ ...momentOf('m', toTheLead(text)), first: [look] }]);
    await flow.send({ name: 'Ada', email: 'ada@example.com', phone: '07700 900193' });
    await flow.over('ada@example.com');
    await flow.send({ name: 'Zed', email: 'zed.nobody@example.com', phone: '07700 900194' });
    await flow.over('zed.nobody@example.com');
    const said = await stage.db.query<{ text: string }>(
      `select message ->> 'text' as text from delivery where recipient in ('+447700900193', '+447700900194') order by created_at`,
    );
    expect(said.rows.map((row) => row.text)).to.deep.equal([
      'You play Violin as number 41.',
      'You play nothing as number none.',
    ]);
  });
});
