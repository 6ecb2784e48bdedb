import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'chai';
import { choosePort } from '../../scripts/setup/ports.mjs';
import { startPostgres } from '../../scripts/setup/postgres.mjs';
import { until } from '../stage/stage.ts';

describe('npm start on a data folder of its own', function () {
  this.timeout(120_000);
  const folder = mkdtempSync(join(tmpdir(), 'pine-bell-start-'));
  let port = 0;
  let running: ChildProcess | null = null;
  after(async () => {
    running?.kill('SIGKILL');
    (await startPostgres(folder)).stop('immediate');
    rmSync(folder, { recursive: true, force: true });
  });

  const start = async (): Promise<{ child: ChildProcess; said: () => string }> => {
    port ||= await choosePort();
    let said = '';
    const child = spawn(process.execPath, ['scripts/start.mjs'], {
      env: { ...process.env, PINEBELL_DATA: folder, PINEBELL_PORT: String(port), DATABASE_URL: '' },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (chunk: Buffer) => {
        said += chunk;
      });
    running = child;
    await until(
      'the address line',
      () => {
        if (child.exitCode !== null) throw new Error(`start ended with ${child.exitCode}: ${said}`);
        return said.includes(`Pine Bell is at http://127.0.0.1:${port}`);
      },
      60_000,
    );
    return { child, said: () => said };
  };
  const ended = (child: ChildProcess) =>
    new Promise<number | null>((resolve) => {
      if (child.exitCode !== null) resolve(child.exitCode);
      else child.once('exit', (code) => resolve(code));
    });
  const url = () => `http://127.0.0.1:${port}`;
  const post = (path: string, form: Record<string, string>) =>
    fetch(url() + path, {
      method: 'POST',
      headers: { origin: url() },
      body: new URLSearchParams(form),
      redirect: 'manual',
    });
  const owner = {
    name: 'Ormsby Pianos',
    country: 'GB',
    timeZone: 'Europe/London',
    person: 'Ida Ormsby',
    email: 'ida@ormsby.example',
    password: 'a-long-password',
  };

  it('the first visit creates the owner, the second cannot', async () => {
    const { said } = await start();
    const code = /with the code ([A-Z2-9-]{14})/.exec(said())![1]!;
    expect((await fetch(url(), { redirect: 'manual' })).headers.get('location')).to.equal('/set-up');
    for (const wrong of [{}, { code: '' }, { code: 'AAAA-AAAA-AAAA' }])
      expect((await post('/set-up', { ...owner, ...wrong })).status, 'who has not read the console').to.be.oneOf([
        403, 422,
      ]);
    expect((await post('/set-up', { ...owner, code, password: 'short' })).status).to.equal(422);
    expect((await post('/set-up', { ...owner, code: code.toLowerCase().replaceAll('-', ' ') })).status).to.equal(303);
    expect((await post('/set-up', { ...owner, code, email: 'eve@ormsby.example' })).headers.get('location')).to.equal(
      '/',
    );
    expect((await post('/sign-in', { email: owner.email, password: owner.password })).headers.get('location')).to.equal(
      '/',
    );
  });

  it('keeps its secrets to its owner, and shows no practice desk', async () => {
    for (const name of ['secret.key', 'postgres.json', 'start.json'])
      expect(statSync(join(folder, name)).mode & 0o077, name).to.equal(0);
    expect(existsSync(join(folder, 'practice.json'))).to.equal(false);
  });

  it('a second start on the same folder is refused with a reason', async () => {
    const second = spawn(process.execPath, ['scripts/start.mjs'], {
      env: { ...process.env, PINEBELL_DATA: folder, DATABASE_URL: '' },
      stdio: ['ignore', 'ignore', 'pipe'],
    });
    let said = '';
    second.stderr.on('data', (chunk: Buffer) => {
      said += chunk;
    });
    expect(await ended(second)).to.equal(1);
    expect(said).to.contain('already runs with this data folder');
    expect((await fetch(`${url()}/healthz`)).status).to.equal(200);
  });

  it('killed outright, it leaves nothing that stops the next start, and its data is kept', async () => {
    running!.kill('SIGKILL');
    await until(
      'the web process to go with it',
      async () =>
        fetch(`${url()}/healthz`).then(
          () => false,
          () => true,
        ),
      20_000,
    );
    await start();
    expect((await post('/sign-in', { email: owner.email, password: owner.password })).headers.get('location')).to.equal(
      '/',
    );
  });

  const children = () =>
    readFileSync(`/proc/${running!.pid}/task/${running!.pid}/children`, 'utf8').trim().split(' ').filter(Boolean);
  const child = (name: string) =>
    children().find((pid) => readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(`${name}.mjs`));
  const another = (name: string, than: string) =>
    until(`another ${name}`, () => child(name) !== undefined && child(name) !== than, 40_000);

  it('a worker that dies is started again', async () => {
    const worker = child('worker')!;
    process.kill(Number(worker), 'SIGKILL');
    await another('worker', worker);
  });

  it('a process that is there and answers nothing is ended and begun again', async () => {
    const web = child('web')!;
    process.kill(Number(web), 'SIGSTOP');
    await another('web', web);
    await until(
      'it to answer',
      async () => (await fetch(`${url()}/healthz`).catch(() => null))?.status === 200,
      30_000,
    );
  });

  it('PostgreSQL killed outright comes back by itself; meanwhile it is said as it is; afterwards all stands there', async () => {
    const pid = Number(readFileSync(join(folder, 'postgres/postmaster.pid'), 'utf8').split('\n')[0]);
    const seen = { health: new Set<number>(), page: new Set<number>(), words: '' };
    process.kill(pid, 'SIGKILL');
    await until(
      'the database to be back',
      async () => {
        const [health, page] = await Promise.all([fetch(`${url()}/healthz`), fetch(`${url()}/sign-in`)]);
        seen.health.add(health.status);
        seen.page.add(page.status);
        if (page.status === 503) seen.words = await page.text();
        return seen.health.has(503) && health.status === 200 && page.status === 200;
      },
      40_000,
    );
    expect([...seen.page].sort(), 'never a bare failure').to.deep.equal(seen.page.has(503) ? [200, 503] : [200]);
    expect([...seen.health].sort()).to.deep.equal([200, 503]);
    if (seen.words) expect(seen.words).to.contain('cannot reach its records').and.contain('tries again by itself');
    const signed = await post('/sign-in', { email: owner.email, password: owner.password });
    expect(signed.headers.get('location')).to.equal('/');
    const settings = await fetch(`${url()}/settings/record`, {
      headers: { cookie: signed.headers.get('set-cookie')! },
    });
    const told = await settings.text();
    expect(told).to.match(/The database<\/span> is back/);
    expect(told).to.match(/What answers people and services<\/span> did not answer for 10 seconds/);
  });

  it('Ctrl+C stops all of it, PostgreSQL too', async () => {
    const child = running!;
    child.kill('SIGINT');
    expect(await ended(child)).to.equal(0);
    expect(existsSync(join(folder, 'postgres/postmaster.pid'))).to.equal(false);
    expect(existsSync(join(folder, 'start.pid'))).to.equal(false);
    expect(
      await fetch(`${url()}/healthz`).then(
        () => 'up',
        () => 'down',
      ),
    ).to.equal('down');
  });
});
