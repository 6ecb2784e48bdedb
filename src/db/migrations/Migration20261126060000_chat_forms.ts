import { Migration } from '@mikro-orm/migrations';

/** Forms in chat with what was answered, consent by purpose, and how much marketing one person gets in a day. */
export class Migration20261126060000_chat_forms extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "chat_form" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "created_at" timestamptz not null, constraint "chat_form_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "chat_form" add constraint "chat_form_name" unique ("business_id", "name");`);
    this.addSql(
      `create table "chat_form_version" ("id" uuid not null, "form_id" uuid not null, "number" int not null, "content" jsonb not null, "remote_id" text null, "created_at" timestamptz not null, constraint "chat_form_version_pkey" primary key ("id"));`,
    );
    this.addSql(
      `alter table "chat_form_version" add constraint "chat_form_version_number" unique ("form_id", "number");`,
    );
    this.addSql(
      `create table "form_answer" ("delivery_id" uuid not null, "business_id" uuid not null, "lead_id" uuid not null, "run_id" uuid null, "step_id" varchar(255) not null, "version_id" uuid not null, "inbound_id" uuid not null, "answers" jsonb not null, "at" timestamptz not null, constraint "form_answer_pkey" primary key ("delivery_id"));`,
    );
    this.addSql(`create index "form_answer_lead" on "form_answer" ("lead_id", "at");`);
    this.addSql(`create index "form_answer_run" on "form_answer" ("run_id");`);
    this.addSql(
      `create table "marketing_slot" ("delivery_id" uuid not null, "lead_id" uuid not null, "day" date not null, constraint "marketing_slot_pkey" primary key ("delivery_id"));`,
    );
    this.addSql(`create index "marketing_slot_day" on "marketing_slot" ("lead_id", "day");`);
    this.addSql(
      `alter table "chat_form" add constraint "chat_form_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "chat_form_version" add constraint "chat_form_version_form_id_foreign" foreign key ("form_id") references "chat_form" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "form_answer" add constraint "form_answer_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "marketing_slot" add constraint "marketing_slot_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "inbound" add column "kind" text check ("kind" in ('message', 'button', 'form')) not null default 'message', add column "raw" text null, add column "problem" text null;`,
    );
    this.addSql(
      `alter table "consent" add column "inbound_id" uuid null, add column "purpose" text check ("purpose" in ('service', 'marketing')) null;`,
    );
    this.addSql(`create index "inbound_unknown" on "inbound" ("business_id", "sender") where "lead_id" is null`);
    this.addSql(`create index "delivery_form" on "delivery" ("business_id") where "message" -> 'form' is not null`);
    this.addSql(`alter table "needs_you" drop constraint if exists "needs_you_kind_check";`);
    this.addSql(
      `alter table "needs_you" add constraint "needs_you_kind_check" check("kind" in ('message_refused', 'step_asks', 'arrival_refused', 'message_lost', 'step_failed', 'source_trouble', 'entries_expiring', 'draft_waits', 'form_refused', 'number_shared'));`,
    );
    this.addSql(`alter table "business" add column "marketing_per_day" int not null default 3;`);
  }
}
