import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { StoredFile } from '../../db/entities/sheet.ts';
import { type ISource, Pull, Source } from '../../db/entities/source.ts';
import { noteRefusedFile } from '../../engine/intake/source-ports.ts';
import type { Runtime } from '../../runtime.ts';
import { jsonRaw } from '../../sources/source-module.ts';
import { workbook } from '../../sources/workbook/definition.ts';
import type { FileView } from '../../sources/workbook/file-view.ts';
import { learnColumns } from '../../sources/workbook/learn-columns.ts';
import { peek } from '../../sources/workbook/setup.ts';
import { MOST_FILE_BYTES, TableProblem, type TableTab } from '../../tables/table.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { findSource } from './sources.ts';

/** Files handed in for a workbook source, newest first. */
export async function listFiles(use: Use, sourceId: string): Promise<FileView[]> {
  const source = await findSource(use, sourceId);
  const files = await use.em.find(
    StoredFile,
    { source: source.id },
    { orderBy: { receivedAt: 'desc' }, limit: 8, exclude: ['bytes'] },
  );
  return files.map(({ id, name, size, receivedAt, state, problem, rows, fresh }) => ({
    id,
    name,
    size,
    receivedAt: receivedAt.toISOString(),
    state,
    problem: problem ?? null,
    rows,
    fresh,
  }));
}

/** Takes a file by hand. */
export async function uploadFile(use: Use, sourceId: string, name: string, bytes: Buffer): Promise<FileView> {
  demand(use.actor, 'build');
  const source = await findSource(use, sourceId);
  // Noted before it is read: one that turns out to be broken is kept as well, with its reason.
  await use.write(async (tx) => tx.note('source.file', sourceId, { bytes: bytes.length }));
  await takeFile(use.runtime, source, name, bytes);
  return (await listFiles(use, sourceId))[0]!;
}

/** Whether there is a source that files are dropped off for under this key. */
export const awaitsFiles = async (runtime: Runtime, key: string): Promise<boolean> =>
  (await runtime.settingsCache.sourceByKey(key))?.kind === workbook.kind;

/** Takes a file a script drops off. Null when there is no such place. */
export async function dropFile(runtime: Runtime, key: string, bytes: Buffer): Promise<{ id: string } | null> {
  const source = await runtime.orm.em.fork().findOne(Source, { key, kind: workbook.kind });
  return source ? { id: await takeFile(runtime, source, '', bytes) } : null;
}

/** Keeps the file, learns its columns when they are not known yet, and has it read. Throws a Refusal when it is no table. */
async function takeFile(runtime: Runtime, source: ISource, name: string, bytes: Buffer): Promise<string> {
  if (source.kind !== workbook.kind) throw new Refusal(409, 'no-files', 'This source does not take files.');
  if (bytes.length > MOST_FILE_BYTES)
    throw new Refusal(422, 'too-big', 'The file is larger than 40 MB. Split it, or leave out what is not needed.');
  const em = runtime.orm.em.fork();
  const known = await em.findOneOrFail(Source, { id: source.id });
  const settings = workbook.settings.parse(known.settings);
  const file = em.create(StoredFile, {
    id: uuidv7(),
    business: known.business.id,
    source: known,
    name: name.slice(0, 200),
    bytes,
    size: bytes.length,
    receivedAt: new Date(),
    state: 'new',
  });
  try {
    if (settings.columns.length === 0) {
      known.settings = await learnColumns(runtime.tables, bytes, settings, undefined);
      await em.flush();
      await sample(runtime, known, bytes);
    } else await runtime.tables.tabs(bytes);
  } catch (error) {
    if (!(error instanceof TableProblem)) throw error;
    // A broken file is kept too, with its reason.
    Object.assign(file, { state: 'refused', problem: error.message });
    await em.flush();
    await noteRefusedFile(runtime.pool, file.id);
    runtime.bell.ring(known.business.id);
    throw new Refusal(422, error.code, error.message);
  }
  await em.flush();
  await em.nativeUpdate(Pull, { source: source.id }, { nextAt: new Date() });
  runtime.settingsCache.forget();
  runtime.bell.ring(known.business.id);
  return file.id;
}

async function sample(runtime: Runtime, source: ISource, bytes: Uint8Array): Promise<void> {
  const known = (await runtime.settingsCache.sourceNow(source.id))!;
  const settings = workbook.settings.parse(source.settings);
  const ports = runtime.sourcePorts.of(known.business.id, known.business.name, source.id);
  const { entries } = await peek(ports, bytes, settings);
  for (const entry of entries.slice(0, 3).reverse()) await runtime.intake.keepSample(known, jsonRaw(entry));
}

const newestFile = async (use: Use, sourceId: string) => {
  const file = await use.em.findOne(StoredFile, { source: sourceId }, { orderBy: { receivedAt: 'desc' } });
  if (!file) throw new Refusal(409, 'no-file', 'Upload the file first.');
  return file;
};

/** The tabs of the newest file; none for CSV. */
export async function listTabs(use: Use, sourceId: string): Promise<TableTab[]> {
  const source = await findSource(use, sourceId);
  return use.runtime.tables.tabs((await newestFile(use, source.id)).bytes);
}

export const HowRead = z.object({
  /** Which row names the columns; null for none, left out to be looked for. */
  row: z.number().int().min(1).max(1000).nullable().optional(),
  /** The tab to read, by its name; left out for the one there is. */
  tab: z.string().max(300).optional(),
});

/** Corrects which tab is read and which row names the columns; the columns are learnt anew from the newest file. */
export async function correctHowRead(use: Use, sourceId: string, input: z.infer<typeof HowRead>): Promise<void> {
  demand(use.actor, 'build');
  const source = await findSource(use, sourceId);
  const file = await newestFile(use, source.id);
  const settings = workbook.settings.parse(source.settings);
  const tab = input.tab === undefined ? settings.tab : { name: input.tab, index: 0, id: '' };
  const learnt = await learnColumns(use.runtime.tables, file.bytes, { ...settings, tab }, input.row);
  const changed = await use.write(async (tx) => {
    const found = await findSource(tx, sourceId);
    found.settings = learnt;
    tx.note('source.how_read', sourceId);
    tx.forget();
    return found;
  });
  await sample(use.runtime, changed, file.bytes);
}
