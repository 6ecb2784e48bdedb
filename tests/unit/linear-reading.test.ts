import { expect } from 'chai';
import { PIECES } from '../stage/attack-texts.ts';
import { READERS } from '../stage/readers.ts';

const SIZE = 64 * 1024;

/** Milliseconds, the better of some. */
async function cost(read: (text: string) => unknown, text: string, times: number): Promise<number> {
  let best = Number.POSITIVE_INFINITY;
  for (let i = 0; i < times; i++) {
    const start = performance.now();
    try {
      await read(text);
    } catch {
      /* What a reader refuses costs it all the same. */
    }
    best = Math.min(best, performance.now() - start);
  }
  return best;
}

/**
 * Not how fast, but how it grows: what costs the square of its length takes sixteen times as long for four times the text, and seconds where a
 * hundredth would do. Looked at more closely only where there is something to look at.
 */
describe('reading what strangers send costs in step with its length', function () {
  this.timeout(60_000);
  for (const [what, read] of Object.entries(READERS))
    it(what, async () => {
      for (const [name, text] of PIECES) {
        const once = await cost(read, text(SIZE), 1);
        if (once < 150) continue;
        const [small, large] = [await cost(read, text(SIZE / 4), 3), await cost(read, text(SIZE), 2)];
        if (large > 150) expect(large / Math.max(small, 2), `${name}: ${small} ms, then ${large} ms`).to.be.below(9);
      }
    });
});
