import { Migration } from '@mikro-orm/migrations';

/** White space as ECMAScript has it (ECMA-262, WhiteSpace and LineTerminator): what the core's `plain` takes together. */
const SPACE = '\\t\\n\\x0b\\f\\r \\u00a0\\u1680\\u2000-\\u200a\\u2028\\u2029\\u202f\\u205f\\u3000\\ufeff';

export class Migration20261126010000_choosing extends Migration {
  override async up(): Promise<void> {
    // As core/condition/evaluate.ts compares texts. Plain ASCII, nearly everything, goes the short way. Not in SQL: such a function
    // is put in place of its call, and reads its field out of the JSON once for every time it is named.
    this.addSql(`create function "plain_text"("t" text) returns text language plpgsql immutable parallel safe as $$
      declare s text := btrim(t, E' \\t\\n\\x0b\\f\\r');
      begin
        if octet_length(s) = length(s) and s !~ '[\\t\\n\\x0b\\f\\r]|  ' then
          return lower(s collate "C");
        end if;
        return lower(btrim(regexp_replace(normalize(s, NFC), '[${SPACE}]+', ' ', 'g'), ' ') collate "und-x-icu");
      end $$;`);
    this.addSql(
      `create table "bulk_work" ("id" uuid not null, "business_id" uuid not null, "choice" jsonb not null, "action" jsonb not null, "state" text check ("state" in ('running', 'done', 'stopped', 'refused')) not null, "total" int not null, "done" int not null default 0, "changed" int not null default 0, "problem" text not null default '', "last_lead" uuid null, "due_at" timestamptz not null, "lease_by" text null, "started_by_id" uuid null, "created_at" timestamptz not null, "finished_at" timestamptz null, constraint "bulk_work_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "bulk_work_business" on "bulk_work" ("business_id", "created_at");`);
    this.addSql(`create index "bulk_work_to_do" on "bulk_work" ("due_at") where "state" = 'running';`);
    this.addSql(
      `alter table "bulk_work" add constraint "bulk_work_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "bulk_work" add constraint "bulk_work_started_by_id_foreign" foreign key ("started_by_id") references "person" ("id") on update cascade on delete set null;`,
    );
    this.addSql(
      `alter table "lead_import" add column "list_id" uuid null, add column "proven" boolean not null default false;`,
    );
    this.addSql(`create index "list_member_joined" on "list_member" ("list_id", "joined_at");`);
  }
}
