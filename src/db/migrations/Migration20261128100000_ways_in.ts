import { Migration } from '@mikro-orm/migrations';

export class Migration20261128100000_ways_in extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "errand" ("id" varchar(64) not null, "kind" text check ("kind" in ('key-new', 'key-use', 'second', 'sign-on')) not null, "what" jsonb not null, "expires_at" timestamptz not null, constraint "errand_pkey" primary key ("id"));`,
    );

    this.addSql(
      `create table "passkey" ("id" uuid not null, "person_id" uuid not null, "credential" text not null, "public_key" bytea not null, "counter" bigint not null default 0, "transports" text[] not null, "name" varchar(100) not null, "created_at" timestamptz not null, "used_at" timestamptz null, constraint "passkey_pkey" primary key ("id"));`,
    );
    this.addSql(`alter table "passkey" add constraint "passkey_credential_unique" unique ("credential");`);
    this.addSql(`create index "passkey_person" on "passkey" ("person_id");`);

    this.addSql(
      `create table "outer_identity" ("issuer" varchar(255) not null, "subject" varchar(255) not null, "business_id" uuid not null, "person_id" uuid not null, "created_at" timestamptz not null, constraint "outer_identity_pkey" primary key ("issuer", "subject", "business_id"));`,
    );

    this.addSql(
      `create table "recovery_code" ("person_id" uuid not null, "hash" varchar(64) not null, constraint "recovery_code_pkey" primary key ("person_id", "hash"));`,
    );

    this.addSql(
      `create table "sign_on" ("business_id" uuid not null, "issuer" text not null, "client_id" text not null, "secret" text null, "domains" jsonb not null, "newcomers" text check ("newcomers" in ('owner', 'manager', 'coordinator', 'desk', 'viewer')) null, "only" boolean not null default false, constraint "sign_on_pkey" primary key ("business_id"));`,
    );

    this.addSql(
      `alter table "passkey" add constraint "passkey_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "outer_identity" add constraint "outer_identity_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "outer_identity" add constraint "outer_identity_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "recovery_code" add constraint "recovery_code_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "sign_on" add constraint "sign_on_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(`alter table "business" add column "demands_second" boolean not null default false;`);

    this.addSql(`alter table "person" add column "totp" text null, add column "totp_step" bigint not null default 0;`);

    this.addSql(
      `alter table "session" add column "how" text check ("how" in ('password', 'second', 'key', 'sign-on')) not null default 'password', add column "within" uuid null, add column "proved_at" timestamptz not null default now();`,
    );
    this.addSql(`update "session" set "proved_at" = "created_at";`);
    this.addSql(`alter table "session" alter column "proved_at" drop default;`);
  }
}
