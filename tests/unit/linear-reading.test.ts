import { execFile } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { expect } from 'chai';
import type { Growth } from '../stage/growth.ts';
import { READERS } from '../stage/readers.ts';

async function growths(): Promise<Map<string, Growth>> {
  const script = fileURLToPath(new URL('../stage/growth.ts', import.meta.url));
  // Young memory that holds all of it: what is measured is the reader, not the collector going through ever more at ever more points.
  const { stdout } = await promisify(execFile)(
    process.execPath,
    ['--max-semi-space-size=256', '--import', 'tsx', script, '--counted'],
    { maxBuffer: 16 * 1024 * 1024 },
  );
  const all = stdout
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Growth);
  return new Map(all.map((growth) => [growth.reader, growth]));
}

/** Twice the text, at most this many times the work. */
const MOST = 2.2;

/**
 * Not how fast, but how it grows: what costs the square of its length takes four times as long for twice the text, and minutes where a moment would do. Work
 * within one call into the engine is not counted here; it is timed by bench/growth.ts.
 */
describe('reading what strangers send costs in step with its length, to 1 MiB', function () {
  this.timeout(400_000);
  let found: Map<string, Growth>;
  before(async () => {
    found = await growths();
  });
  for (const reader of Object.keys(READERS))
    it(reader, () => {
      const { steepest } = found.get(reader)!;
      if (!steepest) return;
      const { piece, small, large } = steepest;
      expect(large / small, `${piece}: ${small.toFixed(0)}, then ${large.toFixed(0)}`).to.be.at.most(MOST);
    });
});
