import { Migration } from '@mikro-orm/migrations';

export class Migration20261128080000_costs_and_visits extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "cost_feed" ("id" uuid not null, "business_id" uuid not null, "name" varchar(100) not null, "connection_id" uuid null, "key" varchar(255) not null, "next_at" timestamptz null, "lease_until" timestamptz null, "failures" int not null default 0, "last_at" timestamptz null, "last_lines" int not null default 0, "trouble" text not null default '', "created_at" timestamptz not null, constraint "cost_feed_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "cost_feed" add constraint "cost_feed_key_unique" unique ("key");`);
    this.addSql(`create index "cost_feed_due" on "cost_feed" ("next_at") where "next_at" is not null;`);

    this.addSql(
      `create table "month_page" ("business_id" uuid not null, "day" int not null, "recipients" jsonb not null, "still" jsonb not null, "next_at" timestamptz not null, "last_at" timestamptz null, "trouble" text not null default '', "person_id" uuid null, constraint "month_page_pkey" primary key ("business_id"));`,
    );

    this.addSql(
      `create table "site" ("id" uuid not null, "business_id" uuid not null, "name" varchar(100) not null, "key" varchar(255) not null, "asks" boolean not null, "created_at" timestamptz not null, "seen_at" timestamptz null, constraint "site_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "site" add constraint "site_key_unique" unique ("key");`);

    this.addSql(
      `create table "site_visit" ("id" uuid not null, "business_id" uuid not null, "site_id" uuid not null, "visitor" varchar(40) not null, "at" timestamptz not null, "where_from" jsonb not null, "consent" varchar(20) not null, constraint "site_visit_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "site_visit_visitor" on "site_visit" ("business_id", "visitor");`);
    this.addSql(`create index "site_visit_at" on "site_visit" ("at");`);

    this.addSql(
      `alter table "cost_feed" add constraint "cost_feed_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "month_page" add constraint "month_page_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "month_page" add constraint "month_page_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete set null;`,
    );

    this.addSql(
      `alter table "site" add constraint "site_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "site_visit" add constraint "site_visit_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "site_visit" add constraint "site_visit_site_id_foreign" foreign key ("site_id") references "site" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(`alter table "ad_cost" drop constraint "ad_cost_one";`);

    this.addSql(
      `alter table "ad_cost" add constraint "ad_cost_one" unique ("business_id", "day", "campaign", "site", "ad_set", "ad", "currency");`,
    );

    this.addSql(`alter table "lead_result" drop column "waited_for";`);

    this.addSql(`alter table "touch" add column "via_id" uuid null;`);
    this.addSql(`alter table "touch" alter column "arrival_id" drop not null;`);
    this.addSql(
      `create index "touch_visitor" on "touch" ("business_id", ("where_from" ->> 'visitor')) where "where_from" ->> 'visitor' is not null;`,
    );
    this.addSql(`create unique index "touch_via" on "touch" ("via_id") where "via_id" is not null;`);
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "site_visit" drop constraint "site_visit_site_id_foreign";`);

    this.addSql(`drop table if exists "cost_feed" cascade;`);

    this.addSql(`drop table if exists "month_page" cascade;`);

    this.addSql(`drop table if exists "site" cascade;`);

    this.addSql(`drop table if exists "site_visit" cascade;`);

    this.addSql(`alter table "ad_cost" drop constraint "ad_cost_one";`);

    this.addSql(
      `alter table "ad_cost" add constraint "ad_cost_one" unique ("business_id", "via", "day", "site", "campaign", "ad_set", "ad", "currency");`,
    );

    this.addSql(`alter table "lead_result" add column "waited_for" varchar(255) null;`);

    this.addSql(`drop index "touch_visitor";`);
    this.addSql(`drop index "touch_via";`);
    this.addSql(`alter table "touch" drop column "via_id";`);

    this.addSql(`alter table "touch" alter column "arrival_id" set not null;`);
  }
}
