import { Migration } from '@mikro-orm/migrations';

export class Migration20261128110000_working_time extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table "membership" add column "working" jsonb null;`);
  }
}
