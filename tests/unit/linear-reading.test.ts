import { execFile } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { expect } from 'chai';
import type { Growth } from '../stage/growth.ts';
import { READERS } from '../stage/readers.ts';

/** Beside a build and another lane a measure is off by so much; a square, over four times the text, by more than three times. */
const BESIDE_OTHERS = 2;

/**
 * Not how fast, but how it grows: what costs the square of its length takes four times as long for twice the text, and minutes where a moment would do.
 * That twice the text costs at most 2.2 times as much is measured where nobody else is at work: `npm run growth`.
 */
describe('reading what strangers send costs in step with its length, to 1 MiB and beyond', function () {
  this.timeout(400_000);
  const growths = new Map<string, Growth>();
  before(async () => {
    const script = fileURLToPath(new URL('../stage/growth.ts', import.meta.url));
    const { stdout } = await promisify(execFile)(
      process.execPath,
      ['--max-semi-space-size=256', '--import', 'tsx', script],
      {
        maxBuffer: 16 * 1024 * 1024,
      },
    );
    for (const line of stdout.trim().split('\n')) {
      const growth = JSON.parse(line) as Growth;
      growths.set(growth.reader, growth);
    }
  });
  for (const reader of Object.keys(READERS))
    it(reader, () => {
      const { steepest } = growths.get(reader)!;
      if (!steepest) return;
      const { piece, small, large, ratio, most } = steepest;
      expect(ratio, `${piece}: ${small.toFixed(1)} ms, then ${large.toFixed(1)} ms`).to.be.at.most(
        BESIDE_OTHERS * most,
      );
    });
});
