/**
 * How the cost of every reader grows with the length of what it reads, printed as one line of JSON for each. `--counted`: work counted block by block
 * (`counted-work.ts`), the same beside any neighbour. `--timed`: the processor's time, coarser, which also sees what happens within one call into the
 * engine (a pattern, `indexOf`). Each in a process of its own: counting has to begin before what is counted is loaded, and slows it down.
 */
import { WorkCounter } from './counted-work.ts';

/** Twice the text against once, or four times: `small` and `large` in blocks gone through, or in milliseconds of the processor. */
export interface Steepest {
  piece: string;
  small: number;
  large: number;
}
export interface Growth {
  reader: string;
  /** The piece with the steepest growth; null when none costs anything. */
  steepest: Steepest | null;
}
type Text = (size: number) => string;

const MIB = 1024 * 1024;
/** A measure of time is taken again until it is within this, so often at most; of each size the best counts: others use the machine too. */
const [CALM, TIMES] = [2.2 * 2.2, 5];

const mode = process.argv.at(-1);
if (mode !== '--counted' && mode !== '--timed') throw new Error('Say --counted or --timed.');
const counter = new WorkCounter();
if (mode === '--counted') await counter.start();
const { PIECES } = await import('./attack-texts.ts');
const { READERS } = await import('./readers.ts');

async function quietly(reader: string, text: string): Promise<void> {
  try {
    await READERS[reader]!(text);
  } catch {
    /* What a reader refuses costs it all the same. */
  }
}

/** `text` is made before: what is gone through since the last count is the reading alone. */
async function blocks(reader: string, text: string): Promise<number> {
  await quietly(reader, text);
  return counter.count();
}

async function milliseconds(reader: string, text: string): Promise<number> {
  const before = process.cpuUsage();
  await quietly(reader, text);
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1000;
}

const ratio = ({ small, large }: Steepest) => large / small;
const steeper = (known: Steepest | null, found: Steepest) => (!known || ratio(found) > ratio(known) ? found : known);

/** The pieces that cost a reader anything at 16 KiB, the dearest first: what takes less than `least` milliseconds would take at most some seconds for 1 MiB, even by its square. */
async function dear(reader: string, least: number) {
  const all: { piece: string; text: Text; cost: number }[] = [];
  for (const [piece, text] of PIECES) all.push({ piece, text, cost: await milliseconds(reader, text(MIB / 64)) });
  return all.filter(({ cost }) => cost >= least).sort((a, b) => b.cost - a.cost);
}

/**
 * The eight dearest from 32 KiB to twice of it, the dearest from 128 KiB too: what costs the square of its length is among them at 16 KiB already. Fewer than
 * 2,500 blocks for the smaller are what is done once.
 */
async function counted(reader: string): Promise<Steepest | null> {
  const all = (await dear(reader, 0.2)).slice(0, 8);
  const pairs = [
    ...all.map((one) => ({ ...one, size: MIB / 32 })),
    ...all.slice(0, 1).map((one) => ({ ...one, size: MIB / 8 })),
  ];
  const texts = pairs.map(({ piece, text, size }) => ({ piece, short: text(size), long: text(2 * size) }));
  await counter.count();
  let steepest: Steepest | null = null;
  for (const { piece, short, long } of texts) {
    const found = { piece, small: await blocks(reader, short), large: await blocks(reader, long) };
    if (found.small >= 2_500) steepest = steeper(steepest, found);
  }
  return steepest;
}

/** The dearest, from a quarter of a MiB to four times of it. */
async function timed(reader: string): Promise<Steepest | null> {
  let steepest: Steepest | null = null;
  for (const { piece, text } of (await dear(reader, 0.5)).slice(0, 1)) {
    const [short, long] = [text(MIB / 4), text(MIB)];
    const found = { piece, small: Number.POSITIVE_INFINITY, large: Number.POSITIVE_INFINITY };
    for (let time = 0; time < TIMES && !(ratio(found) <= CALM); time++) {
      found.small = Math.min(found.small, await milliseconds(reader, short));
      found.large = Math.min(found.large, await milliseconds(reader, long));
    }
    steepest = steeper(steepest, found);
  }
  return steepest;
}

for (const reader of Object.keys(READERS)) {
  const steepest = await (mode === '--counted' ? counted : timed)(reader);
  console.log(JSON.stringify({ reader, steepest } satisfies Growth));
}
// What a reader began (a thread, a clock) is not waited for.
process.exit(0);
