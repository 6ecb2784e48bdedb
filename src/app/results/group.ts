import { z } from 'zod';
import { Refusal } from '../refusal.ts';
import type { Looker } from './looker.ts';
import { originsOf, shown, shownNames } from './names.ts';

/** Whose results: everybody's, those of one campaign by its shown name, or of one workflow. */
export type Group = { of: 'all' } | { of: 'campaign'; name: string } | { of: 'workflow'; id: string };

/** A group out of the address of a page: "campaign:autumn-trial", "workflow:ID", or nothing. */
export function askedGroup(query: URLSearchParams): Group {
  const text = query.get('only') ?? '';
  if (text === '') return { of: 'all' };
  const [of, ...rest] = text.split(':');
  const name = rest.join(':');
  if (of === 'campaign' && rest.length > 0 && name.length <= 200) return { of, name };
  if (of === 'workflow' && z.uuid().safeParse(name).success) return { of, id: name };
  throw new Refusal(422, 'not-understood', 'There is no such campaign or workflow. Choose another above.');
}

/** The condition by which rows of lead_result (as `r`) are of the group, with what takes the place of $n. */
export async function groupCondition(use: Looker, group: Group, n: number): Promise<{ sql: string; value: unknown }> {
  if (group.of === 'all') return { sql: `$${n}::text is null`, value: null };
  if (group.of === 'workflow') return { sql: `${FIRST_WORKFLOW} = $${n}::uuid`, value: group.id };
  const [origins, names] = await Promise.all([originsOf(use), shownNames(use)]);
  const ids = [...origins.values()].filter(({ campaign }) => shown(names, 'campaign', campaign) === group.name);
  return { sql: `r.origin_id = any($${n}::int[])`, value: ids.map(({ id }) => id) };
}

/** The workflow that took somebody up first. */
export const FIRST_WORKFLOW =
  '(select run.workflow_id from run where run.lead_id = r.lead_id order by run.created_at limit 1)';
