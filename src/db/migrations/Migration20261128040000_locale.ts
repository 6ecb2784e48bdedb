import { Migration } from '@mikro-orm/migrations';
import { localeOf } from '../../core/words/locale-of.ts';

/** Dates and hours as the country of a business writes them: until now all were written as in Britain. */
export class Migration20261128040000_locale extends Migration {
  override async up(): Promise<void> {
    const rows = await this.execute(
      `select distinct "country" from "business" where "locale" = 'en-GB' and "country" <> 'GB';`,
    );
    for (const { country } of rows)
      if (typeof country === 'string' && /^[A-Z]{2}$/.test(country))
        this.addSql(
          `update "business" set "locale" = '${localeOf(country)}' where "country" = '${country}' and "locale" = 'en-GB';`,
        );
  }
}
