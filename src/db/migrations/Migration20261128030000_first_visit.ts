import { Migration } from '@mikro-orm/migrations';

/** How far the first visit has come, and what belongs to the practice world of a business (decision 53). */
export class Migration20261128030000_first_visit extends Migration {
  override async up(): Promise<void> {
    this.addSql(
      `alter table "business" add column "first_steps" text check ("first_steps" in ('open', 'left', 'done')) not null default 'open', add column "practice" jsonb null;`,
    );
    this.addSql(`alter table "connection" add column "practice" boolean not null default false;`);
    // Demos that were made before knew theirs by name.
    this.addSql(
      `update "connection" set "practice" = true where "name" like 'Practice %' and "settings" ->> 'address' ~ '^(http|smtp)://127\\.0\\.0\\.1:';`,
    );
    this.addSql(
      `update "business" b set "practice" = jsonb_build_object('since', now(), 'countries', '[]'::jsonb) where exists (select from "connection" c where c."business_id" = b."id" and c."practice");`,
    );
  }
}
