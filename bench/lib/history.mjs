import pg from 'pg';

/** Of each lead: how often they came in, messages that went out, and, of every fifth, how many they wrote. A million leads are ten million of these. */
const [ARRIVALS, SENT, WROTE] = [4, 5, 5];

/** Ids that say which row of which table they are, so that tables can be made side by side; the k-th of lead n. */
export const idOf = (kind, n = 'n', k = '0') =>
  `('00000000-0000-7000-8${kind}00-' || lpad((${n}::bigint * 10 + ${k})::text, 12, '0'))::uuid`;
/** Over two years, the newest last; the k-th time of each between their first and now. */
const at = (k = '0') => `now() - (1 - n::float / $1) * (1 - ${k} * 0.15) * interval '730 days'`;
const name = `(array['Ada','Bo','Cleo','Dan','Edda','Finn','Gus','Hana','Ines','Jude'])[n % 10 + 1]`;
const of = (k = 0) => `from generate_series(1, $1::int) n${k > 0 ? `, generate_series(0, ${k - 1}) k` : ''},
  (select b.id as business, s.id as source, w.id as workflow, w.live_version_id as version, c.id as carrier
   from business b, source s, workflow w, connection c where s.key = 'history' limit 1) x`;
const number = `'+4477' || lpad(n::text, 8, '0')`;
/** Column by column, of each lead. */
const TABLES = {
  lead: `(id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at)
    select ${idOf(1)}, business, ${name}, 'Family' || n % 5000, 'person' || n || '@example.net', ${number},
      jsonb_build_object('instrument', (array['Piano','Violin','Cello','Drums'])[n % 4 + 1], 'note', 'some words of theirs'), ${at()}, ${at(`${ARRIVALS - 1}`)} ${of()}`,
  lead_identity: `(business_id, kind, value, lead_id) select business, kind, value, ${idOf(1)} ${of()},
    lateral (values ('email', 'person' || n || '@example.net'), ('phone', ${number})) i(kind, value)`,
  arrival: `(id, business_id, source_id, external_id, received_at, headers, body, fields, where_from, state, lead_id, repeats)
    select ${idOf(2, 'n', 'k')}, business, source, 'entry-' || n || '-' || k, ${at('k')}, '{"content-type":"application/json"}', convert_to('{"firstName":"' || ${name} || '","email":"person' || n || '@example.net"}', 'UTF8'),
      jsonb_build_array(jsonb_build_object('key', 'firstName', 'label', 'First name', 'value', ${name}), jsonb_build_object('key', 'email', 'label', 'Email', 'value', 'person' || n || '@example.net')),
      '{"campaign":"autumn-trial"}', 'read', ${idOf(1)}, 0 ${of(ARRIVALS)}`,
  touch: `(id, business_id, lead_id, arrival_id, at, where_from) select ${idOf(3, 'n', 'k')}, business, ${idOf(1)}, ${idOf(2, 'n', 'k')}, ${at('k')}, '{"campaign":"autumn-trial"}' ${of(ARRIVALS)}`,
  consent: `(id, business_id, lead_id, channel, state, wording, how, arrival_id, at) select ${idOf(4)}, business, ${idOf(1)}, 'text', 'given', 'You may write to me.', 'bench', ${idOf(2)}, ${at()} ${of()}`,
  run: `(id, business_id, workflow_id, version_id, source_id, lead_id, arrival_id, state, outcome, created_at, came_at, finished_at, first_reply_at)
    select ${idOf(5)}, business, workflow, version, source, ${idOf(1)}, ${idOf(2)}, case when n % 500 = 0 then 'needs_you' else 'done' end, 'Text sent', ${at()}, ${at()}, ${at()} + interval '2 s', ${at()} + interval '1 s' ${of()}`,
  step_result: `(run_id, step_id, business_id, place, state, plan, attempts, started_at, finished_at)
    select ${idOf(5)}, 'text', business, 'lead', 'done', '{"does":"send","message":{"channel":"text","text":"Hi, thanks for asking!"}}',
      '[{"at":"2026-01-01T00:00:00Z","ms":12,"outcome":"accepted","code":"202","detail":"Accepted"}]', ${at()}, ${at()} + interval '1 s' ${of()}`,
  delivery: `(id, business_id, run_id, step_id, item, lead_id, channel, audience, recipient, connection_id, message, state, detail, created_at, accepted_at, reported_at)
    select ${idOf(6, 'n', 'k')}, business, case when k = 0 then ${idOf(5)} end, case when k = 0 then 'text' else 'answer' end, 0, ${idOf(1)}, 'text', 'lead', ${number}, carrier,
      jsonb_build_object('channel', 'text', 'audience', 'lead', 'to', ${number}, 'text', 'Hi ' || ${name} || ', thanks for asking! We will call you back.', 'parts', 1, 'purpose', 'service'),
      'delivered', 'Delivered to the phone', ${at('k')}, ${at('k')} + interval '1 s', ${at('k')} + interval '3 s' ${of(SENT)}`,
  inbound: `(id, business_id, connection_id, remote_id, channel, sender, lead_id, text, received_at)
    select ${idOf(7, 'n', 'k')}, business, carrier, 'in-' || n || '-' || k, 'text', ${number}, ${idOf(1)}, 'Yes please, Saturday is fine', ${at('k')} + interval '1 hour' ${of(WROTE)} where n % 5 = 0`,
  conversation: `(id, business_id, lead_id, sender, channel, last_text, last_in, last_at, unread)
    select ${idOf(8)}, business, ${idOf(1)}, ${number}, 'text', 'Yes please, Saturday is fine', true, ${at('4')} + interval '1 hour', case when n % 50 = 0 then 1 else 0 end ${of()} where n % 5 = 0`,
};

/**
 * Two years of `leads` people: what came in, runs, messages, consents. Indexes that are no keys are made anew behind it, and every table is vacuumed.
 * Gives how many rows there are then, their bytes in words, and the seconds it took.
 */
export async function storeHistory(url, leads) {
  const db = new pg.Client({ connectionString: url });
  await db.connect();
  try {
    const began = Date.now();
    // The triggers and foreign keys of these tables are held by the application; here they would be asked ten million times.
    await db.query(`set session_replication_role = replica`);
    await db.query(`set maintenance_work_mem = '1GB'`);
    // By a source of its own: one that has brought a few a day for years and brings hundreds a second is taken for flooded.
    await db.query(
      `insert into source (id, business_id, kind, name, key, settings, card, card_confirmed, state, most_per_minute, created_at)
       select gen_random_uuid(), business_id, kind, 'Years ago', 'history', settings, card, card_confirmed, state, most_per_minute, created_at from source limit 1`,
    );
    const { rows: indexes } = await db.query(
      `select indexname as name, indexdef as def from pg_indexes where schemaname = 'public' and tablename = any($1)
         and not exists (select from pg_constraint c where c.conname = indexname)`,
      [Object.keys(TABLES)],
    );
    for (const { name } of indexes) await db.query(`drop index ${name}`);
    for (const [table, columns] of Object.entries(TABLES)) await db.query(`insert into ${table} ${columns}`, [leads]);
    for (const { def } of indexes) await db.query(def);
    await db.query('vacuum analyze');
    const { rows } = await db.query(
      'select pg_size_pretty(pg_database_size(current_database())) as size, (select sum(n_live_tup)::int from pg_stat_user_tables) as n',
    );
    return { rows: Number(rows[0].n), size: rows[0].size, seconds: Math.round((Date.now() - began) / 1000) };
  } finally {
    await db.end();
  }
}
