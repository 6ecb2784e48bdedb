import { z } from 'zod';
import { renderTemplate } from '../../core/template/template.ts';
import { templateScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({
  /** By which its fields are known to later steps: "Teacher". */
  name: z.string().max(40),
  tab: z.string().max(60),
  /** The column that is searched, and what for: a template. */
  column: z.string().max(60),
  value: z.string().max(1000),
  whenNone: z.enum(['blanks', 'end_moment', 'end_run']),
});
export type LookUpSettings = z.infer<typeof Settings>;
export type LookUpDone = { tab: string; column: string; value: string; prefix: string; columns: string[] };

/** The prefix of a look-up's fields: its name in small letters. */
export const prefixOf = (name: string) =>
  name
    .trim()
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, '_') || 'row';

/** Looks up a row in a sheet; its cells become fields for the steps after it. */
export const lookUp: StepKind<LookUpSettings> = {
  kind: 'look-up',
  label: 'Look up a row',
  icon: 'search',
  places: ['first'],
  settings: Settings,
  blank: () => ({ name: '', tab: '', column: '', value: '', whenNone: 'blanks' }),
  card: ({ name, tab }, desk) => {
    const found = desk.tabs.find((one) => one.id === tab);
    return { title: found ? `Look up ${name || 'a row'} in ${found.name}` : 'Look up a row', line: '' };
  },
  aloud: ({ name, tab }, desk) =>
    `look up ${name ? `their ${name.toLowerCase()}` : 'a row'} in ${desk.tabs.find((one) => one.id === tab)?.name ?? 'a sheet'}`,
  check: ({ tab, column, value, name }, { desk }) => {
    const found = desk.tabs.find((one) => one.id === tab);
    const out: ReturnType<StepKind['check']> = [];
    if (tab === '') out.push({ weight: 'must', code: 'empty', text: 'Look up: choose the sheet.', field: 'tab' });
    else if (!found)
      out.push({ weight: 'must', code: 'gone', text: 'Look up: the sheet is no longer there.', field: 'tab' });
    else if (!found.columns.some((one) => one.id === column))
      out.push({ weight: 'must', code: 'gone', text: 'Look up: choose the column that is searched.', field: 'column' });
    if (value.trim() === '')
      out.push({ weight: 'must', code: 'empty', text: 'Look up: say what is looked for.', field: 'value' });
    if (name.trim() === '')
      out.push({ weight: 'must', code: 'empty', text: 'Look up: give what is found a name.', field: 'name' });
    return out;
  },
  templates: ({ value }) => [{ field: 'value', source: value }],
  gives: ({ name, tab }, desk) =>
    (desk.tabs.find((one) => one.id === tab)?.columns ?? []).map((column) => ({
      key: `${prefixOf(name)}.${column.id}`,
      label: `${name || 'Row'}: ${column.name}`,
    })),
  plan: ({ tab, column, value, name, whenNone }, { context, desk }) => {
    const found = desk.tabs.find((one) => one.id === tab);
    if (!found?.columns.some((one) => one.id === column))
      return { does: 'ask', why: { code: 'gone', text: 'The sheet or column of this look-up is no longer there' } };
    const rendered = renderTemplate(value, templateScope(context));
    if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
    const wanted = rendered.text.trim();
    if (wanted === '' && whenNone === 'blanks')
      return { does: 'nothing', why: { code: 'empty', text: 'There is nothing to look for' } };
    return {
      does: 'look',
      words: `Looks for “${wanted}” in ${found.name}`,
      ...(whenNone === 'blanks' ? {} : { ends: whenNone === 'end_run' ? ('run' as const) : ('moment' as const) }),
      what: {
        tab,
        column,
        value: wanted,
        prefix: prefixOf(name),
        columns: found.columns.map((one) => one.id),
      } satisfies LookUpDone,
    };
  },
};
