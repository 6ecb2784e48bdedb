/** Writes a new migration from the difference between the entities and the migrations so far: npm run migration -- NAME */
import { openMigratingOrm } from './migrating-orm.ts';

const url = process.env.DATABASE_URL;
if (!url) throw new Error('DATABASE_URL must point at a database that has all migrations so far.');
const orm = await openMigratingOrm(url);
await orm.schema.ensureDatabase();
const made = await orm.migrator.createMigration(undefined, false, false, process.argv[2]);
process.stdout.write(
  `${made.fileName ? `${made.fileName}: now add it to src/db/migrations/index.ts` : 'Nothing has changed.'}\n`,
);
await orm.close();
