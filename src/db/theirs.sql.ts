/**
 * leads_of(business, person): whose leads somebody works with, as is_theirs takes it; asked of members only.
 *
 * is_theirs(business, lead, looked_after_by, people): whether a lead is one of those people's: they look after it, are to answer it, have taken it over, or have
 * an open task about it. True for all where no people are named.
 *
 * beyond(business, ids, people): those of the ids that name something about a lead of somebody else's. Nothing where no people are named.
 */
export const THEIRS_SQL = `
create or replace function leads_of(business uuid, person uuid) returns uuid[] language sql stable as $body$
  select case when m.role <> 'desk' or m.whose_leads = 'all' then null
      when m.whose_leads = 'own' then array[m.person_id]
      else array(select m.person_id union select o.person_id from team_member mine join team_member t using (team_id)
        join membership o on o.id = t.membership_id where mine.membership_id = m.id) end
    from membership m where m.business_id = business and m.person_id = person
$body$;
create or replace function is_theirs(business uuid, lead uuid, looked_after_by uuid, people uuid[]) returns boolean language sql stable as $body$
  select people is null or coalesce(looked_after_by = any(people), false)
    or exists (select from conversation c where c.lead_id = lead and c.business_id = business and (c.assignee_id = any(people) or c.taken_by_id = any(people)))
    or exists (select from task t where t.lead_id = lead and t.business_id = business and t.colleague_id = any(people) and t.done_at is null)
$body$;

create or replace function beyond(business uuid, ids uuid[], people uuid[]) returns setof uuid language sql stable as $body$
  select l.id from lead l where people is not null and l.id = any(ids) and l.business_id = business and not is_theirs(business, l.id, l.owner_id, people)
  union all select c.id from conversation c left join lead l on l.id = c.lead_id
    where people is not null and c.id = any(ids) and c.business_id = business and not coalesce(c.assignee_id = any(people), false)
      and not coalesce(c.taken_by_id = any(people), false) and (l.id is null or not is_theirs(business, l.id, l.owner_id, people))
  union all select d.id from deal d join lead l on l.id = d.lead_id
    where people is not null and d.id = any(ids) and d.business_id = business and not is_theirs(business, l.id, l.owner_id, people)
  union all select t.id from task t join lead l on l.id = t.lead_id
    where people is not null and t.id = any(ids) and t.business_id = business and not coalesce(t.colleague_id = any(people), false)
      and not is_theirs(business, l.id, l.owner_id, people)
  union all select e.id from calendar_entry e where people is not null and e.id = any(ids) and e.business_id = business and not e.colleague_id = any(people)
  union all select d.id from delivery d join lead l on l.id = d.lead_id
    where people is not null and d.id = any(ids) and d.business_id = business and not is_theirs(business, l.id, l.owner_id, people)
$body$;
`;
