/** A business with one webhook source, one live workflow (tidy, then a text) and a carrier at GATEWAY_URL. Prints the intake address. */

import { changeTexts } from '../src/app/account/business-settings.ts';
import { addConnection } from '../src/app/account/connections.ts';
import { actorOf } from '../src/app/account/session.ts';
import { setUp } from '../src/app/account/sign-in.ts';
import { changeSource } from '../src/app/sources/change-source.ts';
import { addSource, saveCard } from '../src/app/sources/sources.ts';
import { openUse } from '../src/app/use.ts';
import { putLive } from '../src/app/workflows/live.ts';
import { createWorkflow } from '../src/app/workflows/workflows.ts';
import { Definition } from '../src/core/workflow/definition.ts';
import { prepareDatabase } from '../src/db/prepare.ts';
import { getRuntime } from '../src/runtime.ts';

await prepareDatabase(process.env.DATABASE_URL!);
const runtime = await getRuntime();
const { cookie } = await setUp(runtime, {
  businessName: 'Bench',
  country: 'US',
  timeZone: 'UTC',
  name: 'Bench',
  email: 'bench@example.com',
  password: 'bench-bench',
});
const use = openUse(runtime, (await actorOf(runtime, cookie))!);
await addConnection(use, {
  kind: 'text_carrier',
  name: 'Gateway',
  address: process.env.GATEWAY_URL!,
  sender: 'Bench',
  senders: [],
  fromName: '',
  fromAddress: '',
  user: '',
  bounces: false,
  replies: false,
  values: {},
  access: null,
  smpp: null,
  hostKey: '',
  untried: true,
  secret: 'key',
});
const source = await addSource(use, { kind: 'webhook', name: 'Bench', signed: false });
await use.write((tx) =>
  saveCard(tx, source.id, {
    fields: { first_name: 'firstName', last_name: 'lastName', email: 'email', phone: 'phone' },
    consent: { kind: 'asked_elsewhere', note: 'bench', wording: 'You may write to me about lessons and news.' },
  }),
);
// What is measured is the way through, not the limit of a source.
await use.write((tx) => changeSource(tx, source.id, { mostPerMinute: 60_000 }));
await use.write((tx) => changeTexts(tx, { countries: ['US', 'CA', 'GB', 'AU'], partsPerDay: 1_000_000, partCost: 0 }));
const TEXT = {
  id: 'text',
  kind: 'text',
  on: true,
  note: '',
  settings: {
    message: 'Hi {{ lead.first_name }}, thanks for asking! We will call you back within the hour.',
    needsConsent: true,
  },
};
const TIDY = { id: 'tidy', kind: 'tidy', on: true, note: '', settings: { names: true, email: true, phone: true } };
const ON_ARRIVAL = [
  { id: 'arrival', at: { kind: 'on_arrival' }, first: [TIDY], lanes: { lead: [TEXT], record: [], team: [] } },
];
/** Noted when they ring in; texted once they write back. */
const NOTE = { id: 'note', kind: 'note', on: true, note: '', settings: { text: 'Rang in' } };
const REPLY = { words: '', sources: [], tag: '', list: '', stage: '', step: '', within: { amount: 2, unit: 'hours' } };
const ON_REPLY = [
  { id: 'arrival', at: { kind: 'on_arrival' }, first: [TIDY], lanes: { lead: [], record: [NOTE], team: [] } },
  {
    id: 'reply',
    at: { kind: 'event', event: 'reply', ...REPLY },
    first: [],
    lanes: { lead: [TEXT], record: [], team: [] },
  },
];
const workflow = await use.write((tx) =>
  createWorkflow(tx, {
    name: 'Bench',
    folder: '',
    draft: Definition.parse({
      sources: [source.id],
      rules: { samePerson: 'update_only' },
      moments: process.env.BENCH_SHEET === 'reply' ? ON_REPLY : ON_ARRIVAL,
    }),
  }),
);
await use.write((tx) => putLive(tx, workflow.id));
const { rows } = await runtime.pool.query(
  `select report_key, report_secret from connection where kind = 'text_carrier'`,
);
const told = { reportKey: rows[0].report_key, reportSecret: runtime.secrets.open(rows[0].report_secret) };
await runtime.close();
console.log(`ready ${JSON.stringify({ address: source.address, ...told })}`);
