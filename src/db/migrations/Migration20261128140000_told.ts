import { Migration } from '@mikro-orm/migrations';

export class Migration20261128140000_told extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "notice_way" ("id" uuid not null, "business_id" uuid not null, "person_id" uuid not null, "by" text check ("by" in ('email', 'text')) not null, "wants" text[] not null, "told_until" timestamptz not null, "told_at" timestamptz null, "not_before" timestamptz null, "lease_until" timestamptz null, "failures" int not null default 0, "problem" text null, constraint "notice_way_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "notice_way" add constraint "notice_way_one" unique ("business_id", "person_id", "by");`);
    this.addSql(
      `alter table "notice_way" add constraint "notice_way_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "notice_way" add constraint "notice_way_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "membership" add column "locale" varchar(20) null, add column "quiet" jsonb null, add column "summary_at" varchar(5) null, add column "summary_on" date null;`,
    );
  }
}
