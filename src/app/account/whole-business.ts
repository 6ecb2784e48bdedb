import { Zip, ZipDeflate } from 'fflate';
import type { Pool } from 'pg';
import { EVERYBODY } from '../../core/people/lead-choice.ts';
import { tablesOfBusiness } from '../../db/tables-of-business.ts';
import { asCsv } from '../../tables/write.ts';
import { demand } from '../actor.ts';
import { leadsAsTable } from '../leads/lead-rows.ts';
import { asShareFile } from '../share/share.ts';
import { tabAsTable } from '../sheets/tab-files.ts';
import type { Use } from '../use.ts';
import { demandProof } from './proof.ts';
import { readRecordAsked, recordTable } from './record.ts';

/** Rows that are read from a table at a time. */
const AT_ONCE = 1000;
/** Sealed with a key of this installation: of no use anywhere else, and nothing for a file. */
const SEALED = ['secret', 'report_key', 'report_secret', 'totp', 'password_hash', 'calendar_key', 'keys'];

const ABOUT = (name: string, at: string) => `${name}, everything Pine Bell keeps of it, taken out ${at} (UTC).

leads.csv                 Everybody, with what they answered: opens in any spreadsheet (CSV, RFC 4180, UTF-8).
sheets/                   Each tab of each sheet, the same way.
who-changed-what.csv      The trail, in sentences.
workflows/                Each workflow with all it names, as a file that Pine Bell reads under Workflows, From a file (JSON).
tables/                   Every row of this business as it is stored, one JSON object a line (NDJSON): messages, arrivals as they were sent, consents,
                          runs, deals, appointments, and all the rest. Files that were kept, and packed months, are in hexadecimal.

Not in it: passwords, keys of connected accounts, and what seals them.
`;

interface Part {
  name: string;
  content: AsyncGenerator<string>;
}

async function* once(text: string) {
  yield text;
}

async function* csv(rows: AsyncGenerator<string[][]>) {
  let begins = true;
  for await (const some of rows) {
    yield asCsv(some, begins);
    begins = false;
  }
}

/** All rows of a table as JSON, one a line, as they stood when it was begun to be read. */
async function* ndjson(pool: Pool, name: string, where: string, businessId: string): AsyncGenerator<string> {
  const client = await pool.connect();
  let broken: Error | undefined;
  try {
    await client.query('begin transaction isolation level repeatable read read only');
    // An expression of ours with the id put in by the database: a cursor takes no parameters.
    await client.query(
      `declare whole no scroll cursor for select (to_jsonb(t) - '{${SEALED.join(',')}}'::text[] #- '{settings,signing,sealed}')::text as row from "${name}" t where ${where.replaceAll('$1', `${client.escapeLiteral(businessId)}::uuid`)}`,
    );
    for (;;) {
      const { rows } = await client.query<{ row: string }>(`fetch ${AT_ONCE} from whole`);
      if (rows.length === 0) break;
      yield `${rows.map(({ row }) => row).join('\n')}\n`;
    }
    await client.query('commit');
  } catch (error) {
    broken = error as Error;
    throw error;
  } finally {
    // Whoever stops reading leaves a transaction open: the connection goes with it.
    client.release(broken ?? true);
  }
}

const plain = (name: string): string =>
  name
    .replace(/[^\p{L}\p{N} ._,-]+/gu, ' ')
    .replace(/\s+/g, ' ')
    .trim() || 'unnamed';

/** Names that are all different, as names of files: the second of one name has a number. */
function namer() {
  const taken = new Set<string>();
  return (folder: string, name: string, ending: string): string => {
    for (let n = 1; ; n++) {
      const path = `${folder}${plain(name).slice(0, 100)}${n === 1 ? '' : ` (${n})`}.${ending}`;
      if (taken.has(path.toLowerCase())) continue;
      taken.add(path.toLowerCase());
      return path;
    }
  };
}

async function* parts(use: Use, at: string): AsyncGenerator<Part> {
  const { actor, db, runtime } = use;
  const nameOf = namer();
  yield { name: 'READ ME.txt', content: once(ABOUT(actor.businessName, at)) };
  yield { name: 'leads.csv', content: csv((await leadsAsTable(use, EVERYBODY)).rows) };
  yield {
    name: 'who-changed-what.csv',
    content: csv((await recordTable(use, readRecordAsked(new URLSearchParams()))).rows),
  };
  const tabs = await db.query<{ id: string; name: string }>(
    `select t.id, s.name || ', ' || t.name as name from sheet_tab t join sheet s on s.id = t.sheet_id where s.business_id = $1 order by s.name, t.position`,
    [actor.businessId],
  );
  for (const { id, name } of tabs.rows)
    yield { name: nameOf('sheets/', name, 'csv'), content: csv((await tabAsTable(use, id)).rows) };
  const workflows = await db.query<{ id: string; name: string }>(
    'select id, name from workflow where business_id = $1 and removed_at is null order by name',
    [actor.businessId],
  );
  for (const { id, name } of workflows.rows)
    yield {
      name: nameOf('workflows/', name, 'json'),
      content: once(JSON.stringify((await asShareFile(use, [id])).file, null, 2)),
    };
  for (const { name, where } of (await tablesOfBusiness(db)).reverse())
    yield { name: `tables/${name}.ndjson`, content: ndjson(runtime.screens, name, where, actor.businessId) };
}

/** Asked before the file is, by a page that can ask for the password. */
export function mayTakeOut(use: Use): { from: string } {
  demand(use.actor, 'keys');
  demandProof(use);
  return { from: '/api/business/file' };
}

/** Everything of a business as one ZIP archive of open files, written as it is read. Owners only, and it is noted. */
export async function wholeBusiness(use: Use): Promise<{ name: string; bytes: ReadableStream<Uint8Array> }> {
  mayTakeOut(use);
  await use.write(async (tx) => tx.note('business.take_out', use.actor.businessId));
  const at = new Date(use.runtime.now()).toISOString();
  const ready: Uint8Array[] = [];
  let failed: Error | null = null;
  const zip = new Zip((error, chunk) => {
    if (error) failed = error;
    else ready.push(chunk);
  });
  async function* bytes(): AsyncGenerator<Uint8Array> {
    const letters = new TextEncoder();
    for await (const { name, content } of parts(use, at)) {
      const file = new ZipDeflate(name, { level: 6 });
      zip.add(file);
      for await (const text of content) {
        file.push(letters.encode(text));
        if (failed) throw failed;
        yield* ready.splice(0);
      }
      file.push(new Uint8Array(0), true);
    }
    zip.end();
    yield* ready.splice(0);
  }
  const reading = bytes();
  return {
    name: `${plain(use.actor.businessName)} ${at.slice(0, 10)}.zip`,
    bytes: new ReadableStream<Uint8Array>({
      async pull(controller) {
        const { value, done } = await reading.next();
        if (done) controller.close();
        else controller.enqueue(value);
      },
      async cancel() {
        await reading.return(undefined);
      },
    }),
  };
}
