import { Migration } from '@mikro-orm/migrations';

export class Migration20261126020000_histories extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "sheet_row_change" ("id" bigserial primary key, "tab_id" uuid not null, "row_id" uuid not null, "at" timestamptz not null, "how" text check ("how" in ('typed', 'file', 'step', 'removed')) not null, "before" jsonb not null, "after" jsonb not null, "file" text not null default '', "person_id" uuid null, "run_id" uuid null, "lead_id" uuid null);`,
    );
    this.addSql(`create index "sheet_row_change_row" on "sheet_row_change" ("row_id", "id");`);
    this.addSql(`create index "sheet_row_change_lead" on "sheet_row_change" ("lead_id") where "lead_id" is not null;`);
    this.addSql(
      `alter table "sheet_row_change" add constraint "sheet_row_change_tab_id_foreign" foreign key ("tab_id") references "sheet_tab" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(`alter table "sheet_tab" add column "shading" jsonb not null default '[]';`);
    this.addSql(
      `create table "deal_move" ("id" uuid not null, "deal_id" uuid not null, "lead_id" uuid not null, "stage_id" uuid not null, "at" timestamptz not null, "run_id" uuid null, "person_id" uuid null, constraint "deal_move_pkey" primary key ("id"));`,
    );
    this.addSql(`create index "deal_move_deal" on "deal_move" ("deal_id", "at");`);
    this.addSql(`create index "deal_move_lead" on "deal_move" ("lead_id");`);
    for (const [column, table, gone] of [
      ['deal_id', 'deal', 'cascade'],
      ['lead_id', 'lead', 'cascade'],
      ['stage_id', 'stage', 'cascade'],
      ['person_id', 'person', 'set null'],
    ])
      this.addSql(
        `alter table "deal_move" add constraint "deal_move_${column}_foreign" foreign key ("${column}") references "${table}" ("id") on update cascade on delete ${gone};`,
      );
    this.addSql(
      `create table "booking_taken" ("arrival_id" uuid not null, "at" timestamptz not null, constraint "booking_taken_pkey" primary key ("arrival_id"));`,
    );
  }
}
