/** After what of each table somebody's results are reckoned anew, of rows that name their lead. */
const MARKED: { table: string; after: string }[] = [
  { table: 'arrival', after: 'update of lead_id, fields, state' },
  { table: 'touch', after: 'update of lead_id or delete' },
  { table: 'inbound', after: 'insert or update of lead_id' },
  { table: 'list_member', after: 'insert or update of lead_id or delete' },
  { table: 'deal', after: 'insert or update of lead_id, stage_id, value, closed_at or delete' },
  { table: 'deal_move', after: 'insert or update of lead_id' },
  { table: 'noted_outcome', after: 'insert or update or delete' },
];

/** What happens with a lead within a second (it comes in, is answered, its answer arrives) is reckoned once. */
const SOON = `now() + interval '1 second'`;

/**
 * What changes what has come of a lead puts them into \`result_due\`, whatever does it: nothing that changes them has to think of results. On the way a lead
 * comes in it costs one row for each arrival, and one for the first message to them.
 */
export const RESULTS_SQL = `
create or replace function mark_results_of_new() returns trigger language plpgsql as $$
begin
  insert into result_due (lead_id, due_at) select lead_id, ${SOON} from fresh where lead_id is not null;
  return null;
end $$;
create or replace trigger arrival_results_new after insert on arrival referencing new table as fresh for each statement execute function mark_results_of_new();
create or replace function mark_results() returns trigger language plpgsql as $$
begin
  if tg_op <> 'INSERT' and old.lead_id is not null then insert into result_due (lead_id, due_at) values (old.lead_id, ${SOON}); end if;
  if tg_op <> 'DELETE' and new.lead_id is not null and (tg_op = 'INSERT' or new.lead_id is distinct from old.lead_id) then
    insert into result_due (lead_id, due_at) values (new.lead_id, ${SOON});
  end if;
  return null;
end $$;
${MARKED.map(
  ({ table, after }) =>
    `create or replace trigger ${table}_results after ${after} on ${table} for each row execute function mark_results();`,
).join('\n')}
-- One that came with an arrival is marked by that.
create or replace trigger touch_results_new after insert on touch for each row when (new.arrival_id is null) execute function mark_results();
create or replace function mark_results_of_answered() returns trigger language plpgsql as $$
begin
  insert into result_due (lead_id, due_at) select new.lead_id, ${SOON} where not exists (select from lead_result r where r.lead_id = new.lead_id and r.answered_at is not null);
  return null;
end $$;
-- Of many at once it is no first reply.
create or replace trigger delivery_results_new after insert on delivery for each row
  when (new.accepted_at is not null and new.audience = 'lead' and new.lead_id is not null and new.mailing_id is null) execute function mark_results_of_answered();
create or replace trigger delivery_results after update of accepted_at on delivery for each row
  when (old.accepted_at is null and new.accepted_at is not null and new.audience = 'lead' and new.lead_id is not null and new.mailing_id is null)
  execute function mark_results_of_answered();
create or replace function mark_results_of_lead() returns trigger language plpgsql as $$
begin
  insert into result_due (lead_id, due_at) values (old.id, ${SOON});
  return null;
end $$;
create or replace trigger lead_results after update of is_person, created_at or delete on lead for each row execute function mark_results_of_lead();
create or replace function mark_results_of_business() returns trigger language plpgsql as $$
begin
  insert into result_due (lead_id) select id from lead where business_id = new.id and is_person;
  return null;
end $$;
create or replace trigger business_results after update of time_zone, country on business for each row
  when (old.time_zone <> new.time_zone or old.country <> new.country) execute function mark_results_of_business();
create or replace function mark_results_of_rate() returns trigger language plpgsql as $$
begin
  insert into result_due (lead_id) select distinct r.lead_id from result_credit c join lead_result r on r.id = c.result_id
  where c.business_id = coalesce(new.business_id, old.business_id) and c.currency <> '' and r.lead_id is not null;
  return null;
end $$;
create or replace trigger currency_rate_results after insert or update or delete on currency_rate for each row execute function mark_results_of_rate();
`;
