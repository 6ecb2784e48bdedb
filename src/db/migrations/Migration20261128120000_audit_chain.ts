import { Migration } from '@mikro-orm/migrations';

export class Migration20261128120000_audit_chain extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "audit_chain" ("business_id" uuid not null, "no" bigint not null default 0, "seal" varchar(64) not null default '', "from_no" bigint not null default 0, "from_seal" varchar(64) not null default '', constraint "audit_chain_pkey" primary key ("business_id"));`,
    );

    this.addSql(
      `alter table "audit_chain" add constraint "audit_chain_business_id_foreign" foreign key ("business_id") references "business" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(`alter table "business" add column "keeps_notes_months" int null;`);

    this.addSql(
      `alter table "audit" add column "no" bigint null, add column "seal" varchar(64) null, add column "detail_hash" varchar(64) not null default '';`,
    );
    this.addSql(`update "audit" set "detail_hash" = encode(sha256(convert_to(detail::text, 'UTF8')), 'hex');`);
    this.addSql(`create index "audit_unsealed" on "audit" ("business_id") where "seal" is null;`);
    this.addSql(`create index "audit_business_no" on "audit" ("business_id", "no");`);
  }
}
