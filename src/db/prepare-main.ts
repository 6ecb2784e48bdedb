/** Brings the database at DATABASE_URL up to this version; run before any other process starts. */
import { prepareDatabase } from './prepare.ts';

const url = process.env.DATABASE_URL;
if (!url) throw new Error('DATABASE_URL is not set.');
await prepareDatabase(url);
process.stdout.write('ready {}\n');
