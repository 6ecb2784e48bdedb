// What a good engineer writes in an afternoon: one plain transaction per lead.
import { connect, serve } from './common.mjs';

const pool = connect();
serve(async (lead) => {
  const c = await pool.connect();
  try {
    await c.query('begin');
    const {
      rows: [{ id: leadId }],
    } = await c.query({
      name: 'lead',
      text: `
      insert into leads (email, phone, first_name, last_name, source, fields) values ($1, $2, $3, $4, $5, $6)
      on conflict (email) do update set phone = excluded.phone, first_name = excluded.first_name, last_name = excluded.last_name,
        source = excluded.source, fields = leads.fields || excluded.fields, updated_at = now()
      returning id`,
      values: [lead.email, lead.phone, lead.firstName, lead.lastName, lead.source, lead.fields],
    });
    const {
      rows: [{ id: runId }],
    } = await c.query({ name: 'run', text: 'insert into runs (lead_id) values ($1) returning id', values: [leadId] });
    await c.query({ name: 'job', text: `insert into jobs (run_id, kind) values ($1, 'text')`, values: [runId] });
    await c.query('notify jobs');
    await c.query('commit');
    return runId;
  } catch (e) {
    await c.query('rollback').catch(() => {});
    throw e;
  } finally {
    c.release();
  }
});
