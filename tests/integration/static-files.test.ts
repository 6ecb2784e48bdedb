import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gunzipSync, gzipSync } from 'node:zlib';
import { expect } from 'chai';
import { request } from 'undici';
import { serveFile } from '../../src/static-files.ts';

describe('the files of the pages', () => {
  const folder = mkdtempSync(join(tmpdir(), 'pine-bell-files-'));
  let server: Server;
  let url: string;
  before(async () => {
    mkdirSync(join(folder, '_astro'));
    writeFileSync(join(folder, '_astro/app.abc.js'), 'let a = 1;');
    writeFileSync(join(folder, '_astro/app.abc.js.gz'), gzipSync('let a = 1;'));
    writeFileSync(join(folder, 'bell.svg'), '<svg/>');
    writeFileSync(join(folder, 'index.html'), '<p>');
    writeFileSync(join(folder, '.secret'), 'x');
    const files = serveFile(folder);
    server = createServer((asked, answer) => {
      if (!files(asked, answer)) answer.writeHead(404).end('somebody else');
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  after(() => {
    server.close();
    rmSync(folder, { recursive: true });
  });
  // undici's own call neither unpacks nor asks for anything by itself.
  const ask = async (path: string, headers: Record<string, string> = {}, method: 'GET' | 'HEAD' | 'POST' = 'GET') => {
    const answer = await request(url + path, { method, headers });
    return { status: answer.statusCode, headers: answer.headers, body: Buffer.from(await answer.body.arrayBuffer()) };
  };

  it('come packed where a browser takes that, else as they are; what has a hash in its name is kept for good', async () => {
    const packed = await ask('/_astro/app.abc.js', { 'accept-encoding': 'gzip, br' });
    expect(packed.headers).to.include({
      ...{ 'content-encoding': 'gzip', 'content-type': 'text/javascript', 'x-content-type-options': 'nosniff' },
      'cache-control': 'public, max-age=31536000, immutable',
    });
    expect(gunzipSync(packed.body).toString()).to.equal('let a = 1;');
    const plain = await ask('/_astro/app.abc.js?v=1');
    expect(plain.headers['content-encoding']).to.equal(undefined);
    expect(plain.body.toString()).to.equal('let a = 1;');
    expect(plain.headers.vary).to.equal('Accept-Encoding');
  });

  it('are asked after by their mark, and not sent again while they are the same', async () => {
    const first = await ask('/bell.svg');
    expect(first.headers).to.include({ 'cache-control': 'no-cache', 'content-type': 'image/svg+xml' });
    const again = await ask('/bell.svg', { 'if-none-match': String(first.headers.etag) });
    expect([again.status, again.body.length]).to.deep.equal([304, 0]);
    expect((await ask('/bell.svg', { 'if-none-match': '"x"' })).status).to.equal(200);
    const head = await ask('/bell.svg', {}, 'HEAD');
    expect([head.status, head.headers['content-length'], head.body.length]).to.deep.equal([200, '6', 0]);
  });

  it('come whole, however a part of them is asked for', async () => {
    for (const range of ['bytes=0-1', 'bytes=5-2', 'bytes=-5', 'bytes=99999999-', 'bytes=0-1,4-5', 'x'.repeat(5000)]) {
      const whole = await ask('/bell.svg', { range });
      expect([whole.status, whole.body.toString()], range.slice(0, 20)).to.deep.equal([200, '<svg/>']);
    }
  });

  it('are only those of the folder, by their whole names, and only looked at', async () => {
    for (const path of [
      '/',
      '/bell',
      '/nothing.js',
      '/.secret',
      '/../package.json',
      '/%2e%2e/package.json',
      '/_astro',
      '/%',
    ])
      expect((await ask(path)).status, path).to.equal(404);
    expect((await ask('/bell.svg', {}, 'POST')).status).to.equal(404);
  });
});
