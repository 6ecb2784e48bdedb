import { BY_INDEX } from './by-index.ts';
import { BULK_RANK, BY_HAND_STEP, COMMAND_STEP } from './message-kinds.ts';

/**
 * What the outbox takes, asks and writes, for any number of messages by one statement each. Rows are locked in the order of their ids.
 *
 * lease_messages(holder, seconds, most, many): those that are due, of one of many or not, with all that is needed to hand them over. Plan it relies on: the
 * partial index delivery_due.
 * settle_messages(batch, holder): what came of them; gives the ids of those that were still ours. A report that came in before our own note keeps what it said.
 * put_off_messages(batch, holder): they go on later; \`untried\` is 1 where nothing was tried.
 * take_slots(batch): hot/wishes.sql.ts for each.
 */
export const OUTBOX_SQL = `
create or replace function lease_messages(the_holder text, seconds int, most int, many boolean) returns setof jsonb language plpgsql volatile ${BY_INDEX} as $$
begin return query
  with chosen as materialized (
    select id from delivery where due_at <= now()
      -- As bounds of the index: what is not one of many is not looked for among all that is.
      and rank >= case when many then ${BULK_RANK} else 0 end and rank < case when many then 100 else ${BULK_RANK} end
    order by rank, due_at limit most for update skip locked
  ), taken as (
    update delivery d set lease_by = the_holder, due_at = now() + seconds * interval '1 s', tries = d.tries + 1 from chosen where d.id = chosen.id returning d.*
  )
  select jsonb_build_object('id', t.id, 'business_id', t.business_id, 'run_id', t.run_id, 'lead_id', t.lead_id, 'step_id', t.step_id, 'audience', t.audience,
    'recipient', t.recipient, 'connection_id', t.connection_id, 'message', t.message, 'created_at', t.created_at, 'rank', t.rank, 'tries', t.tries, 'hours', t.hours,
    'time_zone', b.time_zone, 'phone', l.phone,
    'withdrawn', t.step_id <> '${COMMAND_STEP}' and (
      -- What a colleague writes is no machine's: they have read it.
      case when t.step_id = '${BY_HAND_STEP}' then consents_of(t.lead_id, 'service') ->> t.channel = 'withdrawn'
        else automatic_consents_of(t.lead_id, 'service') ->> t.channel in ('withdrawn', 'doubted') end
      or ((t.rank >= ${BULK_RANK} or t.message ->> 'purpose' = 'marketing') and consents_of(t.lead_id, 'marketing') ->> t.channel = 'withdrawn')) is true,
    'stopped', case when m.state = 'stopped' then 'The email was stopped'
      when m.audience ? 'list' and not exists (select from list_member x where x.list_id = (m.audience ->> 'list')::uuid
        and x.lead_id = t.lead_id and x.state = 'active') then 'No longer on the list' end)
  from taken t join business b on b.id = t.business_id left join lead l on l.id = t.lead_id left join mailing m on m.id = t.mailing_id
  order by t.rank, t.created_at;
end $$;
create or replace function settle_messages(batch jsonb, the_holder text) returns setof uuid language plpgsql volatile ${BY_INDEX} as $$
begin return query
  with x as materialized (select * from jsonb_to_recordset(batch) as x(id uuid, state text, detail text, remote_id text, at timestamptz)),
    mine as materialized (select d.id from x join delivery d on d.id = x.id and d.lease_by = the_holder order by d.id for no key update of d),
    done as (update delivery d set state = case when d.reported_at is null then x.state else d.state end, detail = x.detail,
        remote_id = coalesce(x.remote_id, d.remote_id),
        accepted_at = coalesce(d.accepted_at, case when x.state = 'accepted' then x.at end), due_at = null, lease_by = null
      from mine join x on x.id = mine.id where d.id = mine.id returning d.id, d.run_id, d.audience, x.state, x.at),
    replied as (update run r set first_reply_at = coalesce(r.first_reply_at, d.at)
      from (select o.run_id, min(o.at) as at from done o where o.run_id is not null and o.audience = 'lead' and o.state = 'accepted' group by o.run_id) d
      where r.id = d.run_id)
  select o.id from done o;
end $$;
create or replace function put_off_messages(batch jsonb, the_holder text) returns void language plpgsql volatile ${BY_INDEX} as $$
begin
  with x as materialized (select * from jsonb_to_recordset(batch) as x(id uuid, until timestamptz, detail text, untried int)),
    mine as materialized (select d.id from x join delivery d on d.id = x.id and d.lease_by = the_holder order by d.id for no key update of d)
  update delivery d set due_at = x.until, detail = x.detail, lease_by = null, tries = d.tries - x.untried from mine join x on x.id = mine.id where d.id = mine.id;
end $$;
create or replace function take_slots(batch jsonb) returns table (id uuid, free boolean) language plpgsql volatile as $$
begin return query
  -- By lead, as they are locked.
  select x.id, take_marketing_slot(x.id, x.lead_id, x.business_id)
  from (select * from jsonb_to_recordset(batch) as x(id uuid, lead_id uuid, business_id uuid) order by lead_id, id) x;
end $$;
`;
