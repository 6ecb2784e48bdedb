/**
 * The trail of who changed what, chained: each note carries the SHA-256 of the one before it together with its own words, so that one that is changed, taken
 * out or put in between shows. Notes are written freely and chained a moment later, in one place, or whoever writes would wait for whoever writes.
 *
 * The words of a note may go when somebody is erased: what is chained is their hash, which stays. Kept for so many months, the oldest go, and the chain begins
 * with the seal of the last one that went.
 */
export const AUDIT_CHAIN_SQL = `
create or replace function audit_hash() returns trigger language plpgsql as $body$
begin
  new.detail_hash := encode(sha256(convert_to(new.detail::text, 'UTF8')), 'hex');
  new.no := null;
  new.seal := null;
  return new;
end $body$;
create or replace trigger audit_hash before insert on audit for each row execute function audit_hash();

create or replace function audit_kept() returns trigger language plpgsql as $body$
begin
  if tg_op = 'DELETE' then
    if coalesce(current_setting('pinebell.audit', true), '') <> 'retire' then
      raise exception 'notes of who changed what are not taken out';
    end if;
    return old;
  end if;
  if (new.id, new.business_id, new.person_id, new.at, new.action, new.subject, new.detail_hash)
       is distinct from (old.id, old.business_id, old.person_id, old.at, old.action, old.subject, old.detail_hash)
     or new.detail is distinct from old.detail and new.detail <> '{}'
     or old.seal is not null and (new.no, new.seal) is distinct from (old.no, old.seal) then
    raise exception 'notes of who changed what are not changed';
  end if;
  return new;
end $body$;
create or replace trigger audit_kept before update or delete on audit for each row execute function audit_kept();

create or replace function audit_seal(before text, no bigint, a audit) returns text language sql immutable as $body$
  select encode(sha256(convert_to(concat_ws(E'\\n', before, no, a.id, coalesce(a.person_id::text, ''), to_char(a.at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US'),
    a.action, a.subject, a.detail_hash), 'UTF8')), 'hex')
$body$;

create or replace function seal_audit() returns integer language plpgsql as $body$
declare
  b uuid;
  last audit_chain;
  a audit;
  sealed integer := 0;
begin
  for b in select distinct business_id from audit where seal is null loop
    insert into audit_chain (business_id) values (b) on conflict do nothing;
    select * into last from audit_chain where business_id = b for update;
    for a in select * from audit where business_id = b and seal is null order by at, id limit 10000 loop
      last.seal := audit_seal(last.seal, last.no + 1, a);
      last.no := last.no + 1;
      update audit set no = last.no, seal = last.seal where id = a.id;
      sealed := sealed + 1;
    end loop;
    update audit_chain set no = last.no, seal = last.seal where business_id = b;
  end loop;
  return sealed;
end $body$;

create or replace function retire_audit() returns integer language plpgsql as $body$
declare
  b record;
  last audit;
  gone integer := 0;
begin
  perform set_config('pinebell.audit', 'retire', true);
  for b in select id, keeps_notes_months as months from business where keeps_notes_months is not null loop
    select * into last from audit where business_id = b.id and seal is not null and at < now() - b.months * interval '1 month' order by no desc limit 1;
    if found then
      update audit_chain set from_no = last.no, from_seal = last.seal where business_id = b.id;
      with taken as (delete from audit where business_id = b.id and no <= last.no returning 1) select gone + count(*) into gone from taken;
    end if;
  end loop;
  perform set_config('pinebell.audit', '', true);
  return gone;
end $body$;

create or replace function audit_broken(business uuid) returns bigint language sql stable as $body$
  with chain as (select from_no, from_seal, no, seal from audit_chain where business_id = business),
  kept as (select a.no, a.seal, lag(a.no, 1, c.from_no) over w as no_before,
      audit_seal(lag(a.seal, 1, c.from_seal) over w, a.no, a) as seal_due,
      a.detail <> '{}' and a.detail_hash <> encode(sha256(convert_to(a.detail::text, 'UTF8')), 'hex') as other_words
    from audit a, chain c where a.business_id = business and a.seal is not null window w as (order by a.no))
  select min(no) from (
    select no from kept where no <> no_before + 1 or seal <> seal_due or other_words
    union all select c.no from chain c where c.no <> coalesce((select max(no) from kept), c.from_no)
      or c.seal <> coalesce((select k.seal from kept k order by k.no desc limit 1), c.from_seal)
    union all select 0 where not exists (select from chain) and exists (select from audit a where a.business_id = business and a.seal is not null)) broken
$body$;
`;
