import { defineEntity, type InferEntity, p } from '@mikro-orm/core';
import { StoredFile } from './sheet.ts';
import { Source } from './source.ts';

export const IMPORT_STATES = ['reading', 'read', 'ready', 'running', 'stopped', 'done', 'undone', 'refused'] as const;
export type ImportState = (typeof IMPORT_STATES)[number];

/** How many rows are what, once they have been looked at by the lead card. */
export interface ImportCounts {
  good: number;
  /** Nobody can be told from it: no email and no phone that can be read. */
  refused: number;
  /** Somebody who stands further up in the file. */
  duplicate: number;
  /** Good ones of people who are leads already. */
  known: number;
}

/** One file of people, brought in once. Its arrivals belong to the source; the row is its own queue entry. */
export const LeadImport = defineEntity({
  name: 'LeadImport',
  tableName: 'lead_import',
  properties: {
    source: () => p.oneToOne(Source).ref().primary().owner(),
    file: () => p.manyToOne(StoredFile).ref(),
    state: p.enum([...IMPORT_STATES]),
    problem: p.text().nullable(),
    /** Rows below the header. */
    rows: p.integer().default(0),
    counts: p.json<ImportCounts | null>().nullable(),
    /** The lead card the counts were made by. */
    checkedCard: p.json<unknown>().nullable(),
    /** Null to record only. */
    workflowId: p.uuid().nullable(),
    /** The list they are put on once all are in, and whether they have agreed to that already. */
    listId: p.uuid().nullable(),
    proven: p.boolean().default(false),
    perMinute: p.integer().default(60),
    withDuplicates: p.boolean().default(false),
    /** Rows are taken in their order; how far that has come, and how many were taken. */
    lastRow: p.integer().default(0),
    done: p.integer().default(0),
    /** How many are to be taken. */
    total: p.integer().default(0),
    startedAt: p.datetime().nullable(),
    startedById: p.uuid().nullable(),
    finishedAt: p.datetime().nullable(),
    nextAt: p.datetime(),
    leaseBy: p.text().nullable(),
    leaseUntil: p.datetime().nullable(),
  },
});
export type ILeadImport = InferEntity<typeof LeadImport>;

export const ImportRow = defineEntity({
  name: 'ImportRow',
  tableName: 'import_row',
  indexes: [{ name: 'import_row_verdict', properties: ['source', 'verdict', 'n'] }],
  properties: {
    source: () => p.manyToOne(Source).ref().deleteRule('cascade').primary(),
    /** As the file counts. */
    n: p.integer().primary(),
    cells: p.json<string[]>(),
    verdict: p.enum(['unknown', 'good', 'known', 'duplicate', 'refused']),
    problem: p.text().nullable(),
    /** What was wrong in the file itself: a cell with an error. */
    trouble: p.text().nullable(),
  },
});
