import { z } from 'zod';
import { renderTemplate } from '../../core/template/template.ts';
import { machineScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({
  tab: z.string().max(60),
  /** What goes into each column, by the column's id: templates. */
  cells: z.record(z.string().max(60), z.string().max(5000)),
  /** The column by which a row is recognised; empty to add always. */
  key: z.string().max(60),
  whenThere: z.enum(['skip', 'update', 'add']),
  /** Whether a row is added when none has the key. */
  addIfNone: z.boolean().default(true),
  /** A list that came with the arrival: one row for each of its items; empty for one row. */
  each: z.string().max(200),
});
export type SheetRowSettings = z.infer<typeof Settings>;
export type SheetRowDone = {
  tab: string;
  key: string;
  whenThere: SheetRowSettings['whenThere'];
  addIfNone: boolean;
  rows: Record<string, string>[];
};

/** A row in a sheet: added, or the one with the same key updated. Columns are known by their ids. */
export const sheetRow: StepKind<SheetRowSettings> = {
  kind: 'sheet-row',
  label: 'Row in a sheet',
  icon: 'table-2',
  places: ['record'],
  settings: Settings,
  blank: () => ({ tab: '', cells: {}, key: '', whenThere: 'skip', addIfNone: true, each: '' }),
  card: ({ tab, cells, key, whenThere }, catalogue) => {
    const found = catalogue.tabs.find((one) => one.id === tab);
    const filled = Object.values(cells).filter((one) => one.trim() !== '').length;
    const column = found?.columns.find((column) => column.id === key)?.name;
    const same = column
      ? `, ${whenThere === 'update' ? 'update' : whenThere === 'skip' ? 'skip' : 'add'} if same ${column}`
      : '';
    return {
      title: found ? `Row in ${found.name}` : 'Row in a sheet',
      line: found ? `${filled} ${filled === 1 ? 'column' : 'columns'}${same}` : '',
    };
  },
  aloud: ({ tab, each }, catalogue) =>
    `put ${each ? 'a row for each of them' : 'a row'} in ${catalogue.tabs.find((one) => one.id === tab)?.name ?? 'a sheet'}`,
  check: ({ tab, cells, key }, { catalogue }) => {
    const found = catalogue.tabs.find((one) => one.id === tab);
    if (tab === '') return [{ weight: 'must', code: 'empty', text: 'Row in a sheet: choose the sheet.', field: 'tab' }];
    if (!found)
      return [{ weight: 'must', code: 'gone', text: 'Row in a sheet: the sheet is no longer there.', field: 'tab' }];
    const out: ReturnType<StepKind['check']> = [];
    const known = new Set(found.columns.map((column) => column.id));
    const filled = Object.entries(cells).filter(([, source]) => source.trim() !== '');
    if (filled.length === 0)
      out.push({ weight: 'must', code: 'empty', text: 'Row in a sheet: fill at least one column.', field: 'cells' });
    if (filled.some(([id]) => !known.has(id)) || (key !== '' && !known.has(key)))
      out.push({ weight: 'must', code: 'gone', text: 'Row in a sheet: a column it used has gone.', field: 'cells' });
    else if (key !== '' && !filled.some(([id]) => id === key))
      out.push({
        weight: 'must',
        code: 'key-empty',
        text: 'Row in a sheet: the key column is not filled.',
        field: 'key',
      });
    return out;
  },
  templates: ({ cells }) => Object.entries(cells).map(([id, source]) => ({ field: `cells.${id}`, source })),
  plan: ({ tab, cells, key, whenThere, addIfNone, each }, { context, catalogue, now }) => {
    const found = catalogue.tabs.find((one) => one.id === tab);
    if (tab === '') return { does: 'ask', why: { code: 'empty', text: 'Choose the sheet of this step' } };
    if (!found) return { does: 'ask', why: { code: 'gone', text: 'The sheet of this step is no longer there' } };
    const filled = Object.entries(cells).filter(([, source]) => source.trim() !== '');
    if (filled.some(([id]) => !found.columns.some((column) => column.id === id)))
      return { does: 'ask', why: { code: 'gone', text: `A column this step writes to has gone from ${found.name}` } };
    const items = each === '' ? [{}] : (context.lists[each] ?? []).slice(0, 500);
    const rows: Record<string, string>[] = [];
    for (const item of items) {
      const scope = { ...machineScope(context, now), item };
      const row: Record<string, string> = {};
      for (const [id, source] of filled) {
        const rendered = renderTemplate(source, scope);
        if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
        row[id] = rendered.text.trim().slice(0, 20_000);
      }
      rows.push(row);
    }
    if (rows.length === 0)
      return { does: 'nothing', why: { code: 'empty', text: 'The list it goes through is empty' } };
    const shown = rows
      .slice(0, 3)
      .map((row) =>
        // As the sheet has them, and under their names.
        found.columns
          .filter(({ id }) => row[id])
          .map(({ id, name }) => `${name}: ${row[id]}`)
          .join(', '),
      )
      .join('; ');
    return {
      does: 'record',
      words: `${found.name}: ${rows.length > 1 ? `${rows.length} rows, ` : ''}${shown}`,
      what: { tab, key, whenThere, addIfNone: key === '' || addIfNone, rows } satisfies SheetRowDone,
    };
  },
};
