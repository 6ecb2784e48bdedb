import { Migration } from '@mikro-orm/migrations';

export class Migration20261128130000_several_businesses extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `alter table "business" add column "key" varchar(40) not null default replace(gen_random_uuid()::text, '-', ''), add column "color" varchar(20) not null default 'pine', add column "removed_at" timestamptz null;`,
    );
    // By its name; of two with one name the younger has a number behind it.
    this.addSql(
      `update "business" b set "key" = k.key || case when k.n = 1 then '' else '-' || k.n end from (
         select id, key, row_number() over (partition by key order by created_at, id) as n from (
           select id, created_at, coalesce(nullif(trim(both '-' from left(regexp_replace(lower(name), '[^a-z0-9]+', '-', 'g'), 34)), ''), 'business') as key from "business") named) k
       where k.id = b.id;`,
    );
    this.addSql(`alter table "business" add constraint "business_key_unique" unique ("key");`);
  }
}
