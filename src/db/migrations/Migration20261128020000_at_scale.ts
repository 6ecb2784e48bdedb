import { Migration } from '@mikro-orm/migrations';

/** What pages ask of very many rows: drafts, what is unread, how many people there are and how many arrivals a source has had (day-counts.sql.ts). */
export class Migration20261128020000_at_scale extends Migration {
  override async up(): Promise<void> {
    this.addSql(`create index "delivery_draft" on "delivery" ("business_id", "created_at") where ("state" = 'draft');`);
    this.addSql(`create index "lead_people" on "lead" ("business_id", "last_arrival_at", "id") where "is_person";`);
    this.addSql(`drop index "lead_business_at";`);
    this.addSql(`create index "conversation_unread" on "conversation" ("business_id") where ("unread" > 0);`);
    this.addSql(`create index "arrival_not_read" on "arrival" ("source_id", "received_at") where ("state" <> 'read');`);
    this.addSql(
      `create table "arrival_day" ("source_id" uuid not null, "day" date not null, "n" int not null, constraint "arrival_day_pkey" primary key ("source_id", "day"));`,
    );
    this.addSql(
      `create table "lead_day" ("business_id" uuid not null, "day" date not null, "n" int not null, constraint "lead_day_pkey" primary key ("business_id", "day"));`,
    );
    this.addSql(
      `alter table "lead_day" add constraint "lead_day_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "arrival_day" add constraint "arrival_day_source_id_foreign" foreign key ("source_id") references "source" ("id") on update cascade on delete cascade;`,
    );
  }
}
