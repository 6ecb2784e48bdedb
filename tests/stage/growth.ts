/**
 * How the cost of every reader grows with the length of what it reads, printed as one line of JSON for each. Run by itself, with young memory that
 * holds all of it (`--max-semi-space-size`): what is measured is the reader, not the collector going through ever more at ever more points.
 */
import { PIECES } from './attack-texts.ts';
import { READERS, type Reader } from './readers.ts';

/** Characters: what is dear is looked at from small to large, the dearest of each reader further. */
const [SMALL, LARGE, BEYOND] = [256 * 1024, 1024 * 1024, 2048 * 1024];
/** What takes less, milliseconds, for the small text would take at most 0.4 seconds for the large one even by its square. */
const WORTH_A_LOOK = 25;
/** Twice the text may cost so many times as much. */
export const MOST_FOR_TWICE = 2.2;
const strict = process.argv.includes('--strict');
const TIMES = strict ? 12 : 5;
/** Of each reader so many pieces, the dearest, are looked at further; by itself all that cost anything. */
const DEAREST = strict ? PIECES.length : 4;

export interface Growth {
  reader: string;
  /** The piece with the steepest growth, and its milliseconds at the sizes; null when none costs anything. */
  steepest: { piece: string; small: number; large: number; ratio: number; most: number } | null;
}

async function cost(read: Reader, text: string): Promise<number> {
  const start = performance.now();
  try {
    await read(text);
  } catch {
    /* What a reader refuses costs it all the same. */
  }
  return performance.now() - start;
}

/** Measured until it is within bounds, some times at most; of each size the best: others use the machine too. */
async function growth(
  read: Reader,
  text: (size: number) => string,
  sizes: [small: number, large: number],
  first: number,
) {
  const most = MOST_FOR_TWICE ** Math.log2(sizes[1] / sizes[0]);
  const [short, long] = [text(sizes[0]), text(sizes[1])];
  let [small, large] = [first, await cost(read, long)];
  for (let time = 1; time < TIMES && large / small > most; time++) {
    small = Math.min(small, await cost(read, short));
    large = Math.min(large, await cost(read, long));
  }
  return { small, large, ratio: large / small, most };
}

let over = 0;
for (const [reader, read] of Object.entries(READERS)) {
  let steepest: Growth['steepest'] = null;
  const steeper = (piece: string, found: Omit<NonNullable<Growth['steepest']>, 'piece'>) => {
    if (!steepest || found.ratio / found.most > steepest.ratio / steepest.most) steepest = { piece, ...found };
  };
  const costs: { piece: string; text: (size: number) => string; small: number }[] = [];
  for (const [piece, text] of PIECES) costs.push({ piece, text, small: await cost(read, text(SMALL)) });
  const dear = costs.filter((one) => one.small >= WORTH_A_LOOK).sort((a, b) => b.small - a.small);
  for (const [i, { piece, text, small }] of dear.slice(0, DEAREST).entries())
    steeper(piece, await growth(read, text, [SMALL, i === 0 ? BEYOND : LARGE], small));
  const { ratio, most } = steepest ?? { ratio: 0, most: 1 };
  if (ratio > most) over += 1;
  console.log(JSON.stringify({ reader, steepest } satisfies Growth));
}
// By itself (`npm run growth`) it says what is not within bounds; in the tests it only tells, since there others use the machine too.
process.exit(over > 0 && strict ? 1 : 0);
