/**
 * A part of npm run bench: how the processor's time of each reader grows with four times the text (tests/stage/growth.ts; the tests count its work). A square would take
 * sixteen times as long.
 */
import { execFile } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import type { Growth } from '../tests/stage/growth.ts';

/** Twice what four times the text may cost: steeper is no straight line. */
const STEEP = 2 * 2.2 ** 2;

const { stdout } = await promisify(execFile)(
  process.execPath,
  [
    '--max-semi-space-size=256',
    '--import',
    'tsx',
    fileURLToPath(new URL('../tests/stage/growth.ts', import.meta.url)),
    '--timed',
  ],
  { maxBuffer: 16 * 1024 * 1024 },
);
console.log('\n## How reading grows with four times the text\n');
console.log('| reader | steepest piece | ms, then | times | |\n| --- | --- | ---: | ---: | --- |');
for (const line of stdout.trim().split('\n')) {
  const { reader, steepest } = JSON.parse(line) as Growth;
  if (!steepest) continue;
  const { piece, small, large } = steepest;
  const times = large / small;
  console.log(
    `| ${reader} | ${piece} | ${small.toFixed(0)}, ${large.toFixed(0)} | ${times.toFixed(1)} | ${times > STEEP ? 'STEEP' : ''} |`,
  );
}
