import { z } from 'zod';
import { renderTemplate } from '../../core/template/template.ts';
import { machineScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({
  action: z.enum(['add', 'remove']),
  list: z.string().max(60),
  /** They have agreed already where they came from: a list that asks does not ask again. */
  proven: z.boolean().default(false),
  /** What goes into the list's own fields, by key: templates. */
  fields: z.record(z.string().max(60), z.string().max(1000)).default({}),
});
export type ListSettings = z.infer<typeof Settings>;
export type ListDone = { action: 'add' | 'remove'; list: string; proven: boolean; fields: Record<string, string> };

/** How many in a hundred of those who were asked never said yes; null while hardly anybody was asked. */
export const notConfirming = ({ asked, confirmed }: { asked: number; confirmed: number }): number | null =>
  asked < 10 ? null : Math.round((1 - confirmed / asked) * 100);

/** Puts the lead on a list, or takes them off. Who has left a list is not put on it again. */
export const list: StepKind<ListSettings> = {
  kind: 'list',
  label: 'Put on a list',
  icon: 'list-plus',
  places: ['record'],
  settings: Settings,
  blank: () => ({ action: 'add', list: '', proven: false, fields: {} }),
  card: ({ action, list }, catalogue) => {
    const name = catalogue.lists.find((catalogueList) => catalogueList.id === list)?.name;
    return {
      title: name ? `${action === 'add' ? 'Onto the list' : 'Off the list'} ${name}` : 'Put on a list',
      line: '',
    };
  },
  aloud: ({ action, list }, catalogue) => {
    const found = catalogue.lists.find((catalogueList) => catalogueList.id === list);
    const which = found ? `the list ${found.name}` : 'a list';
    return action === 'add' ? `put them on ${which}` : `take them off ${which}`;
  },
  check: ({ action, list, proven }, { catalogue }) => {
    const found = catalogue.lists.find((catalogueList) => catalogueList.id === list);
    if (list === '') return [{ weight: 'must', code: 'empty', text: 'List: choose a list.', field: 'list' }];
    if (!found)
      return [{ weight: 'must', code: 'gone', text: 'List: the list chosen is no longer there.', field: 'list' }];
    if (action === 'remove') return [];
    const out: ReturnType<StepKind['check']> = [];
    const share = notConfirming(found);
    if (found.optIn === 'double' && !proven && share !== null && share >= 20)
      out.push({
        weight: 'look',
        code: 'double-opt-in',
        text: `List: ${found.name} asks people to confirm, and ${share} % of them never do.`,
        field: 'list',
      });
    if (found.stopped !== '')
      out.push({ weight: 'look', code: 'sequence', text: `List: ${found.name}: ${found.stopped}`, field: 'list' });
    return out;
  },
  templates: ({ fields }) => Object.entries(fields).map(([key, source]) => ({ field: `fields.${key}`, source })),
  plan: ({ action, list, proven, fields }, { context, catalogue, now }) => {
    const name = catalogue.lists.find((catalogueList) => catalogueList.id === list)?.name;
    if (list === '') return { does: 'ask', why: { code: 'empty', text: 'Choose the list of this step' } };
    if (!name) return { does: 'ask', why: { code: 'gone', text: 'The list of this step is no longer there' } };
    const on = context.memberOf.includes(list);
    if (on === (action === 'add'))
      return { does: 'nothing', why: { code: 'empty', text: on ? `Is on ${name} already` : `Is not on ${name}` } };
    const filled: Record<string, string> = {};
    for (const [key, source] of Object.entries(fields)) {
      const rendered = renderTemplate(source, machineScope(context, now));
      if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
      if (rendered.text.trim() !== '') filled[key] = rendered.text.trim();
    }
    const asks = !proven && catalogue.lists.find((catalogueList) => catalogueList.id === list)?.optIn === 'double';
    return {
      does: 'record',
      words: action === 'remove' ? `Off the list ${name}` : `${asks ? 'Asked to confirm' : 'Onto'} the list ${name}`,
      what: { action, list, proven, fields: filled } satisfies ListDone,
    };
  },
};
