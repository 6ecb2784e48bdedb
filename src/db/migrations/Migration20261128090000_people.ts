import { Migration } from '@mikro-orm/migrations';

export class Migration20261128090000_people extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "password_reset" ("id" uuid not null, "person_id" uuid not null, "asked_at" timestamptz not null, "expires_at" timestamptz not null, constraint "password_reset_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "password_reset" add constraint "password_reset_person_id_unique" unique ("person_id");`);

    this.addSql(
      `create table "invitation" ("id" uuid not null, "business_id" uuid not null, "email" varchar(320) not null default '', "name" varchar(200) not null default '', "role" text check ("role" in ('owner', 'manager', 'coordinator', 'desk', 'viewer')) not null, "whose_leads" text check ("whose_leads" in ('all', 'team', 'own')) not null default 'all', "teams" jsonb not null, "round" int not null default 0, "mailed_at" timestamptz null, "trouble" text not null default '', "by_id" uuid not null, "created_at" timestamptz not null, "expires_at" timestamptz not null, "withdrawn_at" timestamptz null, "accepted_at" timestamptz null, constraint "invitation_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "invitation_business" on "invitation" ("business_id");`);

    this.addSql(
      `create table "team" ("id" uuid not null, "business_id" uuid not null, "name" varchar(60) not null, constraint "team_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "team" add constraint "team_name" unique ("business_id", "name");`);

    this.addSql(
      `create table "team_member" ("team_id" uuid not null, "membership_id" uuid not null, constraint "team_member_pkey" primary key ("team_id", "membership_id"));`,
    );
    this.addSql(`create index "team_member_membership" on "team_member" ("membership_id");`);

    this.addSql(
      `alter table "password_reset" add constraint "password_reset_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "invitation" add constraint "invitation_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "invitation" add constraint "invitation_by_id_foreign" foreign key ("by_id") references "person" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "team" add constraint "team_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "team_member" add constraint "team_member_team_id_foreign" foreign key ("team_id") references "team" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "team_member" add constraint "team_member_membership_id_foreign" foreign key ("membership_id") references "membership" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(`alter table "membership" drop constraint if exists "membership_role_check";`);

    this.addSql(
      `alter table "membership" add column "whose_leads" text check ("whose_leads" in ('all', 'team', 'own')) not null default 'all';`,
    );
    this.addSql(
      `alter table "membership" add constraint "membership_role_check" check("role" in ('owner', 'manager', 'coordinator', 'desk', 'viewer'));`,
    );

    this.addSql(
      `alter table "session" add column "public_id" uuid not null default gen_random_uuid(), add column "used_at" timestamptz not null default now(), add column "device" varchar(100) not null default '', add column "network" varchar(60) not null default '';`,
    );
    this.addSql(`update "session" set "used_at" = "created_at";`);
    this.addSql(`alter table "session" alter column "public_id" drop default, alter column "used_at" drop default;`);
    this.addSql(`alter table "session" add constraint "session_public_id_unique" unique ("public_id");`);
  }
}
