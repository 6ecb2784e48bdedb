import { Migration } from '@mikro-orm/migrations';

export class Migration20261125201205_deals extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "pipeline" ("id" uuid not null, "business_id" uuid not null, "name" varchar(255) not null, "created_at" timestamptz not null, constraint "pipeline_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "pipeline_business" on "pipeline" ("business_id");`);

    this.addSql(
      `create table "stage" ("id" uuid not null, "pipeline_id" uuid not null, "name" varchar(255) not null, "position" int not null, "ends" text check ("ends" in ('won', 'lost')) null, constraint "stage_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "stage_pipeline" on "stage" ("pipeline_id", "position");`);

    this.addSql(
      `create table "deal" ("id" uuid not null, "business_id" uuid not null, "lead_id" uuid not null, "pipeline_id" uuid not null, "stage_id" uuid not null, "title" text not null, "value" numeric(14,2) null, "run_id" uuid null, "created_at" timestamptz not null, "moved_at" timestamptz not null, "closed_at" timestamptz null, constraint "deal_pkey" primary key ("id"));`,
    );
    this.addSql(`create unique index "deal_open" on "deal" ("lead_id", "pipeline_id") where "closed_at" is null;`);
    this.addSql(`create index "deal_stage" on "deal" ("stage_id");`);

    this.addSql(
      `alter table "pipeline" add constraint "pipeline_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "stage" add constraint "stage_pipeline_id_foreign" foreign key ("pipeline_id") references "pipeline" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "deal" add constraint "deal_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "deal" add constraint "deal_lead_id_foreign" foreign key ("lead_id") references "lead" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "deal" add constraint "deal_pipeline_id_foreign" foreign key ("pipeline_id") references "pipeline" ("id") on update cascade;`,
    );
    this.addSql(
      `alter table "deal" add constraint "deal_stage_id_foreign" foreign key ("stage_id") references "stage" ("id") on update cascade;`,
    );
  }

  override async down(): Promise<void> {
    this.addSql(`alter table "stage" drop constraint "stage_pipeline_id_foreign";`);

    this.addSql(`alter table "deal" drop constraint "deal_pipeline_id_foreign";`);

    this.addSql(`alter table "deal" drop constraint "deal_stage_id_foreign";`);

    this.addSql(`drop table if exists "pipeline" cascade;`);

    this.addSql(`drop table if exists "stage" cascade;`);

    this.addSql(`drop table if exists "deal" cascade;`);
  }
}
