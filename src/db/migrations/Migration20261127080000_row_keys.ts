import { Migration } from '@mikro-orm/migrations';

/** Columns of sheets that steps look in, and the words in them: hot/row-keys.sql.ts. */
export class Migration20261127080000_row_keys extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "sheet_key" ("tab_id" uuid not null, "column_id" varchar(255) not null, constraint "sheet_key_pkey" primary key ("tab_id", "column_id"));`,
    );
    this.addSql(
      `create table "sheet_row_key" ("tab_id" uuid not null, "column_id" varchar(255) not null, "key" uuid not null, "position" double precision not null, "row_id" uuid not null, constraint "sheet_row_key_pkey" primary key ("tab_id", "column_id", "key", "position", "row_id"));`,
    );
    this.addSql(
      `alter table "sheet_key" add constraint "sheet_key_tab_id_foreign" foreign key ("tab_id") references "sheet_tab" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "sheet_row_key" add constraint "sheet_row_key_tab_id_foreign" foreign key ("tab_id") references "sheet_tab" ("id") on update cascade on delete cascade;`,
    );
  }
}
