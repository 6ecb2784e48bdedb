import { once } from 'node:events';
import { Worker } from 'node:worker_threads';
import { TableProblem } from './table.ts';
import { asCsv } from './write.ts';
import type { WriteSays } from './write-thread.ts';

/** Memory of the writing thread, in megabytes. */
const THREAD_MB = 700;
/** Cells a workbook is made of at most; beyond that it needs more memory than there is for it. Measured, docs/performance.md. */
const MOST_CELLS = 1_500_000;

export type TableFormat = 'csv' | 'xlsx';

const TYPES = {
  csv: 'text/csv; charset=utf-8',
  xlsx: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
} as const;

/** Makes files of tables whose rows come some at a time. */
export class TableWriter {
  /** `threadFile` is the built write-thread.ts. */
  constructor(private readonly threadFile: string) {}

  /** The table as a file to be kept, named for people. */
  async file(name: string, format: TableFormat, rows: AsyncIterable<string[][]>): Promise<Response> {
    const body = format === 'xlsx' ? await this.xlsx(rows) : csvStream(rows);
    return new Response(body as BodyInit, {
      headers: {
        'content-type': TYPES[format],
        'content-disposition': `attachment; filename="table.${format}"; filename*=UTF-8''${encodeURIComponent(`${name}.${format}`)}`,
        'cache-control': 'no-store',
      },
    });
  }

  private async xlsx(rows: AsyncIterable<string[][]>): Promise<Uint8Array> {
    const thread = new Worker(this.threadFile, { resourceLimits: { maxOldGenerationSizeMb: THREAD_MB } });
    const answer = once(thread, 'message') as Promise<[WriteSays]>;
    answer.catch(() => {});
    try {
      let cells = 0;
      for await (const some of rows) {
        for (const row of some) cells += row.length;
        if (cells > MOST_CELLS)
          throw new TableProblem('too-big', 'This is too much for one Excel workbook. Take the CSV instead.');
        thread.postMessage(some);
      }
      thread.postMessage(null);
      const [said] = await answer;
      if ('failed' in said) throw new Error(said.failed);
      return said.bytes;
    } finally {
      void thread.terminate();
    }
  }
}

function csvStream(rows: AsyncIterable<string[][]>): ReadableStream<Uint8Array> {
  const each = rows[Symbol.asyncIterator]();
  let first = true;
  return new ReadableStream({
    async pull(controller) {
      const { value, done } = await each.next();
      if (done) return controller.close();
      controller.enqueue(new TextEncoder().encode(asCsv(value, first)));
      first = false;
    },
    async cancel() {
      await each.return?.();
    },
  });
}
