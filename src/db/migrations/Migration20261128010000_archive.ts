import { Migration } from '@mikro-orm/migrations';

/** What came in as it was sent: packed by months, kept as long as the business says (decision 51). */
export class Migration20261128010000_archive extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table "business" add column "keeps_sent_months" int null;`);
    this.addSql(`alter table "arrival" add column "kept_in" uuid null;`);
    this.addSql(
      `create table "arrival_pack" ("month" date not null, "id" uuid not null, "business_id" uuid not null, "arrivals" int not null, "raw_bytes" bigint not null, "bytes" bytea not null, constraint "arrival_pack_pkey" primary key ("id", "month")) partition by range ("month");`,
    );
    this.addSql(`create index "arrival_pack_business" on "arrival_pack" ("business_id", "month");`);
    this.addSql(`create table "arrival_pack_rest" partition of "arrival_pack" default;`);
    // Packed already: nothing is gained by trying once more.
    this.addSql(`alter table "arrival_pack" alter column "bytes" set storage external;`);
    this.addSql(
      `create table "archive_progress" ("business_id" uuid not null, "packed_to" timestamptz not null, "dropped_to" timestamptz not null, constraint "archive_progress_pkey" primary key ("business_id"));`,
    );
    this.addSql(
      `alter table "archive_progress" add constraint "archive_progress_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );
  }
}
