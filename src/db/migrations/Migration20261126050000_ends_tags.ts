import { Migration } from '@mikro-orm/migrations';

export class Migration20261126050000_ends_tags extends Migration {
  override async up(): Promise<void> {
    // Sheets written before tags could end them.
    for (const [table, column] of [
      ['workflow', 'draft'],
      ['workflow_version', 'definition'],
    ])
      this.addSql(
        `update "${table}" set "${column}" = jsonb_set("${column}", '{rules,endsTags}', '[]') where "${column}" -> 'rules' is not null and not "${column}" -> 'rules' ? 'endsTags';`,
      );
  }
}
