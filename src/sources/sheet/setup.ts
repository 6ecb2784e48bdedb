import { z } from 'zod';
import { fitsFilter, RowFilter } from '../../core/sheets/row-filter.ts';
import type { RowEntry } from '../row-entry.ts';
import { jsonRaw, type SheetChange, type SourcePuller, type SourceSetup, trouble } from '../source-module.ts';
import type { SheetSettings } from './definition.ts';

const Input = z.object({
  tabId: z.uuid('Choose a tab'),
  when: z.enum(['new', 'changed']),
  /** Null for the row after the last one there is. */
  fromRow: z.number().int().min(1, 'The first row is 1').max(1_000_000).nullable(),
  filter: RowFilter.nullable().default(null),
  everyMinutes: z.literal([0, 1, 5, 15, 60]).default(0),
});
type Input = z.infer<typeof Input>;

/** A row counts once nobody has typed in it for this long, in milliseconds: a lead is not greeted by half a name. */
export const SETTLE_MS = 3000;
const BATCH = 200;

const GONE = trouble('The tab has been deleted. Nothing more comes from it; choose another in a new source.');
const Cursor = z.object({ revision: z.number().int(), position: z.number() });
/** Below every row there is. */
const END = 1e15;

export const sheetSetup: SourceSetup<Input, SheetSettings> = {
  input: Input,
  async choices(ports, ask) {
    if (ask.of === 'columns') {
      const tab = await ports.sheets.tab(ask.query);
      if (!tab) return GONE;
      return { ok: true, next: null, choices: tab.columns.map(({ id, name }) => ({ id, label: name })) };
    }
    const tabs = await ports.sheets.tabs(ask.query);
    return {
      ok: true,
      next: null,
      choices: tabs.map(({ id, name, sheetName }) => ({ id, label: name, group: sheetName })),
    };
  },
  async prepare(ports, input) {
    const tab = await ports.sheets.tab(input.tabId);
    if (!tab) return trouble('This tab is not there any more. Choose another.');
    if (input.filter && !tab.columns.some((column) => column.id === input.filter!.column))
      return trouble('The column of the filter is not there any more. Choose another.');
    const fromRow = input.fromRow ?? tab.rows + 1;
    const there = Math.max(0, tab.rows - fromRow + 1);
    return {
      ok: true,
      name: `${tab.sheetName}: ${tab.name}`.slice(0, 100),
      settings: {
        sheetId: tab.sheetId,
        tabId: input.tabId,
        when: input.when,
        fromRow,
        afterPosition: await ports.sheets.positionOf(input.tabId, fromRow - 1),
        filter: input.filter,
      },
      pull: {
        everyMinutes: input.everyMinutes,
        cursor: there > 0 ? { revision: 0, position: 0 } : { revision: tab.revision, position: END },
        backlog: there,
      },
    };
  },
};

/** The row as an arrival: each column by its id, whatever it is called by now. */
function entryOf(settings: SheetSettings, columns: { id: string; name: string }[], row: SheetChange): RowEntry {
  return {
    id: settings.when === 'changed' ? `row:${row.id}:${row.revision}` : `row:${row.id}`,
    number: row.number,
    cells: columns.map((column) => ({ key: column.id, label: column.name, value: row.cells[column.id] ?? '' })),
  };
}

const wanted = (settings: SheetSettings, row: SheetChange): boolean =>
  Object.values(row.cells).some((cell) => cell.trim() !== '') &&
  (settings.filter === null || fitsFilter(row.cells[settings.filter.column] ?? '', settings.filter));

export const sheetPuller: SourcePuller<SheetSettings> = {
  toldOfChanges: true,
  async *pull(ports, settings, stored) {
    let after = Cursor.parse(stored);
    for (;;) {
      const tab = await ports.sheets.tab(settings.tabId);
      if (!tab) {
        yield GONE;
        return;
      }
      const { rows, unsettled } = await ports.sheets.changes(settings.tabId, {
        after,
        belowPosition: settings.afterPosition,
        settledBefore: ports.now - SETTLE_MS,
        most: BATCH,
      });
      const entries = rows.filter((row) => wanted(settings, row)).map((row) => entryOf(settings, tab.columns, row));
      const seen = await ports.seen(entries.map((entry) => entry.id));
      const last = rows.at(-1);
      if (last) after = { revision: last.revision, position: last.position };
      const more = rows.length >= BATCH;
      yield {
        ok: true,
        raws: entries.filter((entry) => !seen.has(entry.id)).map(jsonRaw),
        cursor: after,
        more,
        unfetched: null,
        passed: rows.length,
        ...(unsettled ? { againInMs: 1500 } : {}),
      };
      if (!more) return;
    }
  },
  async newest(ports, settings) {
    const tab = await ports.sheets.tab(settings.tabId);
    if (!tab) return GONE;
    const row = await ports.sheets.lastRow(settings.tabId);
    return { ok: true, raw: row ? jsonRaw(entryOf(settings, tab.columns, row)) : null };
  },
};
