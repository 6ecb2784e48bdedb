import { Migration } from '@mikro-orm/migrations';

export class Migration20261125214420_conversing extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "email_template" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "created_at" timestamptz not null, constraint "email_template_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "email_template" add constraint "email_template_name" unique ("business_id", "name");`);

    this.addSql(
      `create table "kept_file" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "type" varchar(255) not null, "bytes" int not null, "content" bytea not null, "created_at" timestamptz not null, constraint "kept_file_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "kept_file_business" on "kept_file" ("business_id");`);

    this.addSql(
      `create table "nurture_list" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "created_at" timestamptz not null, constraint "nurture_list_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "nurture_list" add constraint "nurture_list_name" unique ("business_id", "name");`);

    this.addSql(
      `create table "list_member" ("list_id" uuid not null, "lead_id" uuid not null, "state" text check ("state" in ('waiting', 'active', 'unsubscribed', 'bounced', 'complained', 'cleaned')) not null, "how" text not null, "joined_at" timestamptz not null, "changed_at" timestamptz not null, "run_id" uuid null, constraint "list_member_pkey" primary key ("list_id", "lead_id"));`,
    );
    this.addSql(`create index "list_member_lead" on "list_member" ("lead_id");`);

    this.addSql(
      `create table "mailing" ("id" uuid not null, "business_id" uuid not null, "audience" jsonb not null, "email" jsonb not null, "state" text check ("state" in ('planning', 'sending', 'stopped')) not null, "last_lead" uuid null, "planned" int not null default 0, "left" int not null default 0, "planned_at" timestamptz not null, "created_at" timestamptz not null, "run_id" uuid null, "step_id" varchar(255) not null, "started_by_id" uuid null, "lease_by" text null, constraint "mailing_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "mailing_business" on "mailing" ("business_id", "created_at");`);
    this.addSql(`create index "mailing_to_plan" on "mailing" ("planned_at") where "state" = 'planning';`);

    this.addSql(
      `create table "email_template_version" ("id" uuid not null, "template_id" uuid not null, "number" int not null, "layout" jsonb not null, "html" text not null, "text" text not null, "created_at" timestamptz not null, "author_id" uuid null, constraint "email_template_version_pkey" primary key ("id"));`,
    );
    this.addSql(
      `alter table "email_template_version" add constraint "email_template_version_number" unique ("template_id", "number");`,
    );

    this.addSql(
      `create table "tracked_link" ("token" varchar(255) not null, "business_id" uuid not null, "delivery_id" uuid not null, "run_id" uuid null, "step_id" varchar(255) not null, "lead_id" uuid not null, "url" text null, constraint "tracked_link_pkey" primary key ("token"));`,
    );
    this.addSql(`create index "tracked_link_delivery" on "tracked_link" ("delivery_id");`);
    this.addSql(`create index "tracked_link_run" on "tracked_link" ("run_id");`);

    this.addSql(
      `create table "visit" ("id" uuid not null, "business_id" uuid not null, "token" varchar(255) not null, "delivery_id" uuid not null, "run_id" uuid null, "step_id" varchar(255) not null, "lead_id" uuid not null, "kind" text check ("kind" in ('link', 'opened')) not null, "machine" boolean not null, "agent" text not null, "at" timestamptz not null, constraint "visit_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "visit_lead" on "visit" ("lead_id", "at");`);
    this.addSql(`create index "visit_delivery" on "visit" ("delivery_id");`);
    this.addSql(`create index "visit_run" on "visit" ("run_id");`);

    this.addSql(
      `create table "turn_taken" ("run_id" uuid not null, "step_id" varchar(255) not null, "person_id" uuid not null, "at" timestamptz not null, constraint "turn_taken_pkey" primary key ("run_id", "step_id"));`,
    );

    this.addSql(
      `create table "asked_question" ("id" uuid not null, "business_id" uuid not null, "run_id" uuid not null, "step_id" varchar(255) not null, "lead_id" uuid not null, "channel" text check ("channel" in ('text', 'chat')) not null, "question" jsonb not null, "state" text check ("state" in ('open', 'answered', 'given_up', 'closed')) not null, "times" int not null, "answer" text null, "asked_at" timestamptz not null, "until" timestamptz not null, "settled_at" timestamptz null, constraint "asked_question_pkey" primary key ("id"));`,
    );
    this.addSql(
      `create index "asked_question_open" on "asked_question" ("lead_id", "asked_at") where "state" = 'open';`,
    );
    this.addSql(`create index "asked_question_run" on "asked_question" ("run_id", "step_id");`);

    this.addSql(
      `alter table "email_template" add constraint "email_template_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "kept_file" add constraint "kept_file_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "nurture_list" add constraint "nurture_list_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "list_member" add constraint "list_member_list_id_foreign" foreign key ("list_id") references "nurture_list" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "list_member" add constraint "list_member_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "mailing" add constraint "mailing_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "mailing" add constraint "mailing_started_by_id_foreign" foreign key ("started_by_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "email_template_version" add constraint "email_template_version_template_id_foreign" foreign key ("template_id") references "email_template" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "email_template_version" add constraint "email_template_version_author_id_foreign" foreign key ("author_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "turn_taken" add constraint "turn_taken_run_id_foreign" foreign key ("run_id") references "run" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "turn_taken" add constraint "turn_taken_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "asked_question" add constraint "asked_question_run_id_foreign" foreign key ("run_id") references "run" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "asked_question" add constraint "asked_question_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );

    this.addSql(`alter table "connection" drop constraint if exists "connection_kind_check";`);

    this.addSql(`alter table "inbound" drop constraint if exists "inbound_channel_check";`);

    this.addSql(`alter table "needs_you" drop constraint if exists "needs_you_kind_check";`);

    this.addSql(`alter table "consent" drop constraint if exists "consent_channel_check";`);

    this.addSql(`alter table "delivery" drop constraint if exists "delivery_channel_check";`);
    this.addSql(`alter table "delivery" drop constraint if exists "delivery_state_check";`);

    this.addSql(
      `alter table "business" add column "counts_links" boolean not null default true, add column "counts_opens" boolean not null default true;`,
    );

    this.addSql(
      `alter table "connection" add constraint "connection_kind_check" check("kind" in ('text_carrier', 'mail_server', 'ad_platform', 'funnel_host', 'shop', 'booking_calendar', 'company_directory', 'chat_network'));`,
    );

    this.addSql(`alter table "inbound" add column "question_id" uuid null;`);
    this.addSql(
      `alter table "inbound" add constraint "inbound_channel_check" check("channel" in ('text', 'email', 'chat'));`,
    );

    this.addSql(
      `alter table "needs_you" add constraint "needs_you_kind_check" check("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost', 'step_failed', 'source_trouble', 'entries_expiring', 'draft_waits'));`,
    );

    this.addSql(
      `alter table "consent" add constraint "consent_channel_check" check("channel" in ('text', 'email', 'chat'));`,
    );

    this.addSql(
      `alter table "delivery" add column "read_at" timestamptz null, add column "due_at" timestamptz null, add column "rank" int not null default 0, add column "lease_by" text null, add column "tries" int not null default 0, add column "hours" jsonb null, add column "mailing_id" uuid null, add column "sent_by_id" uuid null;`,
    );
    this.addSql(
      `alter table "delivery" add constraint "delivery_sent_by_id_foreign" foreign key ("sent_by_id") references "person" ("id") on update cascade on delete set null;`,
    );
    this.addSql(
      `alter table "delivery" add constraint "delivery_channel_check" check("channel" in ('text', 'email', 'chat'));`,
    );
    this.addSql(
      `alter table "delivery" add constraint "delivery_state_check" check("state" in ('draft', 'dropped', 'sending', 'accepted', 'delivered', 'undelivered', 'refused'));`,
    );
    this.addSql(`create index "delivery_due" on "delivery" ("rank", "due_at") where "due_at" is not null;`);
    this.addSql(`create index "delivery_mailing" on "delivery" ("mailing_id") where "mailing_id" is not null;`);
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "email_template_version" drop constraint "email_template_version_template_id_foreign";`);

    this.addSql(`alter table "list_member" drop constraint "list_member_list_id_foreign";`);

    this.addSql(`drop table if exists "email_template" cascade;`);

    this.addSql(`drop table if exists "kept_file" cascade;`);

    this.addSql(`drop table if exists "nurture_list" cascade;`);

    this.addSql(`drop table if exists "list_member" cascade;`);

    this.addSql(`drop table if exists "mailing" cascade;`);

    this.addSql(`drop table if exists "email_template_version" cascade;`);

    this.addSql(`drop table if exists "tracked_link" cascade;`);

    this.addSql(`drop table if exists "visit" cascade;`);

    this.addSql(`drop table if exists "turn_taken" cascade;`);

    this.addSql(`drop table if exists "asked_question" cascade;`);

    this.addSql(`alter table "connection" drop constraint if exists "connection_kind_check";`);

    this.addSql(`alter table "consent" drop constraint if exists "consent_channel_check";`);

    this.addSql(`alter table "delivery" drop constraint if exists "delivery_channel_check";`);
    this.addSql(`alter table "delivery" drop constraint if exists "delivery_state_check";`);

    this.addSql(`alter table "delivery" drop constraint "delivery_sent_by_id_foreign";`);

    this.addSql(`alter table "inbound" drop constraint if exists "inbound_channel_check";`);

    this.addSql(`alter table "needs_you" drop constraint if exists "needs_you_kind_check";`);

    this.addSql(`alter table "business" drop column "counts_links", drop column "counts_opens";`);

    this.addSql(
      `alter table "connection" add constraint "connection_kind_check" check("kind" in ('text_carrier', 'mail_server', 'ad_platform', 'funnel_host', 'shop', 'booking_calendar', 'company_directory'));`,
    );

    this.addSql(`alter table "consent" add constraint "consent_channel_check" check("channel" in ('text', 'email'));`);

    this.addSql(`drop index "delivery_due";`);
    this.addSql(`drop index "delivery_mailing";`);
    this.addSql(
      `alter table "delivery" drop column "read_at", drop column "due_at", drop column "rank", drop column "lease_by", drop column "tries", drop column "hours", drop column "mailing_id", drop column "sent_by_id";`,
    );

    this.addSql(
      `alter table "delivery" add constraint "delivery_channel_check" check("channel" in ('text', 'email'));`,
    );
    this.addSql(
      `alter table "delivery" add constraint "delivery_state_check" check("state" in ('sending', 'accepted', 'delivered', 'undelivered', 'refused'));`,
    );

    this.addSql(`alter table "inbound" drop column "question_id";`);

    this.addSql(`alter table "inbound" add constraint "inbound_channel_check" check("channel" in ('text'));`);

    this.addSql(
      `alter table "needs_you" add constraint "needs_you_kind_check" check("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost', 'step_failed', 'source_trouble', 'entries_expiring'));`,
    );
  }
}
