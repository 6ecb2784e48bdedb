import { Migration } from '@mikro-orm/migrations';

/** One word for one thing: what a process holds for a while is leased. */
export class Migration20261127070000_leases extends Migration {
  override async up(): Promise<void> {
    for (const table of ['pull', 'lead_import'])
      for (const end of ['by', 'until'])
        this.addSql(`alter table "${table}" rename column "claimed_${end}" to "lease_${end}";`);
  }

  override async down(): Promise<void> {
    for (const table of ['pull', 'lead_import'])
      for (const end of ['by', 'until'])
        this.addSql(`alter table "${table}" rename column "lease_${end}" to "claimed_${end}";`);
  }
}
