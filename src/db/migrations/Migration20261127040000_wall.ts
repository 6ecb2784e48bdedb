import { Migration } from '@mikro-orm/migrations';

/** What points from one thing of a business to another of the same. */
const SAME_BUSINESS = [
  ['listening', 'source_id', 'source'],
  ['listening', 'workflow_id', 'workflow'],
  ['listening', 'version_id', 'workflow_version'],
  ['workflow_version', 'workflow_id', 'workflow'],
  ['stored_file', 'source_id', 'source'],
  ['nurture_list', 'source_id', 'source'],
  ['deal', 'pipeline_id', 'pipeline'],
  ['deal', 'lead_id', 'lead'],
  ['task', 'lead_id', 'lead'],
  ['calendar_entry', 'lead_id', 'lead'],
  ['lead_note', 'lead_id', 'lead'],
  ['lead_merge', 'kept_id', 'lead'],
  ['conversation', 'lead_id', 'lead'],
] as const;

/** The wall between businesses, where the database can hold it: nothing listens across it, and nothing is pointed at across it. */
export class Migration20261127040000_wall extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table "listening" add column "business_id" uuid null;`);
    this.addSql(
      `update "listening" l set "business_id" = s."business_id" from "source" s where s."id" = l."source_id";`,
    );
    this.addSql(
      `delete from "listening" l using "workflow" w where w."id" = l."workflow_id" and w."business_id" is distinct from l."business_id";`,
    );
    this.addSql(`alter table "listening" alter column "business_id" set not null;`);
    this.addSql(
      `alter table "listening" add constraint "listening_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    // What a foreign key over (business, id) would say, without another unique index on every table that is pointed at.
    this.addSql(`create or replace function same_business() returns trigger language plpgsql as $$
      declare
        whose uuid;
        pointed uuid := (to_jsonb(new) ->> tg_argv[0])::uuid;
      begin
        if pointed is not null then
          execute format('select business_id from %I where id = $1', tg_argv[1]) into whose using pointed;
          if whose is distinct from new.business_id then
            raise exception 'same_business: %.% of another business', tg_table_name, tg_argv[0] using errcode = 'foreign_key_violation';
          end if;
        end if;
        return new;
      end $$;`);
    for (const [table, column, parent] of SAME_BUSINESS)
      this.addSql(
        `create trigger "${table}_${column}_same_business" before insert or update of "business_id", "${column}" on "${table}" for each row execute function same_business('${column}', '${parent}');`,
      );
  }
}
