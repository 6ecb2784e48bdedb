import { Migration } from '@mikro-orm/migrations';

/** Leads are found by name in either Unicode form and without accents, and by number however it is written. */
export class Migration20261127020000_finding extends Migration {
  override async up(): Promise<void> {
    // Both come with PostgreSQL and are trusted: the owner of a database may create them.
    this.addSql('create extension if not exists unaccent;');
    this.addSql('create extension if not exists pg_trgm;');
    // Compatibility forms made plain, accents off, small letters. unaccent() is stable only because its rules could be replaced; ours are not.
    this.addSql(`create function "folded"("t" text) returns text language plpgsql immutable strict parallel safe as $$
      begin return lower(regexp_replace(unaccent(normalize(t, NFKC)), '[\u0300-\u036f]', '', 'g')); end $$;`);
    this.addSql(
      `alter table "lead" add column "found_by" text generated always as (folded("first_name" || ' ' || "last_name" || ' ' || "email") || ' ' || regexp_replace("phone", '[^0-9]', '', 'g')) stored;`,
    );
    this.addSql(`create index "lead_found_by" on "lead" using gin ("found_by" gin_trgm_ops);`);
  }
}
