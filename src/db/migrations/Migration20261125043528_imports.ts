import { Migration } from '@mikro-orm/migrations';

export class Migration20261125043528_imports extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `create table "import_row" ("source_id" uuid not null, "n" int not null, "cells" jsonb not null, "verdict" text check ("verdict" in ('unknown', 'good', 'known', 'duplicate', 'refused')) not null, "problem" text null, constraint "import_row_pkey" primary key ("source_id", "n"));`,
    );
    this.addSql(`create index "import_row_verdict" on "import_row" ("source_id", "verdict", "n");`);

    this.addSql(
      `create table "lead_import" ("source_id" uuid not null, "file_id" uuid not null, "state" text check ("state" in ('reading', 'read', 'ready', 'running', 'stopped', 'done', 'undone', 'refused')) not null, "problem" text null, "rows" int not null default 0, "counts" jsonb null, "checked_card" jsonb null, "workflow_id" uuid null, "per_minute" int not null default 60, "with_duplicates" boolean not null default false, "last_row" int not null default 0, "done" int not null default 0, "total" int not null default 0, "started_at" timestamptz null, "started_by_id" uuid null, "finished_at" timestamptz null, "next_at" timestamptz not null, "claimed_by" text null, "claimed_until" timestamptz null, constraint "lead_import_pkey" primary key ("source_id"));`,
    );

    this.addSql(
      `alter table "import_row" add constraint "import_row_source_id_foreign" foreign key ("source_id") references "source" ("id") on update cascade on delete cascade;`,
    );

    this.addSql(
      `alter table "lead_import" add constraint "lead_import_source_id_foreign" foreign key ("source_id") references "source" ("id") on update cascade on delete cascade;`,
    );
    this.addSql(
      `alter table "lead_import" add constraint "lead_import_file_id_foreign" foreign key ("file_id") references "stored_file" ("id") on update cascade;`,
    );
  }

  override async down(): Promise<void> {
    this.addSql(`drop table if exists "import_row" cascade;`);

    this.addSql(`drop table if exists "lead_import" cascade;`);
  }
}
