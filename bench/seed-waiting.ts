/** A business with a workflow of two moments, and BENCH_WAITING runs that wait for the second. */
import { v7 as uuidv7 } from 'uuid';
import { actorOf } from '../src/app/account/session.ts';
import { setUp } from '../src/app/account/sign-in.ts';
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
  country: 'GB',
  timeZone: 'UTC',
  name: 'Bench',
  email: 'bench@example.com',
  password: 'bench-bench',
});
const use = openUse(runtime, (await actorOf(runtime, cookie))!);
const source = await addSource(use, { kind: 'webhook', name: 'Bench', signed: false });
await use.write((tx) => saveCard(tx, source.id, { fields: { email: 'email' }, consent: { kind: 'not_asked' } }));
const note = (id: string) => ({ id, kind: 'note', on: true, note: '', settings: { text: 'woken' } });
const lanes = (id: string) => ({ lead: [], record: [note(id)], team: [] });
const workflow = await use.write((tx) =>
  createWorkflow(tx, {
    name: 'Bench',
    folder: '',
    draft: Definition.parse({
      sources: [source.id],
      rules: { samePerson: 'run_again' },
      moments: [
        { id: 'a', at: { kind: 'on_arrival' }, first: [], lanes: { lead: [], record: [], team: [] } },
        { id: 'b', at: { kind: 'later', span: { amount: 30, unit: 'days' } }, first: [], lanes: lanes('n2') },
      ],
    }),
  }),
);
await use.write((tx) => putLive(tx, workflow.id));
const live = (await runtime.pool.query('select live_version_id as id from workflow where id = $1', [workflow.id]))
  .rows[0];
const count = Number(process.env.BENCH_WAITING);
for (let from = 0; from < count; from += 1000) {
  const rows = Array.from({ length: Math.min(1000, count - from) }, () => ({
    lead: uuidv7(),
    arrival: uuidv7(),
    run: uuidv7(),
  }));
  const values = [JSON.stringify(rows), use.actor.businessId, source.id, workflow.id, live.id];
  await runtime.pool.query(
    `with x as (select * from jsonb_to_recordset($1) as x(lead uuid, arrival uuid, run uuid)),
     l as (insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at, is_person)
       select lead, $2, 'Ada', 'Venn', lead || '@example.org', '', '{}', now(), now(), true from x returning id),
     a as (insert into arrival (id, business_id, source_id, received_at, headers, body, fields, where_from, state, lead_id, repeats)
       select arrival, $2, $3, now(), '{}', '', '[]', '{}', 'read', lead, 0 from x returning id)
     insert into run (id, business_id, workflow_id, version_id, source_id, lead_id, arrival_id, state, outcome, created_at, due_at, moment_id, moment_at)
     select run, $2, $4, $5, $3, lead, arrival, 'active', '', now(), now() + interval '30 days', 'b', now() from x`,
    values,
  );
}
await runtime.close();
