import { Worker } from 'node:worker_threads';
import { LIMITS, type TableLimits, TableProblem, type TableRow, type TableTab } from './table.ts';
import type { ThreadSays, ThreadTask } from './thread.ts';

/** Longest a file may take to be read, in milliseconds. */
const LONGEST_MS = 5 * 60_000;
/** Memory of the reading thread, in megabytes; what needs more is refused instead of taking the process with it. */
const THREAD_MB = 320;

/** Reads CSV and XLSX in a thread of its own, batch by batch. */
export class TableReader {
  /** `threadFile` is the built thread.ts. */
  constructor(private readonly threadFile: string) {}

  /** The tabs of a workbook; none for CSV. */
  async tabs(bytes: Uint8Array): Promise<TableTab[]> {
    for await (const said of this.run({ bytes, tab: null, limits: LIMITS, tabsOnly: true }))
      if ('tabs' in said) return said.tabs;
    return [];
  }

  /** The rows in order. Leaving the loop early ends the thread. */
  async *rows(bytes: Uint8Array, tab: string | null, limits: TableLimits = LIMITS): AsyncGenerator<TableRow[]> {
    for await (const said of this.run({ bytes, tab, limits, tabsOnly: false })) if ('rows' in said) yield said.rows;
  }

  private async *run(task: ThreadTask): AsyncGenerator<ThreadSays> {
    const thread = new Worker(this.threadFile, {
      workerData: task,
      resourceLimits: { maxOldGenerationSizeMb: THREAD_MB },
    });
    const said: ThreadSays[] = [];
    let failure: Error | null = null;
    let ended = false;
    let wake = () => {};
    const notify = () => wake();
    thread.on('message', (message: ThreadSays) => {
      said.push(message);
      notify();
    });
    thread.on('error', (error: Error & { code?: string }) => {
      failure =
        error.code === 'ERR_WORKER_OUT_OF_MEMORY'
          ? new TableProblem('too-big', 'The file needs more memory than there is for it. Split it into smaller files.')
          : error;
      notify();
    });
    thread.on('exit', () => {
      ended = true;
      notify();
    });
    const timer = setTimeout(() => {
      failure = new TableProblem(
        'too-slow',
        'Reading the file took more than five minutes and was stopped. Split it into smaller files.',
      );
      void thread.terminate();
    }, LONGEST_MS);
    try {
      for (;;) {
        const message = said.shift();
        if (message) {
          if ('problem' in message) throw new TableProblem(message.problem.code, message.problem.message);
          if ('done' in message) return;
          yield message;
          if ('rows' in message) thread.postMessage('more');
          continue;
        }
        if (failure) throw failure;
        if (ended) return;
        await new Promise<void>((resolve) => {
          wake = resolve;
        });
      }
    } finally {
      clearTimeout(timer);
      void thread.terminate();
    }
  }
}
