import { Migration } from '@mikro-orm/migrations';

/** Where a business texts, and how much in a day. */
export class Migration20261127060000_text_limits extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `alter table "business" add column "text_countries" jsonb null, add column "text_parts_per_day" int not null default 2000, add column "text_part_cost" numeric(10,4) not null default 0;`,
    );
    this.addSql(`alter table "needs_you" drop constraint "needs_you_kind_check";`);
    this.addSql(
      `alter table "needs_you" add constraint "needs_you_kind_check" check("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost', 'step_failed', 'source_trouble', 'entries_expiring', 'draft_waits', 'form_refused', 'number_shared', 'maybe_refusal', 'mail_unread', 'text_ceiling', 'source_flood'));`,
    );
    this.addSql(
      `create table "text_day" ("business_id" uuid not null, "day" date not null, "parts" int not null default 0, constraint "text_day_pkey" primary key ("business_id", "day"));`,
    );
  }
}
