import { ACCEPT_NEW_SQL } from './accept-new.sql.ts';
import { BY_INDEX } from './by-index.ts';

/**
 * accept_arrivals(batch): one transaction from what came in to the runs it starts. One round trip for any number of arrivals. People nobody knows yet
 * are taken all at once (accept-new.sql.ts), whatever is left one by one.
 *
 * Plan it relies on, per arrival: unique index arrival_external, whole primary key of lead_identity (one person at a time, so
 * that no join can choose less of it), primary key of lead, primary key of listening (by source), indexes run_lead, inbound_lead
 * and inbound_unknown, which holds only what nobody is known to have written. None of
 * them grows slower with what is stored.
 *
 * Same person or same item at the same instant: every identity and external id is locked first (advisory, in sorted order, so
 * two batches cannot wait for each other), and each statement inside a volatile function sees what was committed before it.
 */
export const ACCEPT_SQL = `
-- Only what is not empty.
create or replace function filled(answers jsonb) returns jsonb language sql immutable as $$
  select coalesce(jsonb_object_agg(key, value), '{}') from jsonb_each(answers) where value <> '""'
$$;
create or replace function accept_arrivals(batch jsonb) returns setof jsonb language plpgsql volatile ${BY_INDEX} as $$
declare
  item jsonb;
  one jsonb;
  the_business uuid;
  the_source uuid;
  known_arrival uuid;
  the_arrival uuid;
  the_lead uuid;
  other_lead uuid;
  the_number text;
  number_as text;
  is_new boolean;
  was lead%rowtype;
  listener record;
  started jsonb;
  agreed jsonb;
  agreed_more jsonb;
  chat_at numeric;
  run_id uuid;
  at timestamptz;
  known boolean;
  again boolean;
  done jsonb[];
  done_ids text[];
begin
  perform pg_advisory_xact_lock(h) from (
    select distinct h from jsonb_array_elements(batch) i,
      lateral (select hashtextextended(i ->> 'source_id' || ':' || (i ->> 'external_id'), 12) as h where i ->> 'external_id' is not null
        union all select hashtextextended(i ->> 'business_id' || ':' || (d ->> 'kind') || ':' || (d ->> 'value'), 11)
        from jsonb_array_elements(i -> 'identities') d) locked
    order by h) locks;
${ACCEPT_NEW_SQL}
  if done is not null then
    return query select unnest(done);
    if cardinality(done) = jsonb_array_length(batch) then return; end if;
    select array_agg(d ->> 'item') into done_ids from unnest(done) d;
  end if;
  for item in select i from jsonb_array_elements(batch) i where done_ids is null or i ->> 'arrival_id' <> all (done_ids) loop
    at := (item ->> 'received_at')::timestamptz;
    the_business := (item ->> 'business_id')::uuid;
    the_source := (item ->> 'source_id')::uuid;
    the_arrival := (item ->> 'arrival_id')::uuid;
    if item ->> 'external_id' is not null then
      update arrival set repeats = repeats + 1 where source_id = the_source and external_id = item ->> 'external_id' returning id into known_arrival;
      if found then
        return next jsonb_build_object('item', item -> 'arrival_id', 'arrival_id', known_arrival, 'repeat', true);
        continue;
      end if;
    end if;
    if item ->> 'state' <> 'read' then
      insert into arrival (id, business_id, source_id, external_id, received_at, headers, body, fields, where_from, state, problem, repeats)
      values (the_arrival, the_business, the_source, item ->> 'external_id', at, item -> 'headers', decode(item ->> 'body', 'base64'),
        item -> 'fields', item -> 'where_from', item ->> 'state', item ->> 'problem', 0)
      on conflict (id) do update set fields = excluded.fields, where_from = excluded.where_from, state = excluded.state, problem = excluded.problem;
      if item -> 'needs_you' <> 'null'::jsonb then
        insert into needs_you (id, business_id, kind, subject, title, detail, arrival_id, source_id, created_at)
        values ((item -> 'needs_you' ->> 'id')::uuid, the_business, 'arrival_refused', item -> 'needs_you' ->> 'subject',
          item -> 'needs_you' ->> 'title', item -> 'needs_you' ->> 'detail', the_arrival, the_source, at)
        on conflict (business_id, subject) do update set detail = excluded.detail, arrival_id = excluded.arrival_id,
          created_at = excluded.created_at, settled_at = null, settled_by_id = null;
      end if;
      return next jsonb_build_object('item', item -> 'arrival_id', 'arrival_id', the_arrival, 'repeat', false);
      continue;
    end if;

    -- Who is it? An email that is known decides over a phone that is known.
    the_lead := null;
    for one in select d from jsonb_array_elements(item -> 'identities') d loop
      select lead_id into the_lead from lead_identity where business_id = the_business and kind = one ->> 'kind' and value = one ->> 'value';
      exit when the_lead is not null;
    end loop;
    -- Known by the number alone, and under another name: a number shared, one that has changed hands, or a slip. Whoever it is known of is
    -- not touched: what came is a lead of its own until somebody has said, and after that whom they said.
    other_lead := null;
    select d ->> 'value' into the_number from jsonb_array_elements(item -> 'identities') d where d ->> 'kind' = 'phone';
    number_as := the_number || '|' || lower(coalesce(nullif(item -> 'person' ->> 'first_name', ''), item -> 'person' ->> 'last_name', ''));
    if the_lead is not null and item ->> 'asks_whose' = 'true' and one ->> 'kind' = 'phone' and exists (select from lead l where l.id = the_lead
      and (l.first_name <> '' and item -> 'person' ->> 'first_name' <> '' and lower(l.first_name) <> lower(item -> 'person' ->> 'first_name')
        or l.last_name <> '' and item -> 'person' ->> 'last_name' <> '' and lower(l.last_name) <> lower(item -> 'person' ->> 'last_name'))) then
      other_lead := the_lead;
      select lead_id into the_lead from lead_identity where business_id = the_business and kind in ('number_asked', 'number_shared') and value = number_as;
    end if;
    is_new := the_lead is null;
    if is_new then
      the_lead := (item ->> 'new_lead_id')::uuid;
      insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at, is_person)
      values (the_lead, the_business, item -> 'person' ->> 'first_name', item -> 'person' ->> 'last_name',
        item -> 'person' ->> 'email', item -> 'person' ->> 'phone', item -> 'answers', at, at, item ->> 'brings' = 'people')
      returning * into was;
    else
      -- A known person: what was empty is filled in, what is spelt the same but for case stays as it was tidied, nothing empty takes anything away.
      perform set_config('pinebell.by', jsonb_build_object('kind', 'arrival', 'id', the_arrival)::text, true);
      update lead set
        first_name = case when item -> 'person' ->> 'first_name' = '' or lower(item -> 'person' ->> 'first_name') = lower(first_name) then first_name else item -> 'person' ->> 'first_name' end,
        last_name = case when item -> 'person' ->> 'last_name' = '' or lower(item -> 'person' ->> 'last_name') = lower(last_name) then last_name else item -> 'person' ->> 'last_name' end,
        email = case when email = '' then item -> 'person' ->> 'email' else email end,
        phone = case when phone = '' then item -> 'person' ->> 'phone' else phone end,
        answers = answers || filled(item -> 'answers'), last_arrival_at = case when item ->> 'brings' = 'member' then last_arrival_at else greatest(last_arrival_at, at) end
      where id = the_lead returning * into was;
    end if;
    insert into lead_identity (business_id, kind, value, lead_id)
    select the_business, d ->> 'kind', d ->> 'value', the_lead from jsonb_array_elements(item -> 'identities') d
    on conflict do nothing;
    -- The same where an email says who it is and the number is known of somebody else.
    if other_lead is null and item ->> 'asks_whose' = 'true' then
      select lead_id into other_lead from lead_identity where business_id = the_business and kind = 'phone' and value = the_number and lead_id <> the_lead;
    end if;
    if other_lead is not null and other_lead <> the_lead then
      insert into lead_identity (business_id, kind, value, lead_id) select the_business, 'number_asked', number_as, the_lead
      where not exists (select from lead_identity i where i.business_id = the_business and i.kind = 'number_shared' and i.value = number_as)
      on conflict do nothing;
      if found then
        insert into needs_you (id, business_id, kind, subject, title, detail, lead_id, other_lead_id, arrival_id, source_id, created_at)
        select gen_random_uuid(), the_business, 'number_shared', 'number:' || number_as, 'One number, two people?',
          coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), l.email, l.phone) || ' has ' || the_number || '. Now '
            || (select name from source where id = the_source) || ' gives it for '
            || coalesce(nullif(trim((item -> 'person' ->> 'first_name') || ' ' || (item -> 'person' ->> 'last_name')), ''), item -> 'person' ->> 'email')
            || '. Nothing was changed: they stand as two leads, and to that number goes only what the person themselves agreed to. Say whose it is.',
          other_lead, the_lead, the_arrival, the_source, at
        from lead l where l.id = other_lead on conflict (business_id, subject) do nothing;
      end if;
    end if;
    if is_new then
      -- What came from this number before anybody knew whose it is, is theirs.
      update inbound i set lead_id = the_lead from jsonb_array_elements(item -> 'identities') d
      where i.business_id = the_business and i.sender = d ->> 'value' and i.lead_id is null and d ->> 'kind' = 'phone' and other_lead is null;
      if found then
        update conversation c set lead_id = the_lead from jsonb_array_elements(item -> 'identities') d
        where c.business_id = the_business and c.sender = d ->> 'value' and c.lead_id is null;
      end if;
    end if;
    insert into arrival (id, business_id, source_id, external_id, received_at, headers, body, fields, where_from, state, lead_id, means, repeats)
    values (the_arrival, the_business, the_source, item ->> 'external_id', at, item -> 'headers', decode(item ->> 'body', 'base64'),
      item -> 'fields', item -> 'where_from', 'read', the_lead, item ->> 'means', 0)
    -- Handled again: the evidence stays, what is understood of it is new.
    on conflict (id) do update set fields = excluded.fields, where_from = excluded.where_from, state = 'read', problem = null, lead_id = excluded.lead_id, means = excluded.means;
    again := item ->> 'again' = 'true';
    if item -> 'where_from' <> '{}'::jsonb and item ->> 'brings' = 'people'
      and not (again and exists (select from touch t where t.lead_id = the_lead and t.arrival_id = the_arrival)) then
      insert into touch (id, business_id, lead_id, arrival_id, at, where_from)
      values ((item ->> 'touch_id')::uuid, the_business, the_lead, the_arrival, at, item -> 'where_from');
    end if;
    -- All of it is kept, a box left unticked too. What counts of it: consents_of.
    if item -> 'consent' <> 'null'::jsonb
      and not (again and exists (select from consent c where c.lead_id = the_lead and c.arrival_id = the_arrival)) then
      insert into consent (id, business_id, lead_id, channel, purpose, state, said_by, wording, how, version, address, arrival_id, at)
      select gen_random_uuid(), the_business, the_lead, c, item -> 'consent' ->> 'purpose', item -> 'consent' ->> 'state', item -> 'consent' ->> 'said_by',
        item -> 'consent' ->> 'wording', item -> 'consent' ->> 'how', item -> 'consent' ->> 'version', item -> 'consent' ->> 'address', the_arrival, at
      from jsonb_array_elements_text(item -> 'consent' -> 'channels') c;
    end if;
    if is_new and other_lead is null then
      agreed := '{}';
      agreed_more := '{}';
      if item -> 'consent' ->> 'state' = 'given' then
        select jsonb_object_agg(c, 'given') into agreed from jsonb_array_elements_text(item -> 'consent' -> 'channels') c;
        agreed_more := case when item -> 'consent' ->> 'purpose' = 'service' then '{}' else agreed end;
        agreed := case when item -> 'consent' ->> 'purpose' = 'marketing' then '{}' else agreed end;
      end if;
    else
      agreed := automatic_consents_of(the_lead, 'service');
      agreed_more := automatic_consents_of(the_lead, 'marketing');
    end if;
    select extract(epoch from max(i.received_at)) * 1000 into chat_at from inbound i where i.lead_id = the_lead and i.channel = 'chat';

    started := '[]';
    run_id := (item ->> 'run_id')::uuid;
    if not is_new and item ->> 'brings' <> 'news' then
      -- One at a time with a run that begins to wait: either it sees this arrival, or this sees that it waits.
      perform pg_advisory_xact_lock(hashtextextended(the_lead::text, 17));
      if item ->> 'means' is not null then
        update run r set state = 'done', due_at = null, finished_at = at, waits_for = null,
          outcome = case item ->> 'means' when 'booked' then 'Ended early: they booked' else 'Ended early: they bought' end
        from workflow_version v where v.id = r.version_id and r.lead_id = the_lead and r.moment_id is not null and r.due_at is not null
          and r.lease_by is null and v.definition #> '{rules,endsWhen}' ? (item ->> 'means');
      end if;
      update run set happened = '{"it":"yes"}' || (item -> 'answers'), due_at = now()
      where lead_id = the_lead and moment_id is not null and due_at is not null and lease_by is null and happened is null
        and waits_for ->> 'event' = 'arrival' and (item ->> 'brings' = 'people' and waits_for -> 'sources' = '[]' or waits_for -> 'sources' ? the_source::text);
    end if;
    -- Whoever listens, and whatever is named, is of the same business: the last wall between two of them.
    for listener in select l.workflow_id, l.version_id, l.same_person, l.again_after_days, l.known_by from listening l
        where l.source_id = the_source and l.business_id = the_business and item -> 'workflows' = 'null'::jsonb
      union all select (w ->> 'workflow_id')::uuid, (w ->> 'version_id')::uuid, w ->> 'same_person',
          coalesce((w ->> 'again_after_days')::int, 30), coalesce(w ->> 'known_by', 'workflow')
        from jsonb_array_elements(case when item -> 'workflows' = 'null'::jsonb then '[]' else item -> 'workflows' end) w
        join workflow_version v on v.id = (w ->> 'version_id')::uuid and v.business_id = the_business loop
      -- A workflow that has already run for this very arrival is not started by it once more.
      continue when again and exists (select from run r where r.arrival_id = the_arrival and r.workflow_id = listener.workflow_id);
      known := not is_new and listener.same_person <> 'run_again' and item ->> 'brings' <> 'news'
        and exists (select from run r where r.lead_id = the_lead and r.workflow_id = listener.workflow_id and r.state <> 'known'
          and (listener.known_by = 'workflow' or r.source_id = the_source)
          and (listener.same_person <> 'run_again_after' or r.created_at > at - listener.again_after_days * interval '1 day'));
      continue when known and listener.same_person = 'nothing';
      insert into run (id, business_id, workflow_id, version_id, source_id, lead_id, arrival_id, state, outcome, created_at, came_at, finished_at, due_at, lease_by)
      values (run_id, the_business, listener.workflow_id, listener.version_id, the_source, the_lead, the_arrival,
        case when known then 'known' else 'active' end, case when known then 'Known person, updated' else '' end, at, (item ->> 'came_at')::timestamptz,
        case when known then at end, case when not known then now() + (item ->> 'lease_seconds')::int * interval '1 s' end,
        case when not known then item ->> 'lease_by' end);
      if not known then
        started := started || jsonb_build_object('run_id', run_id, 'version_id', listener.version_id, 'workflow_id', listener.workflow_id);
      end if;
      run_id := gen_random_uuid();
    end loop;
    return next jsonb_build_object('item', item -> 'arrival_id', 'arrival_id', the_arrival, 'repeat', false, 'lead_id', the_lead, 'new_lead', is_new,
      'known', jsonb_build_object('first_name', was.first_name, 'last_name', was.last_name, 'email', was.email, 'phone', was.phone),
      'own', was.own, 'owner_id', was.owner_id, 'tags', case when is_new then '[]' else (select coalesce(jsonb_agg(tag_id), '[]') from lead_tag where lead_id = the_lead) end,
      'member_of', case when is_new then '[]' else
        (select coalesce(jsonb_agg(list_id), '[]') from list_member m where m.lead_id = the_lead and m.state = 'active') end,
      'consent', agreed, 'marketing', agreed_more, 'chat_at', chat_at, 'runs', started);
  end loop;
end $$;
`;
