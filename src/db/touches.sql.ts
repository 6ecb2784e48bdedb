/**
 * Contacts that are no arrivals (decision 60): a link of ours in a message that a person followed, once for each message; and visits of the business's own
 * pages, once it shows whose they are, because an entry carries the visitor's random name. Whatever writes a visit or a touch, the other comes by itself.
 */
export const TOUCHES_SQL = `
create or replace function touch_of_followed_link() returns trigger language plpgsql as $$
begin
  insert into touch (id, business_id, lead_id, at, where_from, via_id)
  select gen_random_uuid(), new.business_id, new.lead_id, new.at,
    jsonb_strip_nulls(jsonb_build_object('utm_source', 'own messages', 'utm_medium', d.channel, 'utm_campaign', left(coalesce(w.name, nullif(m.name, '')), 200),
      'landing_page', left(t.url, 500))), new.delivery_id
  from delivery d left join run r on r.id = d.run_id left join workflow w on w.id = r.workflow_id left join mailing m on m.id = d.mailing_id
    left join tracked_link t on t.token = new.token where d.id = new.delivery_id
  on conflict do nothing;
  return null;
end $$;
create or replace trigger visit_touch after insert on visit for each row when (new.kind = 'link' and not new.machine) execute function touch_of_followed_link();
create or replace function touches_of_visitor() returns trigger language plpgsql as $$
begin
  insert into touch (id, business_id, lead_id, at, where_from, via_id)
  select gen_random_uuid(), v.business_id, new.lead_id, v.at, v.where_from, v.id from site_visit v
  where v.business_id = new.business_id and v.visitor = new.where_from ->> 'visitor'
  on conflict do nothing;
  return null;
end $$;
create or replace trigger touch_visits after insert on touch for each row when (new.where_from ? 'visitor') execute function touches_of_visitor();
create or replace function touch_of_known_visitor() returns trigger language plpgsql as $$
begin
  insert into touch (id, business_id, lead_id, at, where_from, via_id)
  select gen_random_uuid(), new.business_id, t.lead_id, new.at, new.where_from, new.id from touch t
  where t.business_id = new.business_id and t.where_from ->> 'visitor' = new.visitor order by t.at desc limit 1
  on conflict do nothing;
  return null;
end $$;
create or replace trigger site_visit_touch after insert on site_visit for each row execute function touch_of_known_visitor();
`;
