import { Migration } from '@mikro-orm/migrations';

const REMOVABLE = [
  'sheet',
  'email_template',
  'chat_template',
  'chat_form',
  'segment',
  'pipeline',
  'tag',
  'canned_answer',
];
const IN_FOLDERS = ['source', 'nurture_list', 'connection', ...REMOVABLE.filter((table) => table !== 'canned_answer')];
/** A name is free again once what had it is removed. */
const NAMED = ['email_template', 'chat_template', 'chat_form', 'segment', 'tag', 'canned_answer'];

export class Migration20261128150000_removed_and_folders extends Migration {
  override async up(): Promise<void> {
    for (const table of REMOVABLE) this.addSql(`alter table "${table}" add column "removed_at" timestamptz null;`);
    for (const table of IN_FOLDERS)
      this.addSql(`alter table "${table}" add column "folder" varchar(60) not null default '';`);
    for (const table of NAMED) {
      this.addSql(`alter table "${table}" drop constraint "${table}_name";`);
      this.addSql(
        `create unique index "${table}_name" on "${table}" ("business_id", "name") where "removed_at" is null;`,
      );
    }
  }
}
