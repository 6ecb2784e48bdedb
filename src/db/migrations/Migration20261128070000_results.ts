import { Migration } from '@mikro-orm/migrations';

/** What comes of leads, credited to the contacts they had; what advertising cost (decision 59). */
export class Migration20261128070000_results extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "ad_cost" ("id" uuid not null, "business_id" uuid not null, "day" date not null, "site" varchar(200) not null, "campaign" varchar(200) not null, "ad_set" varchar(200) not null, "ad" varchar(200) not null, "cost" numeric(14,2) not null, "currency" varchar(3) not null, "impressions" int null, "clicks" int null, "via" varchar(100) not null, "read_at" timestamptz not null, constraint "ad_cost_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "ad_cost_day" on "ad_cost" ("business_id", "day");`);
    this.addSql(
      `alter table "ad_cost" add constraint "ad_cost_one" unique ("business_id", "via", "day", "site", "campaign", "ad_set", "ad", "currency");`,
    );

    this.addSql(
      `create table "currency_rate" ("business_id" uuid not null, "currency" varchar(3) not null, "day" date not null, "rate" numeric(18,8) not null, constraint "currency_rate_pkey" primary key ("business_id", "currency", "day"));`,
    );

    this.addSql(
      `create table "lead_result" ("id" uuid not null, "business_id" uuid not null, "lead_id" uuid null, "source_id" uuid null, "origin_id" int not null, "came_at" timestamptz not null, "day" date not null, "rang" boolean not null, "answered_at" timestamptz null, "replied_at" timestamptz null, "booked_at" timestamptz null, "kept_at" timestamptz null, "sold_at" timestamptz null, "waited_for" varchar(255) null, constraint "lead_result_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "lead_result_day" on "lead_result" ("business_id", "day");`);
    this.addSql(`alter table "lead_result" add constraint "lead_result_lead" unique ("lead_id");`);

    this.addSql(
      `create table "mark_name" ("business_id" uuid not null, "mark" varchar(20) not null, "name" varchar(200) not null, "shown_as" varchar(200) not null, constraint "mark_name_pkey" primary key ("business_id", "mark", "name"));`,
    );

    this.addSql(
      `create table "origin" ("id" serial primary key, "business_id" uuid not null, "key" varchar(32) not null, "source_id" uuid null, "site" text not null, "medium" text not null, "campaign" text not null, "ad_set" text not null, "ad" text not null, "form" text not null, "page" text not null);`,
    );
    this.addSql(`alter table "origin" add constraint "origin_key" unique ("business_id", "key");`);

    this.addSql(
      `create table "outcome_kind" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "created_at" timestamptz not null, "removed_at" timestamptz null, constraint "outcome_kind_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "outcome_kind" add constraint "outcome_kind_name" unique ("business_id", "name");`);

    this.addSql(
      `create table "noted_outcome" ("id" uuid not null, "business_id" uuid not null, "kind_id" uuid not null, "lead_id" uuid not null, "key" text not null, "at" timestamptz not null, "amount" numeric(14,2) null, "currency" varchar(3) not null, "run_id" uuid null, "person_id" uuid null, "noted_at" timestamptz not null, constraint "noted_outcome_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "noted_outcome_lead" on "noted_outcome" ("lead_id");`);
    this.addSql(`alter table "noted_outcome" add constraint "noted_outcome_key" unique ("kind_id", "key");`);

    this.addSql(
      `create table "result_credit" ("result_id" uuid not null, "kind" varchar(60) not null, "key" text not null, "origin_id" int not null, "business_id" uuid not null, "at" timestamptz not null, "day" date not null, "came_day" date not null, "first" boolean not null, "currency" varchar(3) not null, "by_first" int not null, "by_last" int not null, "by_even" int not null, "by_ends" int not null, "by_fading" int not null, "money_first" bigint not null, "money_last" bigint not null, "money_even" bigint not null, "money_ends" bigint not null, "money_fading" bigint not null, constraint "result_credit_pkey" primary key ("result_id", "kind", "key", "origin_id"));`,
    );
    this.addSql(`create index "result_credit_came" on "result_credit" ("business_id", "came_day", "kind");`);
    this.addSql(`create index "result_credit_day" on "result_credit" ("business_id", "day", "kind");`);

    this.addSql(
      `create table "result_day" ("business_id" uuid not null, "basis" text check ("basis" in ('came', 'happened')) not null, "day" date not null, "origin_id" int not null, "kind" varchar(60) not null, "currency" varchar(3) not null, "people" bigint not null, "by_first" bigint not null, "by_last" bigint not null, "by_even" bigint not null, "by_ends" bigint not null, "by_fading" bigint not null, "money_first" bigint not null, "money_last" bigint not null, "money_even" bigint not null, "money_ends" bigint not null, "money_fading" bigint not null, constraint "result_day_pkey" primary key ("business_id", "basis", "day", "origin_id", "kind", "currency"));`,
    );

    this.addSql(
      `create table "result_due" ("id" bigserial primary key, "lead_id" uuid not null, "due_at" timestamptz not null default now());`,
    );

    this.addSql(
      `alter table "ad_cost" add constraint "ad_cost_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "currency_rate" add constraint "currency_rate_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "mark_name" add constraint "mark_name_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "origin" add constraint "origin_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "outcome_kind" add constraint "outcome_kind_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "noted_outcome" add constraint "noted_outcome_kind_id_foreign" foreign key ("kind_id") references "outcome_kind" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "noted_outcome" add constraint "noted_outcome_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "noted_outcome" add constraint "noted_outcome_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete set null;`,
    );
    // What has come of everybody there is already is reckoned once.
    this.addSql(`insert into "result_due" ("lead_id") select "id" from "lead" where "is_person";`);
  }
}
