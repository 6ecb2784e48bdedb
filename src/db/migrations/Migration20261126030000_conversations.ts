import { Migration } from '@mikro-orm/migrations';

export class Migration20261126030000_conversations extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "conversation" ("id" uuid not null, "business_id" uuid not null, "lead_id" uuid null, "sender" text not null, "channel" text check ("channel" in ('text', 'email', 'chat')) not null, "last_text" text not null, "last_in" boolean not null, "last_at" timestamptz not null, "unread" int not null default 0, "assignee_id" uuid null, "taken_by_id" uuid null, "taken_at" timestamptz null, "done_at" timestamptz null, "typing_by_id" uuid null, "typing_until" timestamptz null, constraint "conversation_pkey" primary key ("id"));`,
    );
    this.addSql(`create unique index "conversation_lead" on "conversation" ("lead_id") where "lead_id" is not null;`);
    this.addSql(
      `create unique index "conversation_sender" on "conversation" ("business_id", "sender") where "lead_id" is null;`,
    );
    this.addSql(`create index "conversation_at" on "conversation" ("business_id", "last_at");`);
    this.addSql(
      `create table "canned_answer" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "text" text not null, "created_at" timestamptz not null, constraint "canned_answer_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "canned_answer" add constraint "canned_answer_name" unique ("business_id", "name");`);
    for (const [table, column, to, gone] of [
      ['conversation', 'business_id', 'business', ''],
      ['conversation', 'lead_id', 'lead', ' on delete set null'],
      ['conversation', 'assignee_id', 'person', ' on delete set null'],
      ['conversation', 'taken_by_id', 'person', ' on delete set null'],
      ['conversation', 'typing_by_id', 'person', ' on delete set null'],
      ['canned_answer', 'business_id', 'business', ''],
    ])
      this.addSql(
        `alter table "${table}" add constraint "${table}_${column}_foreign" foreign key ("${column}") references "${to}" ("id") on update cascade${gone};`,
      );
    this.addSql(`alter table "run" add column "held_at" timestamptz null;`);
    // Who has written before this was kept has a conversation too.
    this.addSql(
      `insert into conversation (id, business_id, lead_id, sender, channel, last_text, last_in, last_at)
       select distinct on (coalesce(lead_id::text, business_id || sender)) gen_random_uuid(), business_id, lead_id, sender, channel, left(text, 200), true, received_at
       from inbound order by coalesce(lead_id::text, business_id || sender), received_at desc;`,
    );
  }
}
