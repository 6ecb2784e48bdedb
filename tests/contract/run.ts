/**
 * Holds a connection description against a live service or a recording:
 *   npm run contract -- FILE [--kind text_carrier] [--value key=…] [--given to=…] [--write] [--record OUT | --recording FILE] [--inside]
 * Without --write nothing is sent or made there. Ends with 1 when something is not as the description says.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { readDescription } from '../../src/core/described/check.ts';
import type { Recorded } from '../../src/core/described/recorded.ts';
import { hiding } from '../../src/core/described/request.ts';
import { DESCRIBED_KINDS, type DescribedKind } from '../../src/core/described/works.ts';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { DescribedCaller } from '../../src/gateways/described/described-caller.ts';
import { HttpCaller } from '../../src/gateways/http.ts';
import { holdDescription } from './description.ts';
import { played, recording } from './recording.ts';

const { values: o, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    kind: { type: 'string', default: 'service' },
    value: { type: 'string', multiple: true, default: [] },
    given: { type: 'string', multiple: true, default: [] },
    write: { type: 'boolean', default: false },
    inside: { type: 'boolean', default: false },
    record: { type: 'string' },
    recording: { type: 'string' },
  },
});
const say = (line: string) => process.stdout.write(`${line}\n`);
const pairs = (all: readonly string[]) =>
  Object.fromEntries(
    all.map((one): [string, string] => [one.slice(0, one.indexOf('=')), one.slice(one.indexOf('=') + 1)]),
  );

const file = positionals[0];
const kind = DESCRIBED_KINDS.find((one) => one === o.kind) as DescribedKind | undefined;
if (!file || !kind) {
  say(`Say which file, and of which kind it is: ${DESCRIBED_KINDS.join(', ')}.`);
  process.exit(2);
}
const read = readDescription(JSON.parse(readFileSync(file, 'utf8')), kind);
if (!read.ok) {
  for (const problem of read.problems) say(`✖ ${problem}`);
  process.exit(1);
}
const { description } = read;
const filled = pairs(o.value);
const hide = hiding([
  ...description.asks.filter(({ secret }) => secret).flatMap(({ key }) => filled[key] ?? []),
  'not-the-key',
]);
const http = new HttpCaller(addressGuard(o.inside));
const kept = recording(http, hide);
const calling = o.recording
  ? played(
      readFileSync(o.recording, 'utf8')
        .split('\n')
        .filter(Boolean)
        .map((line) => JSON.parse(line) as Recorded),
      hide,
    )
  : kept;
const held = await holdDescription({
  ...{ description, kind, values: filled, given: pairs(o.given), writes: o.write },
  caller: new DescribedCaller({ http: calling, now: () => Date.now() }),
});
for (const { what, came, detail } of held)
  say(`${came === 'good' ? '✔' : came === 'bad' ? '✖' : '–'} ${what}${came === 'good' ? '' : `: ${detail}`}`);
if (o.record) writeFileSync(o.record, kept.kept.map((one) => JSON.stringify(one)).join('\n'));
await http.close();
const bad = held.filter(({ came }) => came === 'bad').length;
say(
  `${held.filter(({ came }) => came === 'good').length} as it says, ${bad} not, ${held.filter(({ came }) => came === 'skipped').length} not asked`,
);
process.exit(bad > 0 ? 1 : 0);
