import { Migration } from '@mikro-orm/migrations';

/** Whose word a consent is, boxes left unticked, numbers of which it is not known whose they are, and every change of a person's fields. */
export class Migration20261127010000_wishes extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `alter table "consent" add column "said_by" text check ("said_by" in ('themselves', 'reported', 'standing')) not null default 'themselves';`,
    );
    this.addSql(`alter table "consent" drop constraint if exists "consent_state_check";`);
    this.addSql(
      `alter table "consent" add constraint "consent_state_check" check ("state" in ('given', 'unticked', 'withdrawn'));`,
    );
    this.addSql(
      `update "consent" set "said_by" = 'standing' where "wording" like 'Asked elsewhere:%' and "arrival_id" is not null;`,
    );
    this.addSql(
      `update "consent" c set "said_by" = 'reported' from "arrival" a join "source" s on s.id = a.source_id where a.id = c.arrival_id and c.said_by = 'themselves' and s.kind in ('sheet', 'workbook', 'import');`,
    );
    this.addSql(`alter table "lead_identity" drop constraint if exists "lead_identity_kind_check";`);
    this.addSql(
      `alter table "lead_identity" add constraint "lead_identity_kind_check" check ("kind" in ('email', 'phone', 'source', 'number_asked', 'number_shared'));`,
    );
    this.addSql(
      `create index "lead_identity_number" on "lead_identity" ("business_id", split_part("value", '|', 1)) where "kind" in ('number_asked', 'number_shared')`,
    );
    this.addSql(`alter table "lead" add column "own" jsonb not null default '{}';`);
    this.addSql(`alter table "run" add column "came_at" timestamptz null;`);
    this.addSql(`alter table "needs_you" drop constraint if exists "needs_you_kind_check";`);
    this.addSql(
      `alter table "needs_you" add constraint "needs_you_kind_check" check("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost', 'step_failed', 'source_trouble', 'entries_expiring', 'draft_waits', 'form_refused', 'number_shared', 'maybe_refusal', 'mail_unread'));`,
    );
    this.addSql(`alter table "needs_you" add column "other_lead_id" uuid null;`);
    this.addSql(
      `create table "lead_change" ("id" uuid not null, "business_id" uuid not null, "lead_id" uuid not null, "field" text not null, "was" text not null, "became" text not null, "by" jsonb not null, "at" timestamptz not null, constraint "lead_change_pkey" primary key ("id"));`,
    );
    this.addSql(
      `create table "mailing_left" ("mailing_id" uuid not null, "lead_id" uuid not null, "code" text not null, "detail" text not null, constraint "mailing_left_pkey" primary key ("mailing_id", "lead_id"));`,
    );
    this.addSql(`create index "mailing_left_lead" on "mailing_left" ("lead_id");`);
    this.addSql(
      `alter table "mailing_left" add constraint "mailing_left_mailing_id_foreign" foreign key ("mailing_id") references "mailing" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "mailing_left" add constraint "mailing_left_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(`create index "lead_change_lead" on "lead_change" ("lead_id", "at");`);
    this.addSql(
      `alter table "lead_change" add constraint "lead_change_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade on delete cascade;`,
    );
  }
}
