import { Migration } from '@mikro-orm/migrations';

export class Migration20261125203038_company_directory extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "looked_up" ("business_id" uuid not null, "key" varchar(255) not null, "value" jsonb null, "at" timestamptz not null, constraint "looked_up_pkey" primary key ("business_id", "key"));`,
    );

    this.addSql(
      `alter table "looked_up" add constraint "looked_up_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(`alter table "connection" drop constraint if exists "connection_kind_check";`);

    this.addSql(
      `alter table "connection" add constraint "connection_kind_check" check("kind" in ('text_carrier', 'mail_server', 'ad_platform', 'funnel_host', 'shop', 'booking_calendar', 'company_directory'));`,
    );
  }

  override async down(): Promise<void> {
    this.addSql(`drop table if exists "looked_up" cascade;`);

    this.addSql(`alter table "connection" drop constraint if exists "connection_kind_check";`);

    this.addSql(
      `alter table "connection" add constraint "connection_kind_check" check("kind" in ('text_carrier', 'mail_server', 'ad_platform', 'funnel_host', 'shop', 'booking_calendar'));`,
    );
  }
}
