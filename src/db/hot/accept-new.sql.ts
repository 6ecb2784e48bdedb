/**
 * The part of accept_arrivals that most arrivals need and no more: those of people nobody knows yet, all of a batch in one statement. Whatever asks
 * for a second look is left for the other part, one arrival at a time: somebody who is known by one of their identities, the same person or item twice
 * in a batch, an item that has come before, one that was kept and is handled again, news and members, a number somebody wrote from before.
 *
 * Gives `done`, what the caller is told of each. Every look-up is a subquery of its own, so that it goes by the whole key of its index.
 */
export const ACCEPT_NEW_SQL = `
  with x as materialized (
    select * from jsonb_to_recordset(batch) as x(arrival_id uuid, business_id uuid, source_id uuid, external_id text, received_at timestamptz, headers jsonb,
      body text, fields jsonb, where_from jsonb, state text, person jsonb, identities jsonb, answers jsonb, consent jsonb, brings text, again boolean,
      workflows jsonb, means text, came_at timestamptz, new_lead_id uuid, touch_id uuid, run_id uuid, lease_by text, lease_seconds int)
  ), twice as (
    select unnest(array_agg(x.arrival_id)) from x, jsonb_to_recordset(x.identities) as d(kind text, value text)
      group by x.business_id, d.kind, d.value having count(*) > 1
    union all select unnest(array_agg(x.arrival_id)) from x where x.external_id is not null group by x.source_id, x.external_id having count(*) > 1
  ), fresh as materialized (
    select x.* from x
    where x.state = 'read' and x.brings = 'people' and not x.again and x.arrival_id not in (select * from twice)
      and (x.external_id is null or (select true from arrival a where a.source_id = x.source_id and a.external_id = x.external_id) is null)
      and (select true from jsonb_to_recordset(x.identities) as d(kind text, value text)
        where (select true from lead_identity i where i.business_id = x.business_id and i.kind = d.kind and i.value = d.value)
          or d.kind = 'phone' and (select true from inbound m where m.business_id = x.business_id and m.sender = d.value and m.lead_id is null limit 1)
        limit 1) is null
  ), leads as (
    insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at, is_person)
    select new_lead_id, business_id, person ->> 'first_name', person ->> 'last_name', person ->> 'email', person ->> 'phone', answers,
      received_at, received_at, true from fresh
  ), identified as (
    insert into lead_identity (business_id, kind, value, lead_id)
    select f.business_id, d.kind, d.value, f.new_lead_id from fresh f, jsonb_to_recordset(f.identities) as d(kind text, value text)
    on conflict do nothing
  ), arrived as (
    insert into arrival (id, business_id, source_id, external_id, received_at, headers, body, fields, where_from, state, lead_id, means, repeats)
    select arrival_id, business_id, source_id, external_id, received_at, headers, decode(body, 'base64'), fields, where_from, 'read', new_lead_id, means, 0
    from fresh
  ), touched as (
    insert into touch (id, business_id, lead_id, arrival_id, at, where_from)
    select touch_id, business_id, new_lead_id, arrival_id, received_at, where_from from fresh where where_from <> '{}'::jsonb
  ), agreed as (
    insert into consent (id, business_id, lead_id, channel, purpose, state, said_by, wording, how, version, address, arrival_id, at)
    select gen_random_uuid(), f.business_id, f.new_lead_id, c, f.consent ->> 'purpose', f.consent ->> 'state', f.consent ->> 'said_by',
      f.consent ->> 'wording', f.consent ->> 'how', f.consent ->> 'version', f.consent ->> 'address', f.arrival_id, f.received_at
    from fresh f, jsonb_array_elements_text(f.consent -> 'channels') c
  ), begun as (
    insert into run (id, business_id, workflow_id, version_id, source_id, lead_id, arrival_id, state, outcome, created_at, came_at, due_at, lease_by)
    select case when row_number() over (partition by f.arrival_id) = 1 then f.run_id else gen_random_uuid() end, f.business_id, l.workflow_id,
      l.version_id, f.source_id, f.new_lead_id, f.arrival_id, 'active', '', f.received_at, f.came_at, now() + f.lease_seconds * interval '1 s', f.lease_by
    from fresh f, lateral (
      select workflow_id, version_id from listening l where l.source_id = f.source_id and l.business_id = f.business_id and f.workflows is null
      union all select (w ->> 'workflow_id')::uuid, v.id from jsonb_array_elements(coalesce(f.workflows, '[]')) w
        join workflow_version v on v.id = (w ->> 'version_id')::uuid and v.business_id = f.business_id) l
    returning arrival_id, jsonb_build_object('run_id', id, 'version_id', version_id, 'workflow_id', workflow_id) as started
  )
  select array_agg(jsonb_build_object('item', f.arrival_id, 'arrival_id', f.arrival_id, 'repeat', false, 'lead_id', f.new_lead_id, 'new_lead', true,
    'known', jsonb_build_object('first_name', f.person ->> 'first_name', 'last_name', f.person ->> 'last_name', 'email', f.person ->> 'email',
      'phone', f.person ->> 'phone'),
    'own', '{}'::jsonb, 'owner_id', null, 'tags', '[]'::jsonb, 'member_of', '[]'::jsonb,
    'consent', case when f.consent ->> 'purpose' = 'marketing' then '{}' else given.given end,
    'marketing', case when f.consent ->> 'purpose' = 'service' then '{}' else given.given end,
    'chat_at', null, 'runs', coalesce((select jsonb_agg(b.started) from begun b where b.arrival_id = f.arrival_id), '[]')))
  into done
  from fresh f, lateral (select coalesce(jsonb_object_agg(c, 'given'), '{}') as given from jsonb_array_elements_text(f.consent -> 'channels') c
    where f.consent ->> 'state' = 'given') given;
`;
