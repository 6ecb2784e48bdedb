import { Migration } from '@mikro-orm/migrations';
import { currencyOf } from '../../core/words/money.ts';

/** What the deals of a pipeline are counted in: the money of the business's country until somebody says otherwise. */
export class Migration20261128050000_currency extends Migration {
  override async up(): Promise<void> {
    this.addSql(`alter table "pipeline" add column "currency" varchar(3) null;`);
    const rows = await this.execute(
      `select distinct b."country" from "pipeline" p join "business" b on b."id" = p."business_id";`,
    );
    for (const { country } of rows)
      if (typeof country === 'string' && /^[A-Z]{2}$/.test(country))
        this.addSql(
          `update "pipeline" p set "currency" = '${currencyOf(country)}' from "business" b where b."id" = p."business_id" and b."country" = '${country}';`,
        );
    this.addSql(`update "pipeline" set "currency" = 'EUR' where "currency" is null;`);
    this.addSql(`alter table "pipeline" alter column "currency" set not null;`);
  }
}
