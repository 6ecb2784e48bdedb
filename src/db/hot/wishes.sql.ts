import { BY_INDEX } from './by-index.ts';

/**
 * What has to be asked anew before a message leaves.
 *
 * consents_of(lead, purpose): what a person has agreed to or not, by channel: of what was said about this purpose or about all, the
 * newest counts. Index consent_lead.
 *
 * take_marketing_slot(delivery, lead, business): whether this message is among as many marketing messages as one person may have
 * today, by the business's clock. Asked again for the same message it says the same; two asked at once are asked one after
 * the other. Index marketing_slot_day.
 */
export const WISHES_SQL = `
create or replace function consents_of(the_lead uuid, the_purpose text) returns jsonb language sql stable as $$
  select coalesce(jsonb_object_agg(channel, state), '{}') from (
    select distinct on (channel) channel, state from consent where lead_id = the_lead and coalesce(purpose, the_purpose) = the_purpose
    order by channel, at desc, id desc) newest
$$;
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
