import { Migration } from '@mikro-orm/migrations';

export class Migration20261125040021_sources extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "pull" ("source_id" uuid not null, "cursor" jsonb null, "every_minutes" int not null, "next_at" timestamptz not null, "claimed_by" text null, "claimed_until" timestamptz null, "last_ok_at" timestamptz null, "failures" int not null default 0, "trouble_since" timestamptz null, "problem" text null, "backlog" jsonb null, "unfetched" jsonb null, constraint "pull_pkey" primary key ("source_id"));`,
    );
    this.addSql(`create index "pull_next" on "pull" ("next_at");`);

    this.addSql(
      `alter table "pull" add constraint "pull_source_id_foreign" foreign key ("source_id") references "source" ("id") on update cascade on delete cascade;`,
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
    this.addSql(`drop table if exists "pull" cascade;`);

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
