import { Migration } from '@mikro-orm/migrations';

/** Sources, connections, workflows and lists can be removed; what they did stays. A row of a file remembers what was wrong in it. */
export class Migration20261127030000_removal extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table "import_row" add column "trouble" text null;`);
    for (const table of ['source', 'connection', 'workflow', 'nurture_list'])
      this.addSql(`alter table "${table}" add column "removed_at" timestamptz null;`);
    this.addSql(`alter table "nurture_list" drop constraint if exists "nurture_list_name";`);
    this.addSql(`drop index if exists "nurture_list_name";`);
    // The name of a list that is gone is free again.
    this.addSql(
      `create unique index "nurture_list_name" on "nurture_list" ("business_id", "name") where "removed_at" is null;`,
    );
  }
}
