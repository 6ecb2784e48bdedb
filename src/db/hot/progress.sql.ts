import { BY_INDEX } from './by-index.ts';

/**
 * dealt_with(run, business): what a run has come to where all it asked for was dealt with while it was still at work on the rest; null while something is open.
 *
 * write_progress(batch): what runs have done since they last wrote, for any number of runs, in one statement.
 *
 * Plan it relies on: primary keys of delivery, step_result, lead and run; unique index needs_you_subject.
 * A delivery whose report came in before our own note of the gateway's answer keeps what the report said.
 * A run is only changed by the process that holds its lease.
 */
export const PROGRESS_SQL = `
create or replace function dealt_with(the_run uuid, the_business uuid) returns text language sql stable ${BY_INDEX} as $$
  select case when bool_and(n.settled_at is not null) then case when bool_or(n.settled_by_id is not null) then 'handled' else 'done' end end
  from step_result s join needs_you n on n.business_id = the_business and n.subject = 'run:' || the_run || ':step:' || s.step_id
  where s.run_id = the_run and s.state in ('refused', 'ask')
$$;
create or replace function write_progress(batch jsonb) returns void language plpgsql volatile ${BY_INDEX} as $$
begin
  if jsonb_array_length(batch -> 'deliveries') > 0 then
    insert into delivery (id, business_id, run_id, step_id, item, lead_id, channel, audience, recipient, connection_id, message, state, detail, created_at)
    select x.id, x.business_id, x.run_id, x.step_id, x.item, x.lead_id, x.channel, x.audience, x.recipient, x.connection_id, x.message, coalesce(x.state, 'sending'), '', x.created_at
    from jsonb_to_recordset(batch -> 'deliveries') as x(id uuid, business_id uuid, run_id uuid, step_id text, item int, lead_id uuid, channel text,
      audience text, recipient text, connection_id uuid, message jsonb, state text, created_at timestamptz)
    on conflict do nothing;
  end if;
  if jsonb_array_length(batch -> 'links') > 0 then
    insert into tracked_link (token, business_id, delivery_id, run_id, step_id, lead_id, url)
    select x.token, x.business_id, x.delivery_id, x.run_id, x.step_id, x.lead_id, x.url
    from jsonb_to_recordset(batch -> 'links') as x(token text, business_id uuid, delivery_id uuid, run_id uuid, step_id text, lead_id uuid, url text)
    on conflict do nothing;
  end if;
  if jsonb_array_length(batch -> 'questions') > 0 then
    insert into asked_question (id, business_id, run_id, step_id, lead_id, channel, question, state, times, asked_at, until)
    select x.id, x.business_id, x.run_id, x.step_id, x.lead_id, x.channel, x.question, 'open', 1, x.asked_at, x.until
    from jsonb_to_recordset(batch -> 'questions') as x(id uuid, business_id uuid, run_id uuid, step_id text, lead_id uuid, channel text,
      question jsonb, asked_at timestamptz, until timestamptz)
    on conflict do nothing;
  end if;
  if jsonb_array_length(batch -> 'answers') > 0 then
    update delivery d set
      state = case when d.reported_at is null then x.state else d.state end,
      remote_id = coalesce(x.remote_id, d.remote_id), detail = x.detail, accepted_at = coalesce(d.accepted_at, x.accepted_at)
    from jsonb_to_recordset(batch -> 'answers') as x(id uuid, state text, remote_id text, detail text, accepted_at timestamptz)
    where d.id = x.id;
  end if;
  if jsonb_array_length(batch -> 'steps') > 0 then
    insert into step_result (run_id, step_id, business_id, place, state, plan, attempts, started_at, finished_at, next_try_at, instead, results)
    select x.run_id, x.step_id, x.business_id, x.place, x.state, x.plan, x.attempts, x.started_at, x.finished_at, x.next_try_at, x.instead, x.results
    from jsonb_to_recordset(batch -> 'steps') as x(run_id uuid, step_id text, business_id uuid, place text, state text, plan jsonb,
      attempts jsonb, started_at timestamptz, finished_at timestamptz, next_try_at timestamptz, instead jsonb, results jsonb)
    on conflict (run_id, step_id) do update set state = excluded.state, plan = excluded.plan, attempts = excluded.attempts,
      finished_at = excluded.finished_at, next_try_at = excluded.next_try_at, instead = excluded.instead, results = excluded.results;
  end if;
  if jsonb_array_length(batch -> 'moments') > 0 then
    insert into moment_result (run_id, moment_id, business_id, began_at, case_id, skipped, compared)
    select x.run_id, x.moment_id, x.business_id, x.began_at, x.case_id, x.skipped, x.compared
    from jsonb_to_recordset(batch -> 'moments') as x(run_id uuid, moment_id text, business_id uuid, began_at timestamptz, case_id text,
      skipped text, compared jsonb)
    on conflict do nothing;
  end if;
  if jsonb_array_length(batch -> 'leads') > 0 then
    perform set_config('pinebell.by', (select jsonb_build_object('leads', jsonb_object_agg(x ->> 'id', x -> 'by')) from jsonb_array_elements(batch -> 'leads') x)::text, true);
    update lead l set first_name = coalesce(nullif(x.first_name, ''), l.first_name), last_name = coalesce(nullif(x.last_name, ''), l.last_name),
      email = coalesce(nullif(x.email, ''), l.email), phone = coalesce(nullif(x.phone, ''), l.phone), answers = l.answers || filled(coalesce(x.answers, '{}'))
    from jsonb_to_recordset(batch -> 'leads') as x(id uuid, first_name text, last_name text, email text, phone text, answers jsonb)
    where l.id = x.id;
  end if;
  if jsonb_array_length(batch -> 'needs') > 0 then
    insert into needs_you (id, business_id, kind, subject, title, detail, run_id, step_id, lead_id, created_at)
    select x.id, x.business_id, x.kind, x.subject, x.title, x.detail, x.run_id, x.step_id, x.lead_id, x.created_at
    from jsonb_to_recordset(batch -> 'needs') as x(id uuid, business_id uuid, kind text, subject text, title text, detail text,
      run_id uuid, step_id text, lead_id uuid, created_at timestamptz)
    on conflict (business_id, subject) do nothing;
  end if;
  if jsonb_array_length(batch -> 'runs') > 0 then
    update run r set state = case when x.state = 'needs_you' then coalesce(dealt_with(r.id, r.business_id), x.state) else x.state end, outcome = x.outcome, finished_at = x.finished_at, due_at = x.due_at, lease_by = null,
      moment_id = x.moment_id, moment_at = x.moment_at, waits_for = null, happened = null,
      first_reply_at = coalesce(r.first_reply_at, x.first_reply_at)
    from jsonb_to_recordset(batch -> 'runs') as x(id uuid, lease_by text, state text, outcome text, finished_at timestamptz,
      due_at timestamptz, first_reply_at timestamptz, moment_id text, moment_at timestamptz)
    where r.id = x.id and r.lease_by = x.lease_by;
  end if;
end $$;
`;
