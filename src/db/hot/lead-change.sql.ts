import type { Db } from '../db.ts';

/** Who or what changes a person's fields. */
export type ChangedBy =
  | { kind: 'person'; id: string }
  | { kind: 'arrival'; id: string }
  /** `at` where it is told afterwards, ISO 8601. */
  | { kind: 'step'; runId: string; stepId: string; at?: string }
  /** What they wrote or filled in themselves. */
  | { kind: 'inbound'; id: string }
  | { kind: 'chat' };

/**
 * Every change of a name, an address or a number is written down by the database itself, so that no way of changing them can leave it
 * out. Who did it stands in the setting pinebell.by of the transaction: one for all, or by lead under `leads`.
 */
export const LEAD_CHANGE_SQL = `
create or replace function note_lead_change() returns trigger language plpgsql as $$
declare
  said jsonb := coalesce(nullif(current_setting('pinebell.by', true), ''), '{}')::jsonb;
begin
  said := coalesce(said -> 'leads' -> new.id::text, said - 'leads');
  insert into lead_change (id, business_id, lead_id, field, was, became, by, at)
  select gen_random_uuid(), new.business_id, new.id, f.field, f.was, f.became, said, coalesce((said ->> 'at')::timestamptz, now())
  from (values ('first_name', old.first_name, new.first_name), ('last_name', old.last_name, new.last_name),
    ('email', old.email, new.email), ('phone', old.phone, new.phone)) f(field, was, became) where f.was <> f.became;
  return null;
end $$;
create or replace trigger lead_changed after update of first_name, last_name, email, phone on lead for each row
  when (old.first_name <> new.first_name or old.last_name <> new.last_name or old.email <> new.email or old.phone <> new.phone)
  execute function note_lead_change();
`;

/** Says for the transaction of `client` who changes a person's fields from here on. */
export const changedBy = (client: Db, by: ChangedBy): Promise<unknown> =>
  client.query(`select set_config('pinebell.by', $1, true)`, [JSON.stringify(by)]);
