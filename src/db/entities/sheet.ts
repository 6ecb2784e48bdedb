import { defineEntity, type InferEntity, p } from '@mikro-orm/core';
import type { ShadeRule, SheetColumn } from '../../core/sheets/column.ts';
import { Business } from './business.ts';
import { PRESENT } from './present.ts';
import { Source } from './source.ts';

export const Sheet = defineEntity({
  name: 'Sheet',
  tableName: 'sheet',
  indexes: [{ name: 'sheet_business', properties: ['business'] }],
  filters: { present: PRESENT },
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    name: p.string(),
    /** Where it is kept among others; empty for none. */
    folder: p.string().length(60).default(''),
    createdAt: p.datetime(),
    /** When it was removed: it can be put back for some time. */
    removedAt: p.datetime().nullable(),
  },
});
export type ISheet = InferEntity<typeof Sheet>;

export const SheetTab = defineEntity({
  name: 'SheetTab',
  tableName: 'sheet_tab',
  indexes: [{ name: 'sheet_tab_sheet', properties: ['sheet', 'position'] }],
  properties: {
    id: p.uuid().primary(),
    sheet: () => p.manyToOne(Sheet).ref().deleteRule('cascade'),
    name: p.string(),
    position: p.integer(),
    columns: p.json<SheetColumn[]>(),
    shading: p.json<ShadeRule[]>().default([]),
    /** Counts changes. It is raised under a lock, so that rows are committed in the order of their revisions. */
    revision: p.integer().default(0),
    createdAt: p.datetime(),
  },
});
export type ISheetTab = InferEntity<typeof SheetTab>;

export const SheetRow = defineEntity({
  name: 'SheetRow',
  tableName: 'sheet_row',
  indexes: [
    { name: 'sheet_row_position', properties: ['tab', 'position'] },
    { name: 'sheet_row_revision', properties: ['tab', 'revision'] },
  ],
  properties: {
    id: p.uuid().primary(),
    tab: () => p.manyToOne(SheetTab).ref().deleteRule('cascade'),
    /** Rows stand in the order of this; a row put between two others gets a number between theirs. */
    position: p.double(),
    /** By column id; an empty cell is not there. */
    cells: p.json<Record<string, string>>(),
    /** The tab's revision at which it was last changed. */
    revision: p.integer(),
    updatedAt: p.datetime(),
  },
});

/** Who or what wrote a row, and what: kept for as long as its tab. */
export const SheetRowChange = defineEntity({
  name: 'SheetRowChange',
  tableName: 'sheet_row_change',
  indexes: [
    { name: 'sheet_row_change_row', properties: ['rowId', 'id'] },
    {
      name: 'sheet_row_change_lead',
      expression: `create index "sheet_row_change_lead" on "sheet_row_change" ("lead_id") where "lead_id" is not null`,
    },
  ],
  properties: {
    id: p.bigint().primary().autoincrement(),
    tab: () => p.manyToOne(SheetTab).ref().deleteRule('cascade'),
    /** The row may be gone by now. */
    rowId: p.uuid(),
    at: p.datetime(),
    how: p.enum(['typed', 'file', 'step', 'removed']),
    /** The cells that changed, by column id, as they were and as they are since. */
    before: p.json<Record<string, string>>(),
    after: p.json<Record<string, string>>(),
    /** The name of the file they came from. */
    file: p.text().default(''),
    personId: p.uuid().nullable(),
    runId: p.uuid().nullable(),
    leadId: p.uuid().nullable(),
  },
});

/** A column that a step looks in for a key: hot/row-keys.sql.ts. */
export const SheetKey = defineEntity({
  name: 'SheetKey',
  tableName: 'sheet_key',
  properties: {
    tab: () => p.manyToOne(SheetTab).ref().primary().deleteRule('cascade'),
    columnId: p.string().primary(),
  },
});

/** The word of a row in such a column, hashed, kept by the database itself with every change of the row. */
export const SheetRowKey = defineEntity({
  name: 'SheetRowKey',
  tableName: 'sheet_row_key',
  properties: {
    tab: () => p.manyToOne(SheetTab).ref().primary().deleteRule('cascade'),
    columnId: p.string().primary(),
    key: p.uuid().primary(),
    position: p.double().primary(),
    rowId: p.uuid().primary(),
  },
});

/** A file handed in: a workbook for a source, or an import. Kept as it was. */
export const StoredFile = defineEntity({
  name: 'StoredFile',
  tableName: 'stored_file',
  indexes: [{ name: 'stored_file_source', properties: ['source', 'receivedAt'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    source: () => p.manyToOne(Source).ref().deleteRule('cascade'),
    name: p.text(),
    bytes: p.blob(),
    size: p.integer(),
    receivedAt: p.datetime(),
    /** `new` until it has been read. */
    state: p.enum(['new', 'read', 'refused']),
    problem: p.text().nullable(),
    /** Rows in it, and those not seen before. */
    rows: p.integer().default(0),
    fresh: p.integer().default(0),
  },
});
