import { BY_INDEX } from './by-index.ts';
import { consentOrder } from './consent-order.ts';

/**
 * What has to be asked anew before a message leaves.
 *
 * In plpgsql, whose plans a connection keeps: a function in SQL that another calls is read and planned anew with every call, which took ten times as long.
 *
 * consents_of(lead, purpose): what a person has agreed to or not, by channel: of what was said about this purpose or about all, what
 * counts by core/consent/precedence.ts. Index consent_lead. Where they gave a number that is another's (lead_identity of the kinds
 * number_asked and number_shared), a no of that other holds for the number too, and until somebody has said whose it is, only their own word
 * counts on it. Index lead_identity_lead.
 *
 * automatic_consents_of(lead, purpose): the same for what goes out by itself. A channel is `doubted` where they have written something that sounds like a
 * refusal and nobody has read it yet. Unique index needs_you_subject.
 *
 * take_marketing_slot(delivery, lead, business): whether this message is among as many marketing messages as one person may have
 * today, by the business's clock. Asked again for the same message it says the same; two asked at once are asked one after
 * the other. Index marketing_slot_day.
 */
export const WISHES_SQL = `
create or replace function consents_of(the_lead uuid, the_purpose text) returns jsonb language plpgsql stable as $$
begin return (
  with other as materialized (
    select a.kind, h.lead_id from lead_identity a join lead_identity h on h.business_id = a.business_id and h.kind = 'phone'
      and h.value = split_part(a.value, '|', 1) and h.lead_id <> the_lead
    where a.lead_id = the_lead and a.kind in ('number_asked', 'number_shared'))
  select coalesce(jsonb_object_agg(channel, state) filter (where state <> 'unticked'), '{}') from (
    select distinct on (c.channel) c.channel, c.state from (
      select k.channel, k.state, k.said_by, k.at, k.id from consent k where k.lead_id = the_lead and coalesce(k.purpose, the_purpose) = the_purpose
        and (k.said_by = 'themselves' or k.channel = 'email' or not exists (select from other where kind = 'number_asked'))
      union all select k.channel, k.state, k.said_by, k.at, k.id from other join consent k on k.lead_id = other.lead_id
        where k.channel <> 'email' and k.state <> 'given' and k.said_by = 'themselves' and coalesce(k.purpose, the_purpose) = the_purpose
    ) c order by c.channel, ${consentOrder('c')}) counts);
end $$;
create or replace function automatic_consents_of(the_lead uuid, the_purpose text) returns jsonb language plpgsql stable as $$
begin return
  consents_of(the_lead, the_purpose) || coalesce((
    select jsonb_object_agg(channel, 'doubted') from lead l, unnest(array['text', 'email', 'chat']) channel
      join needs_you n on n.subject = 'refusal:' || channel || ':' || the_lead and n.settled_at is null
    where l.id = the_lead and n.business_id = l.business_id), '{}');
end $$;
create or replace function take_marketing_slot(the_delivery uuid, the_lead uuid, the_business uuid) returns boolean language plpgsql volatile ${BY_INDEX} as $$
declare
  most int;
  today date;
begin
  select marketing_per_day, (now() at time zone time_zone)::date into most, today from business where id = the_business;
  if most = 0 or exists (select from marketing_slot where delivery_id = the_delivery) then
    return true;
  end if;
  perform pg_advisory_xact_lock(hashtextextended(the_lead::text, 19));
  if (select count(*) from marketing_slot where lead_id = the_lead and day = today) >= most then
    return false;
  end if;
  insert into marketing_slot (delivery_id, lead_id, day) values (the_delivery, the_lead, today) on conflict do nothing;
  return true;
end $$;
`;
