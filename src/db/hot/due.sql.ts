import { BY_INDEX } from './by-index.ts';

/**
 * take_due_runs(holder, seconds, most): leases runs whose time has come, whether they were waiting for another try or were
 * left by a process that died, with all that is needed to go on.
 *
 * Plan it relies on: the partial index run_due, which holds only what is under way. Runs that are held stand in it too, a handful:
 * those of people a colleague is talking to.
 */
export const DUE_SQL = `
-- What the questions and forms of a run were answered, as fields for the steps after them.
create or replace function answers_of_run(the_run uuid) returns jsonb language plpgsql stable as $$
begin return (
  select coalesce(jsonb_agg(jsonb_build_object('reference', reference, 'value', value) order by at), '[]') from (
    select question ->> 'saveAs' as reference, answer as value, settled_at as at from asked_question where run_id = the_run and state = 'answered'
    union all select case when a.key in ('first_name', 'last_name', 'email') then 'lead.' else 'answers.' end || a.key, a.value, f.at
      from form_answer f, jsonb_each_text(f.answers) a where f.run_id = the_run and a.value <> '') given);
end $$;
create or replace function take_due_runs(holder text, seconds int, most int) returns setof jsonb language plpgsql volatile ${BY_INDEX} as $$
begin return query
  with taken as (
    update run set lease_by = holder, due_at = now() + seconds * interval '1 s',
      -- A wait that has run out is settled here, once and for all: what comes a moment later finds it settled.
      happened = case when waits_for is not null and happened is null then '{"it":"no"}'::jsonb else happened end
    where id in (select id from run where due_at <= now() and held_at is null order by due_at limit most for update skip locked)
    returning *)
  select jsonb_build_object(
    'run', jsonb_build_object('id', t.id, 'business_id', t.business_id, 'version_id', t.version_id, 'source_id', t.source_id, 'lead_id', t.lead_id,
      'created_at', t.created_at, 'first_reply_at', t.first_reply_at, 'from_step', t.from_step,
      'workflow_id', t.workflow_id, 'moment_id', t.moment_id, 'moment_at', t.moment_at, 'happened', t.happened, 'came_at', t.came_at),
    'owner_id', l.owner_id, 'lead_own', l.own,
    'member_of', coalesce((select jsonb_agg(m.list_id) from list_member m where m.lead_id = t.lead_id and m.state = 'active'), '[]'),
    'answered', answers_of_run(t.id),
    'chat_at', (select extract(epoch from max(i.received_at)) * 1000 from inbound i where i.lead_id = t.lead_id and i.channel = 'chat'),
    'turns', coalesce((select jsonb_object_agg(n.step_id, n.person_id) from turn_taken n where n.run_id = t.id), '{}'),
    'tags', coalesce((select jsonb_agg(g.tag_id) from lead_tag g where g.lead_id = t.lead_id), '[]'),
    'moments', coalesce((select jsonb_agg(jsonb_build_object('moment_id', m.moment_id, 'began_at', m.began_at, 'case_id', m.case_id, 'skipped', m.skipped,
      'compared', m.compared)) from moment_result m where m.run_id = t.id), '[]'),
    'fields', a.fields, 'where_from', a.where_from,
    'known', jsonb_build_object('first_name', l.first_name, 'last_name', l.last_name, 'email', l.email, 'phone', l.phone),
    'consent', automatic_consents_of(t.lead_id, 'service'), 'marketing', automatic_consents_of(t.lead_id, 'marketing'),
    'steps', coalesce((select jsonb_agg(jsonb_build_object('step_id', s.step_id, 'place', s.place, 'state', s.state, 'plan', s.plan, 'attempts', s.attempts,
      'started_at', s.started_at, 'next_try_at', s.next_try_at, 'instead', s.instead, 'results', s.results)) from step_result s where s.run_id = t.id), '[]'),
    'deliveries', coalesce((select jsonb_agg(jsonb_build_object('id', d.id, 'step_id', d.step_id, 'item', d.item, 'state', d.state, 'message', d.message,
      'connection_id', d.connection_id, 'created_at', d.created_at)) from delivery d where d.run_id = t.id), '[]'))
  from taken t join arrival a on a.id = t.arrival_id join lead l on l.id = t.lead_id;
end $$;
`;
