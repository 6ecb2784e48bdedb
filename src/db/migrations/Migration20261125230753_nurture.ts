import { Migration } from '@mikro-orm/migrations';

export class Migration20261125230753_nurture extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "lead_merge" ("id" uuid not null, "business_id" uuid not null, "kept_id" uuid not null, "gone" jsonb not null, "before" jsonb not null, "moved" jsonb not null, "at" timestamptz not null, "person_id" uuid null, "undone_at" timestamptz null, constraint "lead_merge_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "lead_merge_kept" on "lead_merge" ("kept_id");`);

    this.addSql(
      `create table "erasure" ("id" uuid not null, "business_id" uuid not null, "hashes" jsonb not null, "consents" jsonb not null, "at" timestamptz not null, "person_id" uuid null, constraint "erasure_pkey" primary key ("id"));`,
    );

    this.addSql(
      `create table "segment" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "condition" jsonb not null, "created_at" timestamptz not null, constraint "segment_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "segment" add constraint "segment_name" unique ("business_id", "name");`);

    this.addSql(
      `alter table "lead_merge" add constraint "lead_merge_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "lead_merge" add constraint "lead_merge_kept_id_foreign" foreign key ("kept_id") references "lead" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "lead_merge" add constraint "lead_merge_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "erasure" add constraint "erasure_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "erasure" add constraint "erasure_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "segment" add constraint "segment_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(`alter table "mailing" drop constraint if exists "mailing_state_check";`);

    this.addSql(`alter table "membership" add column "calendar_key" varchar(255) null;`);
    this.addSql(`alter table "membership" add constraint "membership_calendar_key_unique" unique ("calendar_key");`);

    this.addSql(
      `alter table "mailing" add column "name" text not null default '', add column "spread_minutes" int not null default 0, add column "subject_b" text not null default '', add column "part" int not null default 0, add column "decide_after" int not null default 0, add column "decide_at" timestamptz null, add column "winner" text check ("winner" in ('a', 'b', 'none')) null;`,
    );
    this.addSql(
      `alter table "mailing" add constraint "mailing_state_check" check("state" in ('draft', 'planning', 'trying', 'sending', 'stopped'));`,
    );

    this.addSql(`alter table "calendar_entry" add column "uid" text null;`);

    this.addSql(
      `alter table "nurture_list" add column "opt_in" text check ("opt_in" in ('single', 'double')) not null default 'single', add column "confirm_subject" text not null default '', add column "confirm_message" text not null default '', add column "fields" jsonb not null default '[]', add column "source_id" uuid null;`,
    );
    this.addSql(
      `alter table "nurture_list" add constraint "nurture_list_source_id_foreign" foreign key ("source_id") references "source" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "list_member" add column "fields" jsonb not null default '{}', add column "asked_at" timestamptz null, add column "confirmed_at" timestamptz null;`,
    );

    this.addSql(`alter table "deal" add column "next_step" text not null default '';`);

    this.addSql(`alter table "delivery" add column "variant" text check ("variant" in ('a', 'b')) null;`);
  }

  override async down(): Promise<void> {
    this.addSql(`drop table if exists "lead_merge" cascade;`);

    this.addSql(`drop table if exists "erasure" cascade;`);

    this.addSql(`drop table if exists "segment" cascade;`);

    this.addSql(`alter table "mailing" drop constraint if exists "mailing_state_check";`);

    this.addSql(`alter table "nurture_list" drop constraint "nurture_list_source_id_foreign";`);

    this.addSql(`alter table "calendar_entry" drop column "uid";`);

    this.addSql(`alter table "deal" drop column "next_step";`);

    this.addSql(`alter table "delivery" drop column "variant";`);

    this.addSql(`alter table "list_member" drop column "fields", drop column "asked_at", drop column "confirmed_at";`);

    this.addSql(
      `alter table "mailing" drop column "name", drop column "spread_minutes", drop column "subject_b", drop column "part", drop column "decide_after", drop column "decide_at", drop column "winner";`,
    );

    this.addSql(
      `alter table "mailing" add constraint "mailing_state_check" check("state" in ('planning', 'sending', 'stopped'));`,
    );

    this.addSql(`alter table "membership" drop constraint "membership_calendar_key_unique";`);
    this.addSql(`alter table "membership" drop column "calendar_key";`);

    this.addSql(
      `alter table "nurture_list" drop column "opt_in", drop column "confirm_subject", drop column "confirm_message", drop column "fields", drop column "source_id";`,
    );
  }
}
