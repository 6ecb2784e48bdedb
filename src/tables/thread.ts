/** The thread in which tables are read, so that no big file holds up the process that answers people. */
import { once } from 'node:events';
import { parentPort, workerData } from 'node:worker_threads';
import { log } from '../log.ts';
import { readCsv } from './csv.ts';
import { sniff } from './sniff.ts';
import { type TableLimits, TableProblem, type TableRow, type TableTab } from './table.ts';
import { readXlsx, workbookTabs } from './xlsx.ts';

export interface ThreadTask {
  bytes: Uint8Array;
  /** Null for the first that can be seen. */
  tab: string | null;
  limits: TableLimits;
  /** Only the names of the tabs. */
  tabsOnly: boolean;
}
export type ThreadSays =
  | { tabs: TableTab[] }
  | { rows: TableRow[] }
  | { done: true }
  | { problem: { code: string; message: string } };

const BATCH = 500;
const port = parentPort!;
const say = (message: ThreadSays) => port.postMessage(message);

async function work({ bytes: view, tab, limits, tabsOnly }: ThreadTask): Promise<void> {
  const bytes = Buffer.from(view.buffer, view.byteOffset, view.byteLength);
  const format = sniff(bytes);
  if (tabsOnly) return say({ tabs: format === 'xlsx' ? await workbookTabs(bytes) : [] });
  let batch: TableRow[] = [];
  for await (const row of format === 'xlsx' ? readXlsx(bytes, tab, limits) : readCsv(bytes, limits)) {
    batch.push(row);
    if (batch.length < BATCH) continue;
    say({ rows: batch });
    batch = [];
    // One batch at a time: the reader of a slow database is not buried.
    await once(port, 'message');
  }
  if (batch.length > 0) say({ rows: batch });
  say({ done: true });
}

work(workerData as ThreadTask).then(
  () => port.close(),
  (error: unknown) => {
    const known = error instanceof TableProblem;
    if (!known) log.error({ scope: 'tables', err: error }, 'a table could not be read');
    say({
      problem: { code: known ? error.code : 'failed', message: known ? error.message : 'The file could not be read.' },
    });
    port.close();
  },
);
