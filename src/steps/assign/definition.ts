import { z } from 'zod';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({
  /** Colleagues in the order they take turns. */
  among: z.array(z.string().max(60)).max(50),
  /** Somebody who has an owner keeps them. */
  keep: z.boolean(),
});
export type AssignSettings = z.infer<typeof Settings>;
export type AssignDone = { among: string[] };

/** Gives the lead an owner: the next in turn who is not away. */
export const assign: StepKind<AssignSettings> = {
  kind: 'assign',
  label: 'Assign an owner',
  icon: 'user-check',
  places: ['first'],
  settings: Settings,
  blank: () => ({ among: [], keep: true }),
  card: ({ among }, desk) => {
    const names = among.flatMap((id) => desk.colleagues.find((one) => one.id === id)?.name ?? []);
    return {
      title:
        names.length === 0
          ? 'Assign an owner'
          : names.length === 1
            ? `Owner: ${names[0]}`
            : `Owner: ${names.length} in turn`,
      line: '',
    };
  },
  aloud: ({ among }, desk) => {
    const names = among.flatMap((id) => desk.colleagues.find((one) => one.id === id)?.name ?? []);
    return `give them to ${names.length > 1 ? `${names.join(', ')} in turn` : (names[0] ?? 'somebody')}`;
  },
  check: ({ among }, { desk }) => {
    if (among.length === 0)
      return [{ weight: 'must', code: 'empty', text: 'Assign: choose who takes turns.', field: 'among' }];
    return among.every((id) => desk.colleagues.some((one) => one.id === id))
      ? []
      : [{ weight: 'look', code: 'gone', text: 'Assign: somebody on the list is no longer here.', field: 'among' }];
  },
  templates: () => [],
  gives: () => [],
  plan: ({ among, keep }, { context, desk }) => {
    if (keep && context.owner)
      return { does: 'nothing', why: { code: 'empty', text: `Stays with ${context.owner.name}` } };
    const here = among.filter((id) => desk.colleagues.some((one) => one.id === id));
    if (here.length === 0) return { does: 'ask', why: { code: 'gone', text: 'Nobody on the list is here any more' } };
    const names = here.map((id) => desk.colleagues.find((one) => one.id === id)!.name);
    return {
      does: 'record',
      words: here.length === 1 ? `Owner: ${names[0]}` : `Owner: the next in turn of ${names.join(', ')}`,
      what: { among: here } satisfies AssignDone,
    };
  },
};
