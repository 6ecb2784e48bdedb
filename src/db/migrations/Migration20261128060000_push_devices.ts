import { Migration } from '@mikro-orm/migrations';

/** People's own devices, and what they are told of there (decision 57). */
export class Migration20261128060000_push_devices extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "push_device" ("id" uuid not null, "business_id" uuid not null, "person_id" uuid not null, "endpoint" text not null, "p256dh" text not null, "auth" text not null, "name" text not null, "practice" boolean not null default false, "wants" text[] not null, "created_at" timestamptz not null, "told_until" timestamptz not null, "told_at" timestamptz null, "not_before" timestamptz null, "lease_until" timestamptz null, "failures" int not null default 0, "problem" text null, constraint "push_device_pkey" primary key ("id"));`,
    );
    this.addSql(
      `alter table "push_device" add constraint "push_device_endpoint" unique ("business_id", "person_id", "endpoint");`,
    );

    this.addSql(
      `alter table "push_device" add constraint "push_device_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "push_device" add constraint "push_device_person_id_foreign" foreign key ("person_id") references "person" ("id") on update cascade on delete cascade;`,
    );
  }
}
