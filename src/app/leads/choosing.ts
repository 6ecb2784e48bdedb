import { z } from 'zod';
import type { LeadChoice } from '../../core/people/lead-choice.ts';
import { ChosenLeads } from '../../engine/choosing/chosen-leads.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';

/** The leads of a choice, for whoever is signed in. */
export async function choose(use: Use, choice: LeadChoice): Promise<ChosenLeads> {
  const { businessId, country, timeZone, leadsOf } = use.actor;
  const scope = { businessId, country, timeZone, leadsOf, now: use.runtime.now() };
  const chosen = await ChosenLeads.open(use.runtime.screens, choice, scope);
  if (!chosen)
    throw new Refusal(404, 'choice-gone', 'The segment, list or tag you go by is no longer there. Choose again.');
  return chosen;
}

export const countChosen = async (use: Use, choice: LeadChoice): Promise<{ n: number }> => ({
  n: await (await choose(use, choice)).count(),
});

/** Where a page goes on: behind this lead, if it is one. */
export const behind = (text: string | null): string | null => (z.uuid().safeParse(text).success ? text : null);
