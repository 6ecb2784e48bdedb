import { execFile } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { expect } from 'chai';

const exec = promisify(execFile);

describe('the key that seals secrets', () => {
  const folder = mkdtempSync(join(tmpdir(), 'pine-bell-key-'));
  after(() => rmSync(folder, { recursive: true, force: true }));

  it('is one for all processes of a first start, however many make it at once', async () => {
    const file = join(folder, 'data', 'secret.key');
    const box = join(import.meta.dirname, '../../src/db/secret-box.ts');
    // All wait for the same moment, so that they find no file together.
    const at = Date.now() + 3000;
    const code = `const { openSecretBox } = await import(${JSON.stringify(box)});
      while (Date.now() < ${at});
      process.stdout.write(openSecretBox(undefined, ${JSON.stringify(file)}).derive('test').toString('hex'));`;
    const keys = await Promise.all(
      Array.from(
        { length: 4 },
        async () => (await exec(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', code])).stdout,
      ),
    );
    expect(new Set(keys).size).to.equal(1);
    expect(keys[0]).to.match(/^[0-9a-f]{64}$/);
    expect(readdirSync(join(folder, 'data'))).to.deep.equal(['secret.key']);
    expect(statSync(file).mode & 0o777).to.equal(0o600);
  }).timeout(30_000);
});
