import { Migration } from '@mikro-orm/migrations';

export class Migration20261125042153_sources extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "sheet" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "created_at" timestamptz not null, constraint "sheet_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "sheet_business" on "sheet" ("business_id");`);

    this.addSql(
      `create table "sheet_tab" ("id" uuid not null, "sheet_id" uuid not null, "name" varchar(255) not null, "position" int not null, "columns" jsonb not null, "revision" int not null default 0, "created_at" timestamptz not null, constraint "sheet_tab_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "sheet_tab_sheet" on "sheet_tab" ("sheet_id", "position");`);

    this.addSql(
      `create table "sheet_row" ("id" uuid not null, "tab_id" uuid not null, "position" double precision not null, "cells" jsonb not null, "revision" int not null, "updated_at" timestamptz not null, constraint "sheet_row_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "sheet_row_position" on "sheet_row" ("tab_id", "position");`);
    this.addSql(`create index "sheet_row_revision" on "sheet_row" ("tab_id", "revision");`);

    this.addSql(
      `create table "pull" ("source_id" uuid not null, "cursor" jsonb null, "every_minutes" int not null, "next_at" timestamptz not null, "claimed_by" text null, "claimed_until" timestamptz null, "last_ok_at" timestamptz null, "failures" int not null default 0, "trouble_since" timestamptz null, "problem" text null, "backlog" jsonb null, "unfetched" jsonb null, constraint "pull_pkey" primary key ("source_id"));`,
    );
    this.addSql(`create index "pull_next" on "pull" ("next_at");`);

    this.addSql(
      `create table "stored_file" ("id" uuid not null, "business_id" uuid not null, "source_id" uuid not null, "name" text not null, "bytes" bytea not null, "size" int not null, "received_at" timestamptz not null, "state" text check ("state" in ('new', 'read', 'refused')) not null, "problem" text null, "rows" int not null default 0, "fresh" int not null default 0, constraint "stored_file_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "stored_file_source" on "stored_file" ("source_id", "received_at");`);

    this.addSql(
      `alter table "sheet" add constraint "sheet_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "sheet_tab" add constraint "sheet_tab_sheet_id_foreign" foreign key ("sheet_id") references "sheet" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "sheet_row" add constraint "sheet_row_tab_id_foreign" foreign key ("tab_id") references "sheet_tab" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "pull" add constraint "pull_source_id_foreign" foreign key ("source_id") references "source" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "stored_file" add constraint "stored_file_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "stored_file" add constraint "stored_file_source_id_foreign" foreign key ("source_id") references "source" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(`alter table "connection" drop constraint if exists "connection_kind_check";`);

    this.addSql(`alter table "lead_identity" drop constraint if exists "lead_identity_kind_check";`);

    this.addSql(`alter table "needs_you" drop constraint if exists "needs_you_kind_check";`);

    this.addSql(`alter table "arrival" drop constraint if exists "arrival_state_check";`);

    this.addSql(
      `alter table "connection" add constraint "connection_kind_check" check("kind" in ('text_carrier', 'mail_server', 'ad_platform', 'funnel_host', 'shop', 'booking_calendar'));`,
    );

    this.addSql(`alter table "lead" add column "is_person" boolean not null default true;`);

    this.addSql(
      `alter table "lead_identity" add constraint "lead_identity_kind_check" check("kind" in ('email', 'phone', 'source'));`,
    );

    this.addSql(
      `alter table "needs_you" add constraint "needs_you_kind_check" check("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost', 'source_trouble', 'entries_expiring'));`,
    );

    this.addSql(`alter table "source" add column "most_per_minute" int not null default 600;`);

    this.addSql(
      `alter table "arrival" add constraint "arrival_state_check" check("state" in ('read', 'refused', 'held', 'aside'));`,
    );

    this.addSql(
      `alter table "consent" add column "version" text not null default '', add column "address" text not null default '';`,
    );
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "sheet_tab" drop constraint "sheet_tab_sheet_id_foreign";`);

    this.addSql(`alter table "sheet_row" drop constraint "sheet_row_tab_id_foreign";`);

    this.addSql(`drop table if exists "sheet" cascade;`);

    this.addSql(`drop table if exists "sheet_tab" cascade;`);

    this.addSql(`drop table if exists "sheet_row" cascade;`);

    this.addSql(`drop table if exists "pull" cascade;`);

    this.addSql(`drop table if exists "stored_file" cascade;`);

    this.addSql(`alter table "arrival" drop constraint if exists "arrival_state_check";`);

    this.addSql(`alter table "connection" drop constraint if exists "connection_kind_check";`);

    this.addSql(`alter table "lead_identity" drop constraint if exists "lead_identity_kind_check";`);

    this.addSql(`alter table "needs_you" drop constraint if exists "needs_you_kind_check";`);

    this.addSql(
      `alter table "arrival" add constraint "arrival_state_check" check("state" in ('read', 'refused', 'held'));`,
    );

    this.addSql(
      `alter table "connection" add constraint "connection_kind_check" check("kind" in ('text_carrier', 'mail_server', 'ad_platform'));`,
    );

    this.addSql(`alter table "consent" drop column "version", drop column "address";`);

    this.addSql(`alter table "lead" drop column "is_person";`);

    this.addSql(
      `alter table "lead_identity" add constraint "lead_identity_kind_check" check("kind" in ('email', 'phone'));`,
    );

    this.addSql(
      `alter table "needs_you" add constraint "needs_you_kind_check" check("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost'));`,
    );

    this.addSql(`alter table "source" drop column "most_per_minute";`);
  }
}
