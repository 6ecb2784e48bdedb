import { z } from 'zod';
import { renderTemplate } from '../../core/template/template.ts';
import { machineScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { wordOf } from '../kept-key.ts';

const Settings = z.object({
  /** By which its fields are known to later steps: "Teacher". */
  name: z.string().max(40),
  /** What its fields are called by: made once and kept when the name changes. Empty in sheets of old, where the name says it. */
  key: z.string().max(60).default(''),
  /** In a sheet, among the leads, or among their deals. */
  among: z.enum(['sheet', 'leads', 'deals']).default('sheet'),
  tab: z.string().max(60),
  /** The column that is searched, and what for: a template. Leads and deals are found by email or phone. */
  column: z.string().max(60),
  value: z.string().max(1000),
  whenNone: z.enum(['blanks', 'end_moment', 'end_run']),
  /** What its fields hold when nothing is found, by column; empty where nothing is said. */
  instead: z.record(z.string().max(60), z.string().max(1000)).default({}),
});
export type LookUpSettings = z.infer<typeof Settings>;
export type LookUpDone = { value: string; prefix: string; instead: Record<string, string> } & (
  | { among: 'sheet'; tab: string; column: string; columns: string[] }
  | { among: 'leads' | 'deals'; country: string }
);

/** What is known of a lead, and of a deal, that was found. */
export const LEAD_FOUND = {
  first_name: 'First name',
  last_name: 'Last name',
  email: 'Email',
  phone: 'Phone',
  owner: 'Owner',
};
export const DEAL_FOUND = { title: 'Deal', stage: 'Stage', value: 'Value', owner: 'Owner' };

/** What a look-up's fields begin with. */
export const prefixOf = ({ key, name }: Pick<LookUpSettings, 'key' | 'name'>) => key || wordOf(name) || 'row';

/** Looks up a row in a sheet, a lead or a deal; what it says becomes fields for the steps after it. */
export const lookUp: StepKind<LookUpSettings> = {
  kind: 'look-up',
  label: 'Look something up',
  icon: 'search',
  places: ['first'],
  settings: Settings,
  blank: () => ({ name: '', key: '', among: 'sheet', tab: '', column: '', value: '', whenNone: 'blanks', instead: {} }),
  card: ({ name, among, tab }, catalogue) => {
    if (among !== 'sheet') return { title: `Look up ${name || `one of the ${among}`}`, line: `Among the ${among}` };
    const found = catalogue.tabs.find((one) => one.id === tab);
    return { title: found ? `Look up ${name || 'a row'} in ${found.name}` : 'Look something up', line: '' };
  },
  aloud: ({ name, among, tab }, catalogue) =>
    among !== 'sheet'
      ? `look up ${name ? `their ${name.toLowerCase()}` : 'somebody'} among the ${among}`
      : `look up ${name ? `their ${name.toLowerCase()}` : 'a row'} in ${catalogue.tabs.find((one) => one.id === tab)?.name ?? 'a sheet'}`,
  check: ({ among, tab, column, value, name }, { catalogue }) => {
    const found = catalogue.tabs.find((one) => one.id === tab);
    const out: ReturnType<StepKind['check']> = [];
    if (among === 'sheet' && tab === '')
      out.push({ weight: 'must', code: 'empty', text: 'Look up: choose the sheet.', field: 'tab' });
    else if (among === 'sheet' && !found)
      out.push({ weight: 'must', code: 'gone', text: 'Look up: the sheet is no longer there.', field: 'tab' });
    else if (found && among === 'sheet' && !found.columns.some((one) => one.id === column))
      out.push({ weight: 'must', code: 'gone', text: 'Look up: choose the column that is searched.', field: 'column' });
    if (value.trim() === '')
      out.push({ weight: 'must', code: 'empty', text: 'Look up: say what is looked for.', field: 'value' });
    if (name.trim() === '')
      out.push({ weight: 'must', code: 'empty', text: 'Look up: give what is found a name.', field: 'name' });
    return out;
  },
  templates: ({ value }) => [{ field: 'value', source: value }],
  gives: (settings, catalogue) => {
    const { name, among, tab } = settings;
    const prefix = prefixOf(settings);
    if (among !== 'sheet')
      return Object.entries(among === 'leads' ? LEAD_FOUND : DEAL_FOUND).map(([key, label]) => ({
        key: `${prefix}.${key}`,
        label: `${name || 'Found'}: ${label}`,
      }));
    return (catalogue.tabs.find((one) => one.id === tab)?.columns ?? []).map((column) => ({
      key: `${prefix}.${column.id}`,
      label: `${name || 'Row'}: ${column.name}`,
    }));
  },
  plan: (settings, { context, catalogue, now }) => {
    const { among, tab, column, value, whenNone, instead } = settings;
    const found = catalogue.tabs.find((one) => one.id === tab);
    if (among === 'sheet' && !found?.columns.some((one) => one.id === column))
      return { does: 'ask', why: { code: 'gone', text: 'The sheet or column of this look-up is no longer there' } };
    const rendered = renderTemplate(value, machineScope(context, now));
    if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
    const wanted = rendered.text.trim();
    if (wanted === '' && whenNone === 'blanks' && Object.values(instead).every((one) => one.trim() === ''))
      return { does: 'nothing', why: { code: 'empty', text: 'There is nothing to look for' } };
    return {
      does: 'look',
      words: `Looks for “${wanted}” ${found && among === 'sheet' ? `in ${found.name}` : `among the ${among}`}`,
      ...(whenNone === 'blanks' ? {} : { ends: whenNone === 'end_run' ? ('run' as const) : ('moment' as const) }),
      what: {
        value: wanted,
        instead,
        prefix: prefixOf(settings),
        ...(among === 'sheet'
          ? { among, tab, column, columns: found!.columns.map((column) => column.id) }
          : { among, country: context.business.country }),
      } satisfies LookUpDone,
    };
  },
};
