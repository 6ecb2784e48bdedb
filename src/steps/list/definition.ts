import { z } from 'zod';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({ action: z.enum(['add', 'remove']), list: z.string().max(60) });
export type ListSettings = z.infer<typeof Settings>;
export type ListDone = { action: 'add' | 'remove'; list: string };

/** Puts the lead on a list, or takes them off. Who has left a list is not put on it again. */
export const list: StepKind<ListSettings> = {
  kind: 'list',
  label: 'Put on a list',
  icon: 'list-plus',
  places: ['record'],
  settings: Settings,
  blank: () => ({ action: 'add', list: '' }),
  card: ({ action, list }, desk) => {
    const name = desk.lists.find((one) => one.id === list)?.name;
    return {
      title: name ? `${action === 'add' ? 'Onto the list' : 'Off the list'} ${name}` : 'Put on a list',
      line: '',
    };
  },
  aloud: ({ action, list }, desk) => {
    const name = desk.lists.find((one) => one.id === list)?.name ?? 'a list';
    return action === 'add' ? `put them on the list ${name}` : `take them off the list ${name}`;
  },
  check: ({ list }, { desk }) =>
    list === ''
      ? [{ weight: 'must', code: 'empty', text: 'List: choose a list.', field: 'list' }]
      : desk.lists.some((one) => one.id === list)
        ? []
        : [{ weight: 'must', code: 'gone', text: 'List: the list chosen is no longer there.', field: 'list' }],
  templates: () => [],
  plan: ({ action, list }, { context, desk }) => {
    const name = desk.lists.find((one) => one.id === list)?.name;
    if (!name) return { does: 'ask', why: { code: 'gone', text: 'The list of this step is no longer there' } };
    const on = context.memberOf.includes(list);
    if (on === (action === 'add'))
      return { does: 'nothing', why: { code: 'empty', text: on ? `Is on ${name} already` : `Is not on ${name}` } };
    return {
      does: 'record',
      words: action === 'add' ? `Onto the list ${name}` : `Off the list ${name}`,
      what: { action, list } satisfies ListDone,
    };
  },
};
