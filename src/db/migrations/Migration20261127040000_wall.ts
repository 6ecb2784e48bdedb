import { Migration } from '@mikro-orm/migrations';

/** What points from one thing of a business to another: both are of the same. */
const SAME_BUSINESS = [
  ['listening', 'source_id', 'source', ''],
  ['listening', 'workflow_id', 'workflow', ''],
  ['listening', 'version_id', 'workflow_version', ''],
  ['workflow_version', 'workflow_id', 'workflow', ''],
  ['run', 'version_id', 'workflow_version', ''],
  ['arrival', 'source_id', 'source', ''],
  ['stored_file', 'source_id', 'source', ' on delete cascade'],
  ['nurture_list', 'source_id', 'source', ' on delete set null ("source_id")'],
  ['deal', 'pipeline_id', 'pipeline', ''],
] as const;

/** The wall between businesses, where the database can hold it: nothing listens across it, and nothing is pointed at across it. */
export class Migration20261127040000_wall extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table "listening" add column "business_id" uuid null;`);
    this.addSql(
      `update "listening" l set "business_id" = s."business_id" from "source" s where s."id" = l."source_id";`,
    );
    this.addSql(
      `delete from "listening" l using "workflow" w where w."id" = l."workflow_id" and w."business_id" is distinct from l."business_id";`,
    );
    this.addSql(`alter table "listening" alter column "business_id" set not null;`);
    for (const parent of new Set(SAME_BUSINESS.map(([, , parent]) => parent)))
      this.addSql(`alter table "${parent}" add constraint "${parent}_of_business" unique ("business_id", "id");`);
    for (const [child, column, parent, gone] of SAME_BUSINESS) {
      this.addSql(`alter table "${child}" drop constraint if exists "${child}_${column}_foreign";`);
      this.addSql(
        `alter table "${child}" add constraint "${child}_${column}_same_business" foreign key ("business_id", "${column}") references "${parent}" ("business_id", "id") on update cascade${gone};`,
      );
    }
  }
}
