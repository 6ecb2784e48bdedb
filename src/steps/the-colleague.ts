import type { RunContext } from '../core/workflow/run-context.ts';
import type { SendingDesk } from '../core/workflow/step-kind.ts';

/** "owner" stands for whoever looks after the lead, "rota" for whose turn it is. */
export const OWNER = 'owner';
export const ROTA = 'rota';

/** The colleague a step names; for "owner" the lead's own, or nobody when they have none. */
export const theColleague = (chosen: string, context: RunContext, desk: SendingDesk) =>
  chosen === OWNER
    ? (desk.colleagues.find((one) => one.id === context.owner?.id) ?? null)
    : (desk.colleagues.find((one) => one.id === chosen) ?? null);

export const colleagueName = (chosen: string, desk: SendingDesk): string =>
  chosen === OWNER ? 'the owner' : (desk.colleagues.find((one) => one.id === chosen)?.name ?? 'a colleague');

/** What is wrong with a choice of colleague, in words; null when nothing is. */
export const colleagueProblem = (chosen: string, desk: SendingDesk): string | null =>
  chosen === ''
    ? 'choose who.'
    : chosen === OWNER || desk.colleagues.some((one) => one.id === chosen)
      ? null
      : 'the person chosen is no longer here.';
