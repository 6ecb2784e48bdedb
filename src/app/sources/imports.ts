import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { type ILeadImport, LeadImport } from '../../db/entities/lead-import.ts';
import { StoredFile } from '../../db/entities/sheet.ts';
import { leadImport } from '../../sources/import/definition.ts';
import type { ImportRow, ImportView } from '../../sources/import/import-view.ts';
import { sniff } from '../../tables/sniff.ts';
import { MOST_FILE_BYTES, TableProblem } from '../../tables/table.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import { seenAs } from '../seen.ts';
import type { Use, Write } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { findSource } from './sources.ts';
import type { HowRead } from './workbook-files.ts';

async function find(use: Use, sourceId: string): Promise<ILeadImport | null> {
  await findSource(use, sourceId);
  return use.em.findOne(LeadImport, { source: sourceId }, { refresh: true });
}

export async function need(use: Use, sourceId: string): Promise<ILeadImport> {
  const found = await find(use, sourceId);
  if (!found) throw new Refusal(409, 'no-file', 'Upload a file first.');
  return found;
}

export async function getImport(use: Use, sourceId: string): Promise<ImportView | null> {
  const source = await findSource(use, sourceId);
  const found = await find(use, sourceId);
  if (!found) return null;
  const { columns, headerRow, tab } = leadImport.settings.parse(source.settings);
  const file = await use.em.findOneOrFail(StoredFile, { id: found.file.id }, { exclude: ['bytes'] });
  const { rows: workflows } = await use.db.query<{ id: string; name: string }>(
    `select id, name from workflow where business_id = $1 and state = 'live' order by name`,
    [use.actor.businessId],
  );
  const { lists } = await catalogueFor(use);
  const { rows: sent } = await use.db.query<{ n: number }>(
    `select count(*)::int as n from delivery d join run r on r.id = d.run_id where r.source_id = $1 and d.audience = 'lead' and d.state in ('accepted', 'delivered')`,
    [sourceId],
  );
  return {
    state: found.state,
    fileName: file.name,
    problem: found.problem ?? null,
    rows: found.rows,
    columns,
    headerRow: headerRow ?? null,
    tab: tab?.name ?? null,
    counts: found.counts ?? null,
    checked: found.counts !== null && seenAs(found.checkedCard) === seenAs(source.card),
    workflowName: found.workflowId
      ? (workflows.find((workflow) => workflow.id === found.workflowId)?.name ?? 'a workflow')
      : null,
    perMinute: found.perMinute,
    done: found.done,
    total: found.total,
    startedAt: found.startedAt?.toISOString() ?? null,
    finishedAt: found.finishedAt?.toISOString() ?? null,
    workflows,
    lists: lists.map(({ id, name, optIn }) => ({ id, name, asks: optIn === 'double' })),
    listName: lists.find((list) => list.id === found.listId)?.name ?? null,
    messages: sent[0]!.n,
  };
}

/** Takes the file of an import and has it read. */
export async function uploadImport(tx: Write, sourceId: string, name: string, bytes: Buffer): Promise<ImportView> {
  demand(tx.actor, 'build');
  const source = await findSource(tx, sourceId);
  if (source.kind !== leadImport.kind) throw new Refusal(409, 'no-import', 'This source is not an import.');
  if (bytes.length > MOST_FILE_BYTES)
    throw new Refusal(422, 'too-big', 'The file is larger than 40 MB. Split it, or leave out what is not needed.');
  try {
    sniff(bytes);
  } catch (error) {
    if (error instanceof TableProblem) throw new Refusal(422, error.code, error.message);
    throw error;
  }
  const before = await find(tx, sourceId);
  if (before && !['reading', 'read', 'ready', 'refused'].includes(before.state))
    throw new Refusal(409, 'begun', 'This import has begun. Make a new one for another file.');
  const file = tx.em.create(StoredFile, {
    id: uuidv7(),
    business: tx.actor.businessId,
    source,
    name: name.slice(0, 200),
    bytes,
    size: bytes.length,
    receivedAt: new Date(),
    state: 'read',
  });
  source.settings = { columns: [] };
  if (before)
    Object.assign(before, {
      file,
      state: 'reading',
      problem: null,
      counts: null,
      nextAt: new Date(),
      leaseBy: null,
      leaseUntil: null,
    });
  else tx.em.create(LeadImport, { source, file, state: 'reading', nextAt: new Date() });
  tx.note('import.upload', sourceId);
  await tx.em.flush();
  tx.forget();
  return (await getImport(tx, sourceId))!;
}

/** Corrects which tab is read and which row names the columns; the file is read again. */
export async function correctImportHeader(
  tx: Write,
  sourceId: string,
  { row, tab }: z.infer<typeof HowRead>,
): Promise<ImportView> {
  demand(tx.actor, 'build');
  const found = await need(tx, sourceId);
  if (!['read', 'ready', 'refused'].includes(found.state))
    throw new Refusal(409, 'begun', 'This import has begun already.');
  const source = await findSource(tx, sourceId);
  const before = leadImport.settings.parse(source.settings);
  source.settings = {
    ...(row === undefined ? {} : { headerRow: row }),
    tab: tab === undefined ? before.tab : { name: tab, index: 0, id: '' },
    columns: [],
  };
  Object.assign(found, { state: 'reading', problem: null, counts: null, nextAt: new Date() });
  tx.note('import.how_read', sourceId);
  await tx.em.flush();
  tx.forget();
  return (await getImport(tx, sourceId))!;
}

/** Rows of one verdict, a page at a time. */
export async function importRows(
  use: Use,
  sourceId: string,
  verdict: string | null,
  after: number,
): Promise<ImportRow[]> {
  await findSource(use, sourceId);
  const { rows } = await use.db.query<ImportRow>(
    `select n, cells, verdict, problem from import_row where source_id = $1 and ($2::text is null or verdict = $2) and n > $3 order by n limit 50`,
    [sourceId, verdict || null, after],
  );
  return rows;
}

export const StartImport = z.object({
  workflowId: z.uuid().nullable(),
  /** The list they are put on once all are in, and whether they have agreed to that already. */
  listId: z.uuid().nullable().default(null),
  proven: z.boolean().default(false),
  perMinute: z.number().int().min(1, 'At least one a minute').max(600, 'At most 600 a minute').default(60),
  withDuplicates: z.boolean().default(false),
  /** The count the person has seen and agreed to. */
  count: z.number().int().min(1),
});

/** Starts an import, or goes on with a stopped one. Only when the number that was agreed to is the number there is. */
export async function startImport(
  tx: Write,
  sourceId: string,
  input: z.infer<typeof StartImport>,
): Promise<ImportView> {
  demand(tx.actor, 'build');
  const found = await need(tx, sourceId);
  if (found.state !== 'ready' && found.state !== 'stopped')
    throw new Refusal(409, 'not-ready', 'The file is not ready yet. Wait until its rows have been looked at.');
  const going = found.state === 'stopped';
  const withDuplicates = going ? found.withDuplicates : input.withDuplicates;
  const { rows } = await tx.db.query<{ n: number }>(
    `select count(*)::int as n from import_row where source_id = $1 and n > $2 and verdict = any($3::text[])`,
    [sourceId, found.lastRow, ['good', 'known', ...(withDuplicates ? ['duplicate'] : [])]],
  );
  const left = rows[0]!.n;
  if (left !== input.count)
    throw new Refusal(
      409,
      'other-count',
      `There are ${left.toLocaleString('en')} now, not ${input.count.toLocaleString('en')}. Look again before you start.`,
    );
  if (input.workflowId) {
    const { rowCount } = await tx.db.query(
      `select 1 from workflow where id = $1 and business_id = $2 and state = 'live'`,
      [input.workflowId, tx.actor.businessId],
    );
    if (rowCount === 0) throw new Refusal(409, 'not-live', 'This workflow is not live. Put it live first.');
  }
  const { lists } = await catalogueFor(tx);
  if (input.listId && !lists.some((list) => list.id === input.listId))
    throw new Refusal(422, 'no-list', 'The list chosen is no longer there. Choose again.');
  Object.assign(found, {
    state: 'running',
    workflowId: input.workflowId,
    listId: input.listId,
    proven: input.proven,
    perMinute: input.perMinute,
    withDuplicates,
    total: found.done + left,
    startedAt: found.startedAt ?? new Date(),
    startedById: tx.actor.personId,
    problem: null,
    nextAt: new Date(),
  });
  tx.note('import.start', sourceId, { ...input });
  await tx.em.flush();
  return (await getImport(tx, sourceId))!;
}

/** Stops a running import; what has been brought in stays. */
export async function stopImport(tx: Write, sourceId: string): Promise<ImportView> {
  demand(tx.actor, 'build');
  await need(tx, sourceId);
  await tx.db.query(
    `update lead_import set state = 'stopped', problem = null where source_id = $1 and state = 'running'`,
    [sourceId],
  );
  tx.note('import.stop', sourceId);
  await tx.em.flush();
  tx.em.clear();
  return (await getImport(tx, sourceId))!;
}

/** The rows that were not taken, with the reason behind each, as they stood in the file. */
export async function refusedRows(tx: Write, sourceId: string): Promise<string[][]> {
  demand(tx.actor, 'build');
  tx.note('import.export', sourceId);
  const source = await findSource(tx, sourceId);
  const { columns } = leadImport.settings.parse(source.settings);
  const { rows } = await tx.db.query<ImportRow>(
    `select n, cells, verdict, problem from import_row where source_id = $1 and verdict in ('refused', 'duplicate') order by n`,
    [sourceId],
  );
  const ordered = columns.toSorted((a, b) => a.index - b.index);
  return [
    ['Row', ...ordered.map((column) => column.name), 'Why'],
    ...rows.map((row) => [String(row.n), ...ordered.map((column) => row.cells[column.index] ?? ''), row.problem ?? '']),
  ];
}
