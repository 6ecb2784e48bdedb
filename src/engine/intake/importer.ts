import type pg from 'pg';
import type { FileColumn } from '../../core/sheets/match-columns.ts';
import { localHour } from '../../core/words/local-hour.ts';
import type { ImportCounts, ImportState } from '../../db/entities/lead-import.ts';
import { log } from '../../log.ts';
import { jsonRaw } from '../../sources/source-module.ts';
import { TableProblem } from '../../tables/table.ts';
import type { TableReader } from '../../tables/table-reader.ts';
import type { Bell } from '../bell.ts';
import { LeasedLoop } from '../loop.ts';
import type { KnownSource, SettingsCache } from '../settings-cache.ts';
import { entryOf, judgeRow } from './import-row.ts';
import { importRows, liveWorkflow, putOnList } from './import-store.ts';
import type { Intake } from './intake.ts';
import { type FileSettings, READ_BATCH, readImportFile } from './read-import-file.ts';
import { noteRefusedFile } from './source-ports.ts';

const LEASE_SECONDS = 120;
const RECORD_BATCH = 500;
/** How often rows are taken while a workflow runs for each, in milliseconds. */
const PACE_MS = 2000;
/** Between these hours of the business's day workflows are run for imported people. Common practice, no source. */
const QUIET = { from: 21, until: 8 };

interface Leased {
  source_id: string;
  state: ImportState;
  file_id: string;
  workflow_id: string | null;
  per_minute: number;
  with_duplicates: boolean;
  last_row: number;
  list_id: string | null;
  proven: boolean;
  started_by_id: string | null;
}

/** Read, brought in, or looked at anew since its card is another. */
const DUE_IMPORTS = `from lead_import i join source s on s.id = i.source_id
  where (i.lease_until is null or i.lease_until < now()) and i.next_at <= now()
    and (i.state in ('reading', 'running') or (i.state in ('read', 'ready') and s.card_confirmed and i.checked_card is distinct from s.card))`;

/** Works on imports: reads their files, looks at each row by the lead card, and brings the rows in. One process has one at a time. */
export class Importer {
  readonly loop = new LeasedLoop<Leased>({
    name: 'imports',
    atOnce: 1,
    due: `exists (select ${DUE_IMPORTS})`,
    lease: () => this.lease(),
    work: (leased) => this.work(leased),
    about: ({ source_id }) => ({ source: source_id }),
  });

  constructor(
    private readonly parts: {
      pool: pg.Pool;
      settingsCache: SettingsCache;
      intake: Intake;
      tables: TableReader;
      bell: Bell;
      holder: string;
      now: () => number;
    },
  ) {}

  private async lease(): Promise<Leased[]> {
    const { rows } = await this.parts.pool.query<Leased>(
      `with due as (select i.source_id ${DUE_IMPORTS} order by i.next_at limit 1 for update of i skip locked)
       update lead_import i set lease_by = $1, lease_until = now() + $2::int * interval '1 s' from due where i.source_id = due.source_id
       returning i.source_id, i.state, i.file_id, i.workflow_id, i.per_minute, i.with_duplicates, i.last_row, i.list_id, i.proven, i.started_by_id`,
      [this.parts.holder, LEASE_SECONDS],
    );
    return rows;
  }

  private async work(leased: Leased): Promise<void> {
    const source = await this.parts.settingsCache.sourceNow(leased.source_id);
    if (!source) return;
    try {
      if (leased.state === 'reading') await this.read(leased, source);
      else if (leased.state === 'running') await this.bring(leased, source);
      else await this.check(leased, source);
    } catch (error) {
      const reason = cannotGoOn(error);
      if (reason === null) throw error;
      log.error({ scope: 'imports', source: leased.source_id, err: error }, 'cannot go on');
      if (leased.state === 'running') {
        // What is in is in; it can be gone on with, or undone.
        await this.settle(leased, { state: 'stopped', problem: reason });
        this.parts.bell.ring(source.business.id);
        return;
      }
      await this.settle(leased, { state: 'refused', problem: reason });
      await this.parts.pool.query(`update stored_file set state = 'refused', problem = $2 where id = $1`, [
        leased.file_id,
        reason,
      ]);
      await noteRefusedFile(this.parts.pool, leased.file_id);
    }
    this.parts.bell.ring(source.business.id);
  }

  /** Ends this lease and writes what came of it. Gives false when the import is not ours any more. */
  private async settle(leased: Leased, change: Record<string, unknown>, nextInMs = 0): Promise<boolean> {
    const names = Object.keys(change);
    const { rowCount } = await this.parts.pool.query(
      `update lead_import set ${names.map((name, i) => `${name} = $${i + 4}, `).join('')}
         next_at = now() + $3::int * interval '1 ms', lease_by = null, lease_until = null where source_id = $1 and lease_by = $2`,
      [leased.source_id, this.parts.holder, nextInMs, ...names.map((name) => change[name])],
    );
    return rowCount === 1;
  }

  private async keepClaim(leased: Leased): Promise<void> {
    await this.parts.pool.query(
      `update lead_import set lease_until = now() + $3::int * interval '1 s' where source_id = $1 and lease_by = $2`,
      [leased.source_id, this.parts.holder, LEASE_SECONDS],
    );
  }

  private async read(leased: Leased, source: KnownSource): Promise<void> {
    const { pool } = this.parts;
    const file = await pool.query<{ bytes: Buffer }>('select bytes from stored_file where id = $1', [leased.file_id]);
    await pool.query('delete from import_row where source_id = $1', [source.id]);
    const writing = new OneBehind();
    const read = await readImportFile(
      this.parts.tables,
      file.rows[0]!.bytes,
      source.settings as unknown as FileSettings,
      (rows) =>
        writing.after(async () => {
          if (rows.length > 0)
            await pool.query(
              `insert into import_row (source_id, n, cells, verdict, trouble) select $1, n, cells::jsonb, 'unknown', nullif(trouble, '')
             from unnest($2::int[], $3::text[], $4::text[]) t(n, cells, trouble)`,
              [
                source.id,
                rows.map((row) => row.n),
                rows.map((row) => JSON.stringify(row.cells)),
                rows.map((row) => row.trouble ?? ''),
              ],
            );
          await this.keepClaim(leased);
        }),
    );
    await writing.done();
    if (read.count === 0) throw new TableProblem('empty', 'There are no rows in the file below the column names.');
    await pool.query('update source set settings = $2 where id = $1', [
      source.id,
      { headerRow: read.headerRow, columns: read.columns, tab: read.tab },
    ]);
    const known = (await this.parts.settingsCache.sourceNow(source.id))!;
    const samples = await importRows(this.parts.pool, source.id, 0, 3, true);
    for (const row of samples.reverse()) await this.parts.intake.keepSample(known, jsonRaw(entryOf(row, read.columns)));
    await this.settle(leased, { state: 'read', problem: null, rows: read.count, checked_card: null, counts: null });
  }

  /** Looks at every row: who it is, and whether they are known, in the file twice, or nobody at all. */
  private async check(leased: Leased, source: KnownSource): Promise<void> {
    const { pool } = this.parts;
    const { columns } = source.settings as { columns: FileColumn[] };
    const seen = new Set<string>();
    const writing = new OneBehind();
    const counts: ImportCounts = { good: 0, refused: 0, duplicate: 0, known: 0 };
    for (let after = 0; ; ) {
      const rows = await importRows(this.parts.pool, source.id, after, READ_BATCH, true);
      if (rows.length === 0) break;
      after = rows.at(-1)!.n;
      const judged = rows.map((row) => judgeRow(row, columns, source.card, source.business.country));
      const identities = judged.flatMap((judged) => judged.identities);
      const { rows: leads } = await pool.query<{ key: string }>(
        `select i.kind || ':' || i.value as key from lead_identity i
         join unnest($2::text[], $3::text[]) d(kind, value) on i.kind = d.kind and i.value = d.value where i.business_id = $1`,
        [source.business.id, identities.map(([kind]) => kind), identities.map(([, value]) => value)],
      );
      const known = new Set(leads.map((row) => row.key));
      for (const one of judged) {
        const keys = one.identities.map(([kind, value]) => `${kind}:${value}`);
        if (one.verdict === 'good' && keys.some((key) => seen.has(key)))
          Object.assign(one, { verdict: 'duplicate', problem: 'Stands further up in the file already.' });
        else if (one.verdict === 'good' && keys.some((key) => known.has(key))) one.verdict = 'known';
        for (const key of keys) seen.add(key);
        if (one.verdict === 'refused' || one.verdict === 'duplicate') counts[one.verdict] += 1;
        else {
          counts.good += 1;
          if (one.verdict === 'known') counts.known += 1;
        }
      }
      await writing.after(async () => {
        await pool.query(
          `update import_row r set verdict = v.verdict, problem = nullif(v.problem, '') from unnest($2::int[], $3::text[], $4::text[]) v(n, verdict, problem)
         where r.source_id = $1 and r.n = v.n`,
          [
            source.id,
            judged.map((judged) => judged.n),
            judged.map((judged) => judged.verdict),
            judged.map((judged) => judged.problem ?? ''),
          ],
        );
        await this.keepClaim(leased);
      });
      if (this.loop.stopping) return writing.done();
    }
    await writing.done();
    await this.settle(leased, {
      state: 'ready',
      counts: JSON.stringify(counts),
      checked_card: JSON.stringify(source.card),
    });
  }

  private async bring(leased: Leased, source: KnownSource): Promise<void> {
    const { intake } = this.parts;
    const { columns } = source.settings as { columns: FileColumn[] };
    const paced = leased.workflow_id !== null;
    if (paced) {
      const hour = localHour(this.parts.now(), source.business.timeZone);
      if (hour >= QUIET.from || hour < QUIET.until) {
        await this.settle(
          leased,
          { problem: `Held until ${String(QUIET.until).padStart(2, '0')}:00, out of quiet hours.` },
          60_000,
        );
        return;
      }
    }
    const workflows = paced ? await liveWorkflow(this.parts.pool, leased.workflow_id!) : [];
    if (paced && workflows.length === 0) {
      await this.settle(leased, {
        state: 'stopped',
        problem: 'The workflow is not live any more. Put it live, or choose another.',
      });
      return;
    }
    const most = paced ? Math.max(1, Math.round((leased.per_minute * PACE_MS) / 60_000)) : RECORD_BATCH;
    const behind = async (after: number) => {
      const rows = await importRows(this.parts.pool, source.id, after, most, false, leased.with_duplicates);
      const raws = rows.map((row) => jsonRaw(entryOf(row, columns)));
      return { rows, items: await intake.readAll(source, raws, workflows) };
    };
    for (let next = behind(leased.last_row); ; ) {
      const { rows, items } = await next;
      if (rows.length === 0) {
        await putOnList(this.parts.pool, leased, source);
        await this.settle(leased, { state: 'done', problem: null, finished_at: new Date(this.parts.now()) });
        return;
      }
      const last = rows.at(-1)!.n;
      if (!paced) {
        // Read while the database is at these.
        next = behind(last);
        next.catch(() => {});
      }
      // The count moves with what it counts; somebody who has pressed stop has taken the state away from under it.
      const stored = await intake.store(source, items, {
        text: `update lead_import set last_row = $3, done = done + $4, problem = null, lease_until = now() + $5::int * interval '1 s'
            where source_id = $1 and lease_by = $2 and state = 'running'`,
        values: [source.id, this.parts.holder, last, rows.length, LEASE_SECONDS],
      });
      if (!stored) {
        await this.settle(leased, {});
        return;
      }
      if (paced || this.loop.stopping) {
        await this.settle(leased, {}, paced ? PACE_MS : 0);
        return;
      }
      this.parts.bell.ring(source.business.id);
    }
  }
}

/** Work that is done while what follows it is made ready: one piece at a time, in order. What goes wrong in one is thrown to whoever asks next. */
class OneBehind {
  private last: Promise<void> = Promise.resolve();

  async after(work: () => Promise<void>): Promise<void> {
    await this.last;
    this.last = work();
    this.last.catch(() => {});
  }
  done(): Promise<void> {
    return this.last;
  }
}

/**
 * Why an import cannot go on, in words; null when the trouble is ours and passes, a database that restarts, and it is simply tried again.
 * SQLSTATE classes 22 and 23 are data the database does not take (PostgreSQL, Appendix A).
 */
function cannotGoOn(error: unknown): string | null {
  if (error instanceof TableProblem) return error.message;
  const code = (error as { code?: string }).code ?? '';
  if (/^(22|23)/.test(code) || error instanceof TypeError || error instanceof RangeError)
    return 'There is something in the file that cannot be kept. Save it once more as XLSX or CSV, and begin anew with that.';
  return null;
}
