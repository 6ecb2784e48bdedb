import { Migration } from '@mikro-orm/migrations';

export class Migration20261202140000_text_parts extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "text_part" ("connection_id" uuid not null, "sender" varchar(60) not null, "recipient" varchar(60) not null, "reference" varchar(20) not null, "number" int not null, "total" int not null, "business_id" uuid not null, "text" text not null, "at" timestamptz not null, constraint "text_part_pkey" primary key ("connection_id", "sender", "recipient", "reference", "number"));`,
    );
    this.addSql(`create index "text_part_at" on "text_part" ("at");`);

    this.addSql(
      `alter table "text_part" add constraint "text_part_connection_id_foreign" foreign key ("connection_id") references "connection" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "text_part" add constraint "text_part_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );

    this.addSql(
      `alter table "taken_message" add column "outcome" text check ("outcome" in ('delivered', 'undelivered')) null;`,
    );
    this.addSql(
      `create table "service_turn" ("connection_id" uuid not null, "business_id" uuid not null, "next_at" timestamptz not null, constraint "service_turn_pkey" primary key ("connection_id"));`,
    );
    this.addSql(
      `alter table "service_turn" add constraint "service_turn_connection_id_foreign" foreign key ("connection_id") references "connection" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "service_turn" add constraint "service_turn_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade;`,
    );
    this.addSql(`create index "taken_message_delivery" on "taken_message" ("delivery_id");`);
  }
}
