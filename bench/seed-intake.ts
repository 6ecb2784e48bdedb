/** A business with 50 ad forms fetched from PLATFORM_URL, and an import of the file IMPORT_FILE waiting. Prints their ids. */
import { readFileSync } from 'node:fs';
import { addConnection } from '../src/app/account/connections.ts';
import { actorOf } from '../src/app/account/session.ts';
import { setUp } from '../src/app/account/sign-in.ts';
import { uploadImport } from '../src/app/sources/imports.ts';
import { addSource, saveCard } from '../src/app/sources/sources.ts';
import { openUse } from '../src/app/use.ts';
import type { LeadCard } from '../src/core/source/lead-card.ts';
import { prepareDatabase } from '../src/db/prepare.ts';
import { getRuntime } from '../src/runtime.ts';

await prepareDatabase(process.env.DATABASE_URL!);
const runtime = await getRuntime();
const { cookie } = await setUp(runtime, {
  businessName: 'Bench',
  country: 'GB',
  timeZone: 'UTC',
  name: 'Bench',
  email: 'bench@example.com',
  password: 'bench-bench',
});
const use = openUse(runtime, (await actorOf(runtime, cookie))!);
const card: LeadCard = {
  fields: { full_name: 'name', email: 'email', phone: 'phone' },
  consent: { kind: 'asked_elsewhere', note: 'bench', wording: 'You may write to me about lessons and news.' },
};
const platform = await addConnection(use, {
  kind: 'ad_platform',
  name: 'Platform',
  address: process.env.PLATFORM_URL!,
  sender: '',
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
for (let i = 0; i < 50; i++) {
  const made = await addSource(use, {
    kind: 'ad-form',
    connectionId: platform.id,
    scope: 'form',
    targetId: `form-${i}`,
    how: 'pull',
    everyMinutes: 60,
  });
  await use.write((tx) => saveCard(tx, made.id, card));
}
await runtime.pool.query(`update pull set next_at = now() + interval '1 day'`);
const imports: string[] = [];
for (const file of process.env.IMPORT_FILES!.split(',')) {
  const made = await addSource(use, { kind: 'import', name: file.split('/').at(-1)! });
  await use.write((tx) => uploadImport(tx, made.id, file, readFileSync(file)));
  await use.write((tx) => saveCard(tx, made.id, card));
  imports.push(made.id);
}
await runtime.pool.query(`update lead_import set next_at = now() + interval '1 day'`);
await runtime.close();
console.log(`ready ${JSON.stringify({ imports })}`);
