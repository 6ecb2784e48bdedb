import type { RunContext } from '../core/workflow/run-context.ts';
import type { Catalogue } from '../core/workflow/step-kind.ts';

/** "owner" stands for whoever looks after the lead, "rota" for whose turn it is. */
export const OWNER = 'owner';
export const ROTA = 'rota';

/** The colleague a step names; for "owner" the lead's own, or nobody when they have none. */
export const theColleague = (chosen: string, context: RunContext, catalogue: Catalogue) =>
  chosen === OWNER
    ? (catalogue.colleagues.find((colleague) => colleague.id === context.owner?.id) ?? null)
    : (catalogue.colleagues.find((colleague) => colleague.id === chosen) ?? null);

export const colleagueName = (chosen: string, catalogue: Catalogue): string =>
  chosen === OWNER
    ? 'the owner'
    : (catalogue.colleagues.find((colleague) => colleague.id === chosen)?.name ?? 'a colleague');

/** What is wrong with a choice of colleague, in words; null when nothing is. */
export const colleagueProblem = (chosen: string, catalogue: Catalogue): string | null =>
  chosen === ''
    ? 'choose who.'
    : chosen === OWNER || catalogue.colleagues.some((colleague) => colleague.id === chosen)
      ? null
      : 'the person chosen is no longer here.';
