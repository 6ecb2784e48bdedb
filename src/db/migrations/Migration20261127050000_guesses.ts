import { Migration } from '@mikro-orm/migrations';

/** Guesses are counted before they are compared, by one statement. */
export class Migration20261127050000_guesses extends Migration {
  override async up(): Promise<void> {
    this.addSql(`drop table if exists "sign_in_failure";`);
    this.addSql(
      `create unlogged table "guess" ("key" varchar(255) not null, "guesses" int not null, "since" timestamptz not null, constraint "guess_pkey" primary key ("key"));`,
    );
  }
}
