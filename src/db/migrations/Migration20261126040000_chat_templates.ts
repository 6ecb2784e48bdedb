import { Migration } from '@mikro-orm/migrations';

export class Migration20261126040000_chat_templates extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "chat_template" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "created_at" timestamptz not null, constraint "chat_template_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "chat_template" add constraint "chat_template_name" unique ("business_id", "name");`);
    this.addSql(
      `create table "chat_template_version" ("id" uuid not null, "template_id" uuid not null, "number" int not null, "content" jsonb not null, "state" text check ("state" in ('draft', 'waiting', 'approved', 'refused', 'withdrawn')) not null, "reason" text not null default '', "remote_id" text null, "created_at" timestamptz not null, "decided_at" timestamptz null, constraint "chat_template_version_pkey" primary key ("id"));`,
    );
    this.addSql(
      `alter table "chat_template_version" add constraint "chat_template_version_number" unique ("template_id", "number");`,
    );
    this.addSql(`create index "chat_template_version_remote" on "chat_template_version" ("remote_id");`);
    this.addSql(
      `alter table "chat_template" add constraint "chat_template_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "chat_template_version" add constraint "chat_template_version_template_id_foreign" foreign key ("template_id") references "chat_template" ("id") on update cascade on delete cascade;`,
    );
  }
}
