import { spawnSync } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  statfsSync,
  writeFileSync,
} from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import pg from 'pg';
import { startPostgres } from '../../scripts/setup/postgres.mjs';
import { openPool } from '../../src/db/pool.ts';
import { until } from '../stage/stage.ts';

describe('the private PostgreSQL cluster', function () {
  this.timeout(60_000);
  const folder = mkdtempSync(join(tmpdir(), 'pine-bell-cluster-'));
  const ask = async (url: string, sql: string) => {
    const client = new pg.Client({ connectionString: url });
    await client.connect();
    try {
      return (await client.query(sql)).rows;
    } finally {
      await client.end();
    }
  };
  after(async () => {
    (await startPostgres(folder)).stop('immediate');
    rmSync(folder, { recursive: true, force: true });
  });

  it('is made by the first start, listens on loopback only, and wants its password', async () => {
    // What a start that was cut off leaves: a folder with half a cluster in it.
    mkdirSync(join(folder, 'postgres'));
    writeFileSync(join(folder, 'postgres/half'), 'x');
    const cluster = await startPostgres(folder);
    expect(await ask(cluster.url('postgres'), 'show listen_addresses')).to.deep.equal([
      { listen_addresses: '127.0.0.1' },
    ]);
    expect(
      await ask(
        cluster.url('postgres'),
        `select count(*)::int as n from pg_settings where name in ('fsync', 'synchronous_commit') and setting = 'on'`,
      ),
    ).to.deep.equal([{ n: 2 }]);
    const wrong = await ask(cluster.url('postgres').replace(/:[^:@]+@/, ':wrong@'), 'select 1').then(
      () => 'let in',
      (error: Error) => error.message,
    );
    expect(wrong).to.match(/password authentication failed/);
    expect(existsSync(join(folder, 'postgres/half'))).to.equal(false);
  });

  it('a second start finds it running and leaves it alone', async () => {
    const before = (await startPostgres(folder)).pid();
    expect((await startPostgres(folder)).pid()).to.equal(before);
  });

  it('killed outright, it comes back with its data, a stale pid file or not', async () => {
    const cluster = await startPostgres(folder);
    await ask(cluster.url('postgres'), 'create table kept as select 42 as n');
    const pid = cluster.pid()!;
    process.kill(pid, 'SIGKILL');
    while (cluster.pid() !== null) await new Promise((resolve) => setTimeout(resolve, 50));
    // The number in the file now belongs to somebody else: to this very process.
    writeFileSync(join(folder, 'postgres/postmaster.pid'), `${process.pid}\n${join(folder, 'postgres')}\n`);
    const again = await startPostgres(folder);
    expect(await ask(again.url('postgres'), 'select n from kept')).to.deep.equal([{ n: 42 }]);
  });

  it('moves to another port when its own has been taken', async () => {
    const cluster = await startPostgres(folder);
    const { port } = cluster;
    cluster.stop();
    const squatter = createServer();
    await new Promise<void>((resolve) => squatter.listen(port, '127.0.0.1', resolve));
    const moved = await startPostgres(folder);
    await new Promise((resolve) => squatter.close(resolve));
    expect(moved.port).to.not.equal(port);
    expect(JSON.parse(readFileSync(join(folder, 'postgres.json'), 'utf8')).port).to.equal(moved.port);
    expect(await ask(moved.url('postgres'), 'select n from kept')).to.deep.equal([{ n: 42 }]);
  });

  it('stopped by a full disk, it comes back with its data once there is room', async function () {
    // Needs a file system of its own, which only root can make.
    if (process.getuid?.() !== 0 || spawnSync('mount', ['--version']).error) return this.skip();
    this.timeout(90_000);
    const small = mkdtempSync(join(tmpdir(), 'pine-bell-small-'));
    const mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=120m', 'tmpfs', small]);
    if (mounted.status !== 0) return this.skip();
    try {
      chmodSync(small, 0o755);
      let cluster = await startPostgres(small);
      await ask(cluster.url('postgres'), 'create table kept as select 42 as n');
      const filler = join(small, 'filler');
      const { bavail, bsize } = statfsSync(small);
      writeFileSync(filler, Buffer.alloc(bavail * bsize - 1024 * 1024));
      // Until there is no room for its journal: then PostgreSQL stops itself rather than lose anything.
      const said: string[] = [];
      for (let n = 0; n < 40 && cluster.pid() !== null && said.length < 3; n++)
        await ask(
          cluster.url('postgres'),
          `create table t${n} as select repeat(md5(g::text), 30) from generate_series(1, 3000) g`,
        ).catch((error: Error) => said.push(error.message));
      expect(said.join(' ')).to.match(/No space left|terminat|server closed|recovery mode|starting up|ECONN/i);
      rmSync(filler);
      // As the start command does: again and again until it is there.
      cluster = await until('PostgreSQL to be back', () => startPostgres(small).catch(() => null), 60_000);
      const rows = await until(
        'it to answer',
        () => ask(cluster.url('postgres'), 'select n from kept').catch(() => null),
        30_000,
      );
      expect(rows).to.deep.equal([{ n: 42 }]);
      cluster.stop('immediate');
    } finally {
      spawnSync('umount', ['-l', small]);
      rmSync(small, { recursive: true, force: true });
    }
  });

  it('writes before it confirms, whatever it was set to by whoever looks after it', async () => {
    const cluster = await startPostgres(folder);
    const confirmed = `select current_setting('synchronous_commit') as setting`;
    await ask(cluster.url('postgres'), 'create database hasty');
    await ask(cluster.url('postgres'), 'alter database hasty set synchronous_commit = off');
    expect(await ask(cluster.url('hasty'), confirmed)).to.deep.equal([{ setting: 'off' }]);
    const pool = openPool(cluster.url('hasty'), 1);
    try {
      expect((await pool.query(confirmed)).rows).to.deep.equal([{ setting: 'on' }]);
      await pool.query('create table accepted (n int)');
      await pool.query('insert into accepted select generate_series(1, 100)');
    } finally {
      cluster.stop('immediate');
      await pool.end();
    }
    const again = await startPostgres(folder);
    expect(await ask(again.url('hasty'), 'select count(*)::int as n from accepted')).to.deep.equal([{ n: 100 }]);
  });
});
