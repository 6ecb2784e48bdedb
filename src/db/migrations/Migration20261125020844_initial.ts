/* More than 300 lines: the tables as they began, written by the object mapper. */
import { Migration } from '@mikro-orm/migrations';

export class Migration20261125020844_initial extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "business" ("id" uuid not null, "name" varchar(255) not null, "country" varchar(2) not null, "locale" varchar(255) not null, "time_zone" varchar(255) not null, "created_at" timestamptz not null, constraint "business_pkey" primary key ("id"));`,
    );

    this.addSql(
      `create table "connection" ("id" uuid not null, "business_id" uuid not null, "kind" text check ("kind" in ('text_carrier', 'mail_server', 'ad_platform')) not null, "name" varchar(255) not null, "settings" jsonb not null, "secret" text null, "report_key" varchar(255) not null, "report_secret" text not null, "created_at" timestamptz not null, constraint "connection_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "connection" add constraint "connection_report_key_unique" unique ("report_key");`);
    this.addSql(`create index "connection_business" on "connection" ("business_id", "kind");`);

    this.addSql(
      `create table "lead" ("id" uuid not null, "business_id" uuid not null, "first_name" text not null, "last_name" text not null, "email" text not null, "phone" text not null, "answers" jsonb not null, "created_at" timestamptz not null, "last_arrival_at" timestamptz not null, constraint "lead_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "lead_business_at" on "lead" ("business_id", "last_arrival_at");`);
    this.addSql(`create index "lead_created" on "lead" ("business_id", "created_at");`);

    this.addSql(
      `create table "inbound" ("id" uuid not null, "business_id" uuid not null, "connection_id" uuid not null, "remote_id" text not null, "channel" text check ("channel" in ('text')) not null, "sender" text not null, "lead_id" uuid null, "text" text not null, "received_at" timestamptz not null, constraint "inbound_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "inbound_lead" on "inbound" ("lead_id", "received_at");`);
    this.addSql(`alter table "inbound" add constraint "inbound_remote" unique ("connection_id", "remote_id");`);

    this.addSql(
      `create table "lead_identity" ("business_id" uuid not null, "kind" text check ("kind" in ('email', 'phone')) not null, "value" text not null, "lead_id" uuid not null, constraint "lead_identity_pkey" primary key ("business_id", "kind", "value"));`,
    );
    this.addSql(`create index "lead_identity_lead" on "lead_identity" ("lead_id");`);

    this.addSql(
      `create table "person" ("id" uuid not null, "email" varchar(255) not null, "name" varchar(255) not null, "password_hash" text not null, "created_at" timestamptz not null, constraint "person_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "person" add constraint "person_email_unique" unique ("email");`);

    this.addSql(
      `create table "needs_you" ("id" uuid not null, "business_id" uuid not null, "kind" text check ("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost')) not null, "subject" text not null, "title" text not null, "detail" text not null, "run_id" uuid null, "step_id" varchar(255) null, "lead_id" uuid null, "arrival_id" uuid null, "source_id" uuid null, "created_at" timestamptz not null, "settled_at" timestamptz null, "settled_by_id" uuid null, constraint "needs_you_pkey" primary key ("id"));`,
    );
    this.addSql(
      `create index "needs_you_open" on "needs_you" ("business_id", "created_at") where "settled_at" is null;`,
    );
    this.addSql(`alter table "needs_you" add constraint "needs_you_subject" unique ("business_id", "subject");`);

    this.addSql(
      `create table "membership" ("id" uuid not null, "business_id" uuid not null, "person_id" uuid not null, "role" text check ("role" in ('owner', 'coordinator', 'viewer')) not null, "test_email" varchar(255) not null default '', "test_phone" varchar(255) not null default '', constraint "membership_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "membership" add constraint "membership_one" unique ("business_id", "person_id");`);

    this.addSql(
      `create table "audit" ("id" uuid not null, "business_id" uuid not null, "person_id" uuid null, "at" timestamptz not null, "action" varchar(255) not null, "subject" varchar(255) not null, "detail" jsonb not null, constraint "audit_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "audit_business_at" on "audit" ("business_id", "at");`);

    this.addSql(
      `create table "session" ("id" varchar(255) not null, "person_id" uuid not null, "business_id" uuid not null, "created_at" timestamptz not null, "expires_at" timestamptz not null, constraint "session_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "session_expires" on "session" ("expires_at");`);

    this.addSql(
      `create table "sign_in_failure" ("id" uuid not null, "key" varchar(255) not null, "at" timestamptz not null, constraint "sign_in_failure_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "sign_in_failure_key_at" on "sign_in_failure" ("key", "at");`);

    this.addSql(
      `create table "source" ("id" uuid not null, "business_id" uuid not null, "kind" varchar(255) not null, "name" varchar(255) not null, "key" varchar(255) not null, "settings" jsonb not null, "card" jsonb not null, "card_confirmed" boolean not null default false, "secret" text null, "state" text check ("state" in ('waiting', 'live', 'paused')) not null, "created_at" timestamptz not null, constraint "source_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "source" add constraint "source_key_unique" unique ("key");`);
    this.addSql(`create index "source_business" on "source" ("business_id");`);

    this.addSql(
      `create table "arrival" ("id" uuid not null, "business_id" uuid not null, "source_id" uuid not null, "external_id" text null, "received_at" timestamptz not null, "headers" jsonb not null, "body" bytea not null, "fields" jsonb not null, "where_from" jsonb not null, "state" text check ("state" in ('read', 'refused', 'held')) not null, "problem" text null, "lead_id" uuid null, "repeats" int not null default 0, constraint "arrival_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "arrival_source_at" on "arrival" ("source_id", "received_at");`);
    this.addSql(`create index "arrival_business_at" on "arrival" ("business_id", "received_at");`);
    this.addSql(`create index "arrival_lead" on "arrival" ("lead_id");`);
    this.addSql(
      `create unique index "arrival_external" on "arrival" ("source_id", "external_id") where "external_id" is not null;`,
    );

    this.addSql(
      `create table "consent" ("id" uuid not null, "business_id" uuid not null, "lead_id" uuid not null, "channel" text check ("channel" in ('text', 'email')) not null, "state" text check ("state" in ('given', 'withdrawn')) not null, "wording" text not null, "how" text not null, "arrival_id" uuid null, "at" timestamptz not null, constraint "consent_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "consent_lead" on "consent" ("lead_id", "channel", "at");`);

    this.addSql(
      `create table "touch" ("id" uuid not null, "business_id" uuid not null, "lead_id" uuid not null, "arrival_id" uuid not null, "at" timestamptz not null, "where_from" jsonb not null, constraint "touch_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "touch_lead" on "touch" ("lead_id", "at");`);

    this.addSql(
      `create table "workflow" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "folder" varchar(255) not null default '', "state" text check ("state" in ('draft', 'live', 'paused')) not null, "draft" jsonb not null, "revision" int not null default 0, "tried_revision" int not null default -1, "sample_arrival_id" uuid null, "live_version_id" uuid null, "live_revision" int null, "created_at" timestamptz not null, "updated_at" timestamptz not null, constraint "workflow_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "workflow_business" on "workflow" ("business_id");`);

    this.addSql(
      `create table "workflow_version" ("id" uuid not null, "business_id" uuid not null, "workflow_id" uuid not null, "number" int not null, "definition" jsonb not null, "put_live_by_id" uuid null, "put_live_at" timestamptz not null, constraint "workflow_version_pkey" primary key ("id"));`,
    );
    this.addSql(
      `alter table "workflow_version" add constraint "workflow_version_number" unique ("workflow_id", "number");`,
    );

    this.addSql(
      `create table "run" ("id" uuid not null, "business_id" uuid not null, "workflow_id" uuid not null, "version_id" uuid not null, "source_id" uuid not null, "lead_id" uuid not null, "arrival_id" uuid not null, "state" text check ("state" in ('active', 'done', 'stopped', 'known', 'needs_you', 'handled')) not null, "outcome" text not null default '', "created_at" timestamptz not null, "finished_at" timestamptz null, "first_reply_at" timestamptz null, "due_at" timestamptz null, "lease_by" text null, "from_step" text null, "started_by_id" uuid null, constraint "run_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "run_workflow_at" on "run" ("workflow_id", "created_at");`);
    this.addSql(`create index "run_business_at" on "run" ("business_id", "created_at");`);
    this.addSql(`create index "run_lead" on "run" ("lead_id", "workflow_id");`);
    this.addSql(`create index "run_arrival" on "run" ("arrival_id");`);
    this.addSql(`create index "run_due" on "run" ("due_at") where "due_at" is not null;`);

    this.addSql(
      `create table "step_result" ("run_id" uuid not null, "step_id" varchar(255) not null, "business_id" uuid not null, "place" text check ("place" in ('first', 'lead', 'record', 'team')) not null, "state" text check ("state" in ('done', 'nothing', 'again', 'refused', 'ask', 'skipped')) not null, "plan" jsonb not null, "attempts" jsonb not null, "started_at" timestamptz not null, "finished_at" timestamptz null, "next_try_at" timestamptz null, constraint "step_result_pkey" primary key ("run_id", "step_id"));`,
    );

    this.addSql(
      `create table "delivery" ("id" uuid not null, "business_id" uuid not null, "run_id" uuid null, "step_id" varchar(255) not null, "item" int not null default 0, "lead_id" uuid null, "channel" text check ("channel" in ('text', 'email')) not null, "audience" text check ("audience" in ('lead', 'team', 'test')) not null, "recipient" text not null, "connection_id" uuid not null, "message" jsonb not null, "state" text check ("state" in ('sending', 'accepted', 'delivered', 'undelivered', 'refused')) not null, "remote_id" text null, "detail" text not null default '', "created_at" timestamptz not null, "accepted_at" timestamptz null, "reported_at" timestamptz null, constraint "delivery_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "delivery_lead" on "delivery" ("lead_id", "created_at");`);
    this.addSql(`create index "delivery_business_at" on "delivery" ("business_id", "created_at");`);
    this.addSql(`alter table "delivery" add constraint "delivery_step" unique ("run_id", "step_id", "item");`);

    this.addSql(
      `create table "listening" ("source_id" uuid not null, "workflow_id" uuid not null, "version_id" uuid not null, "same_person" text check ("same_person" in ('update_only', 'run_again')) not null, constraint "listening_pkey" primary key ("source_id", "workflow_id"));`,
    );

    this.addSql(
      `alter table "connection" add constraint "connection_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "inbound" add constraint "inbound_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "lead_identity" add constraint "lead_identity_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "needs_you" add constraint "needs_you_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "needs_you" add constraint "needs_you_settled_by_id_foreign" foreign key ("settled_by_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "membership" add constraint "membership_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "membership" add constraint "membership_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "audit" add constraint "audit_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "audit" add constraint "audit_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "session" add constraint "session_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "session" add constraint "session_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "source" add constraint "source_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "arrival" add constraint "arrival_source_id_foreign" foreign key ("source_id") references "source" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "arrival" add constraint "arrival_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "consent" add constraint "consent_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "touch" add constraint "touch_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "workflow" add constraint "workflow_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "workflow_version" add constraint "workflow_version_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "workflow_version" add constraint "workflow_version_workflow_id_foreign" foreign key ("workflow_id") references "workflow" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "workflow_version" add constraint "workflow_version_put_live_by_id_foreign" foreign key ("put_live_by_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "run" add constraint "run_version_id_foreign" foreign key ("version_id") references "workflow_version" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "run" add constraint "run_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "run" add constraint "run_arrival_id_foreign" foreign key ("arrival_id") references "arrival" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "run" add constraint "run_started_by_id_foreign" foreign key ("started_by_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "step_result" add constraint "step_result_run_id_foreign" foreign key ("run_id") references "run" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "delivery" add constraint "delivery_run_id_foreign" foreign key ("run_id") references "run" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "listening" add constraint "listening_source_id_foreign" foreign key ("source_id") references "source" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "listening" add constraint "listening_workflow_id_foreign" foreign key ("workflow_id") references "workflow" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "listening" add constraint "listening_version_id_foreign" foreign key ("version_id") references "workflow_version" ("id") on update cascade;`,
    );
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "connection" drop constraint "connection_business_id_foreign";`);

    this.addSql(`alter table "needs_you" drop constraint "needs_you_business_id_foreign";`);

    this.addSql(`alter table "membership" drop constraint "membership_business_id_foreign";`);

    this.addSql(`alter table "audit" drop constraint "audit_business_id_foreign";`);

    this.addSql(`alter table "session" drop constraint "session_business_id_foreign";`);

    this.addSql(`alter table "source" drop constraint "source_business_id_foreign";`);

    this.addSql(`alter table "workflow" drop constraint "workflow_business_id_foreign";`);

    this.addSql(`alter table "workflow_version" drop constraint "workflow_version_business_id_foreign";`);

    this.addSql(`alter table "inbound" drop constraint "inbound_lead_id_foreign";`);

    this.addSql(`alter table "lead_identity" drop constraint "lead_identity_lead_id_foreign";`);

    this.addSql(`alter table "arrival" drop constraint "arrival_lead_id_foreign";`);

    this.addSql(`alter table "consent" drop constraint "consent_lead_id_foreign";`);

    this.addSql(`alter table "touch" drop constraint "touch_lead_id_foreign";`);

    this.addSql(`alter table "run" drop constraint "run_lead_id_foreign";`);

    this.addSql(`alter table "needs_you" drop constraint "needs_you_settled_by_id_foreign";`);

    this.addSql(`alter table "membership" drop constraint "membership_person_id_foreign";`);

    this.addSql(`alter table "audit" drop constraint "audit_person_id_foreign";`);

    this.addSql(`alter table "session" drop constraint "session_person_id_foreign";`);

    this.addSql(`alter table "workflow_version" drop constraint "workflow_version_put_live_by_id_foreign";`);

    this.addSql(`alter table "run" drop constraint "run_started_by_id_foreign";`);

    this.addSql(`alter table "arrival" drop constraint "arrival_source_id_foreign";`);

    this.addSql(`alter table "listening" drop constraint "listening_source_id_foreign";`);

    this.addSql(`alter table "run" drop constraint "run_arrival_id_foreign";`);

    this.addSql(`alter table "workflow_version" drop constraint "workflow_version_workflow_id_foreign";`);

    this.addSql(`alter table "listening" drop constraint "listening_workflow_id_foreign";`);

    this.addSql(`alter table "run" drop constraint "run_version_id_foreign";`);

    this.addSql(`alter table "listening" drop constraint "listening_version_id_foreign";`);

    this.addSql(`alter table "step_result" drop constraint "step_result_run_id_foreign";`);

    this.addSql(`alter table "delivery" drop constraint "delivery_run_id_foreign";`);

    this.addSql(`drop table if exists "business" cascade;`);

    this.addSql(`drop table if exists "connection" cascade;`);

    this.addSql(`drop table if exists "lead" cascade;`);

    this.addSql(`drop table if exists "inbound" cascade;`);

    this.addSql(`drop table if exists "lead_identity" cascade;`);

    this.addSql(`drop table if exists "person" cascade;`);

    this.addSql(`drop table if exists "needs_you" cascade;`);

    this.addSql(`drop table if exists "membership" cascade;`);

    this.addSql(`drop table if exists "audit" cascade;`);

    this.addSql(`drop table if exists "session" cascade;`);

    this.addSql(`drop table if exists "sign_in_failure" cascade;`);

    this.addSql(`drop table if exists "source" cascade;`);

    this.addSql(`drop table if exists "arrival" cascade;`);

    this.addSql(`drop table if exists "consent" cascade;`);

    this.addSql(`drop table if exists "touch" cascade;`);

    this.addSql(`drop table if exists "workflow" cascade;`);

    this.addSql(`drop table if exists "workflow_version" cascade;`);

    this.addSql(`drop table if exists "run" cascade;`);

    this.addSql(`drop table if exists "step_result" cascade;`);

    this.addSql(`drop table if exists "delivery" cascade;`);

    this.addSql(`drop table if exists "listening" cascade;`);
  }
}
