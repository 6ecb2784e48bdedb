import { Migration } from '@mikro-orm/migrations';

export class Migration20261202130000_grants extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "service_grant" ("connection_id" uuid not null, "business_id" uuid not null, "secret" text not null, "given_by" varchar(64) not null, "renew_at" timestamptz null, "renewed_at" timestamptz not null, "renewing_until" timestamptz null, "allowed_at" timestamptz not null, "allowed_by_id" uuid null, "ended_at" timestamptz null, "problem" text not null default '', constraint "service_grant_pkey" primary key ("connection_id"));`,
    );

    this.addSql(
      `alter table "service_grant" add constraint "service_grant_connection_id_foreign" foreign key ("connection_id") references "connection" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "service_grant" add constraint "service_grant_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "service_grant" add constraint "service_grant_allowed_by_id_foreign" foreign key ("allowed_by_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(`alter table "needs_you" drop constraint if exists "needs_you_kind_check";`);

    this.addSql(`alter table "connection" drop constraint if exists "connection_kind_check";`);
    this.addSql(
      `alter table "connection" add constraint "connection_kind_check" check("kind" in ('text_carrier', 'mail_server', 'ad_platform', 'funnel_host', 'shop', 'booking_calendar', 'company_directory', 'chat_network', 'service', 'database', 'mail_account', 'file_place'));`,
    );

    this.addSql(`alter table "errand" drop constraint if exists "errand_kind_check";`);
    this.addSql(
      `alter table "errand" add constraint "errand_kind_check" check("kind" in ('key-new', 'key-use', 'second', 'sign-on', 'access'));`,
    );

    this.addSql(`alter table "connection" add column "key_until" date null;`);

    this.addSql(
      `alter table "needs_you" add constraint "needs_you_kind_check" check("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost', 'message_unsure', 'step_failed', 'source_trouble', 'entries_expiring', 'draft_waits', 'form_refused', 'number_shared', 'maybe_refusal', 'mail_unread', 'text_ceiling', 'source_flood', 'service_trouble', 'key_ends'));`,
    );
  }
}
