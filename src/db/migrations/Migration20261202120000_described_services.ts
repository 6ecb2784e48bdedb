import { Migration } from '@mikro-orm/migrations';

export class Migration20261202120000_described_services extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "connection_health" ("connection_id" uuid not null, "business_id" uuid not null, "last_ok_at" timestamptz null, "trouble_since" timestamptz null, "problem" text not null default '', "told_at" timestamptz null, constraint "connection_health_pkey" primary key ("connection_id"));`,
    );

    this.addSql(
      `create table "connection_hour" ("connection_id" uuid not null, "hour" timestamptz not null, "business_id" uuid not null, "calls" int not null default 0, "failed" int not null default 0, "ms_total" bigint not null default 0, "ms_most" int not null default 0, constraint "connection_hour_pkey" primary key ("connection_id", "hour"));`,
    );

    this.addSql(
      `create table "taken_message" ("connection_id" uuid not null, "remote_id" varchar(300) not null, "business_id" uuid not null, "delivery_id" uuid not null, "at" timestamptz not null, constraint "taken_message_pkey" primary key ("connection_id", "remote_id"));`,
    );

    this.addSql(
      `alter table "connection_health" add constraint "connection_health_connection_id_foreign" foreign key ("connection_id") references "connection" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "connection_health" add constraint "connection_health_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "connection_hour" add constraint "connection_hour_connection_id_foreign" foreign key ("connection_id") references "connection" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "connection_hour" add constraint "connection_hour_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "taken_message" add constraint "taken_message_connection_id_foreign" foreign key ("connection_id") references "connection" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "taken_message" add constraint "taken_message_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(`alter table "connection" drop constraint if exists "connection_kind_check";`);

    this.addSql(`alter table "needs_you" drop constraint if exists "needs_you_kind_check";`);

    this.addSql(`alter table "delivery" drop constraint if exists "delivery_state_check";`);

    this.addSql(
      `alter table "connection" add constraint "connection_kind_check" check("kind" in ('text_carrier', 'mail_server', 'ad_platform', 'funnel_host', 'shop', 'booking_calendar', 'company_directory', 'chat_network', 'service', 'database'));`,
    );

    this.addSql(
      `alter table "needs_you" add constraint "needs_you_kind_check" check("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost', 'message_unsure', 'step_failed', 'source_trouble', 'entries_expiring', 'draft_waits', 'form_refused', 'number_shared', 'maybe_refusal', 'mail_unread', 'text_ceiling', 'source_flood', 'service_trouble'));`,
    );

    this.addSql(`alter table "delivery" add column "begun_at" timestamptz null;`);
    this.addSql(
      `alter table "delivery" add constraint "delivery_state_check" check("state" in ('draft', 'dropped', 'sending', 'accepted', 'delivered', 'undelivered', 'refused', 'unsure'));`,
    );

    this.addSql(
      `create table "elsewhere_record" ("lead_id" uuid not null, "place" varchar(120) not null, "business_id" uuid not null, "connection_id" uuid not null, "remote_id" varchar(300) null, "begun_by" varchar(60) not null, "begun_at" timestamptz not null, "made_at" timestamptz null, constraint "elsewhere_record_pkey" primary key ("lead_id", "place"));`,
    );
    this.addSql(
      `alter table "elsewhere_record" add constraint "elsewhere_record_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "elsewhere_record" add constraint "elsewhere_record_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "elsewhere_record" add constraint "elsewhere_record_connection_id_foreign" foreign key ("connection_id") references "connection" ("id") on update cascade on delete cascade;`,
    );
  }
}
