import { setTimeout as sleep } from 'node:timers/promises';
import pLimit from 'p-limit';
import type pg from 'pg';
import { keyColumn, type WrittenTable } from '../../core/outside/written-table.ts';
import type { CallSeen } from '../../gateways/described/described-caller.ts';
import { type FileMark, type FilePlaceAccount, isWeak, type PlacesReached } from '../../gateways/file-place.ts';
import type { CallAnswer } from '../../steps/step-performer.ts';
import { type Cells, putRows, type RowPut } from '../../tables/put-rows.ts';
import { TableProblem } from '../../tables/table.ts';

/** Largest file rows are written to: each time the whole of it is fetched, and put back. */
export const MOST_WRITTEN_BYTES = 5 * 1024 * 1024;
/** Rows written at once. */
const MOST_ROWS = 500;
/** How often it is begun anew because somebody else saved meanwhile. */
const ROUNDS = 6;
/** Whoever saves just now has done so after it; longer each time. */
const SAVED_MS = 150;
/** After it a server's mark no longer fits two files. */
const SETTLED_MS = 1100;
const SOON_MS = 2000;
/** Files written at the same time by one process: each holds a connection to the database meanwhile. */
const FILES_AT_ONCE = 3;

type Failed = Exclude<CallAnswer, { kind: 'accepted' }>;
interface Waiting {
  cells: Cells;
  answered: (answer: CallAnswer) => void;
}

/**
 * Rows of tables in files that lie elsewhere. Whatever waits for one file goes in at once: it is fetched, the rows are put into it, and it is put back in place of
 * just what was fetched; when somebody saved meanwhile, it begins anew with what they saved. A row is found again by its key, so that what was
 * not heard of is done again without harm.
 */
export class RowsElsewhere {
  private readonly waiting = new Map<string, Waiting[]>();
  private readonly lane = pLimit(FILES_AT_ONCE);

  constructor(
    private readonly parts: {
      pool: pg.Pool;
      places: Pick<PlacesReached, 'fetch' | 'put'>;
      seen: (call: CallSeen) => void;
      now: () => number;
    },
  ) {}

  put(connectionId: string, account: FilePlaceAccount, table: WrittenTable, cells: Cells): Promise<CallAnswer> {
    // Tables of one file that are written otherwise wait for each other in the database only.
    const by = keyColumn(table);
    const name = JSON.stringify([connectionId, table.path, by, Object.keys(cells)]);
    return new Promise((answered) => {
      const before = this.waiting.get(name);
      if (before) before.push({ cells, answered });
      else {
        this.waiting.set(name, [{ cells, answered }]);
        void this.lane(() => this.work(name, connectionId, account, table.path, by));
      }
    });
  }

  private async work(
    name: string,
    connectionId: string,
    account: FilePlaceAccount,
    path: string,
    by: string,
  ): Promise<void> {
    const all = this.waiting.get(name)!;
    while (all.length > 0) {
      const these = all.splice(0, MOST_ROWS);
      const began = this.parts.now();
      const answers = await this.alone(`${connectionId} ${path}`, () =>
        this.write(
          account,
          path,
          by,
          these.map(({ cells }) => cells),
        ),
      ).catch(
        (error: Error): Failed => ({
          ...{ kind: 'again', code: 'file', afterMs: null },
          detail: `The rows could not be written: ${error.message}`,
        }),
      );
      const failed = Array.isArray(answers) ? null : answers;
      if (failed?.code !== 'busy')
        this.parts.seen({
          ...{ connectionId, ms: this.parts.now() - began, at: this.parts.now() },
          ...{ answered: failed === null, well: failed === null, problem: failed?.detail ?? '' },
        });
      these.forEach(({ answered }, i) => {
        answered(failed ?? answerOf((answers as RowPut[])[i]!, path));
      });
    }
    this.waiting.delete(name);
  }

  /** Of all processes one at a time writes to a file. */
  private async alone<T>(file: string, work: () => Promise<T | Failed>): Promise<T | Failed> {
    const client = await this.parts.pool.connect();
    let broken: Error | undefined;
    try {
      const { rows } = await client.query<{ mine: boolean }>(
        'select pg_try_advisory_lock(hashtextextended($1, 4682)) as mine',
        [file],
      );
      if (!rows[0]!.mine)
        return {
          kind: 'again',
          code: 'busy',
          detail: 'Other rows are written to this file just now',
          afterMs: SOON_MS,
        };
      try {
        return await work();
      } finally {
        await client.query('select pg_advisory_unlock(hashtextextended($1, 4682))', [file]);
      }
    } catch (error) {
      // Its lock ends with it.
      broken = error as Error;
      throw error;
    } finally {
      client.release(broken);
    }
  }

  private async write(
    account: FilePlaceAccount,
    path: string,
    by: string,
    rows: readonly Cells[],
  ): Promise<RowPut[] | Failed> {
    const { places } = this.parts;
    for (let round = 1; round <= ROUNDS; round++) {
      const got = await places.fetch(account, path, null, MOST_WRITTEN_BYTES);
      if (!got.ok && !got.missing) return failedOf(got);
      const was: FileMark | null = got.ok ? got.value.mark : null;
      if (was && isWeak(was) && round < ROUNDS / 2) {
        await sleep(SETTLED_MS);
        continue;
      }
      const before = got.ok ? got.value.bytes : null;
      let made: ReturnType<typeof putRows>;
      try {
        made = putRows(before, by, rows);
      } catch (error) {
        if (error instanceof TableProblem) return { kind: 'refused', code: 'file', detail: error.message };
        throw error;
      }
      if (before?.equals(made.bytes)) return made.puts;
      if (made.bytes.length > MOST_WRITTEN_BYTES)
        return {
          ...{ kind: 'refused', code: 'file' },
          detail: `The file would become larger than ${MOST_WRITTEN_BYTES / (1024 * 1024)} MB. Begin another, and name it under Connections.`,
        };
      const put = await places.put(account, path, made.bytes, was);
      if (!put.ok) return failedOf(put);
      if (put.value === 'written') return made.puts;
      await sleep(SAVED_MS * round);
    }
    return { kind: 'again', code: 'busy', detail: 'Somebody else keeps saving this file', afterMs: null };
  }
}

const failedOf = ({ refused, problem }: { refused: boolean; problem: string }): Failed =>
  refused
    ? { kind: 'refused', code: 'file', detail: problem }
    : { kind: 'again', code: 'file', detail: problem, afterMs: null };

const HOW = { made: 'A row added to', changed: 'Its row brought up to date in', same: 'Its row stands already in' };
const answerOf = (put: RowPut, path: string): CallAnswer =>
  put.ok
    ? { kind: 'accepted', code: put.how, detail: `${HOW[put.how]} ${path}` }
    : { kind: 'refused', code: 'row', detail: put.problem };
