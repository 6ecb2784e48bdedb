import { EVERYBODY } from '../../core/people/lead-choice.ts';
import type { SortedBy } from '../../core/results/sortings.ts';
import { ChosenLeads } from '../../engine/choosing/chosen-leads.ts';
import { Refusal } from '../refusal.ts';
import type { Looker } from './looker.ts';

/** What a lead is sorted by that does not stand with their contacts: looked up with rows of lead_result (as `r`). */
export interface Thing {
  /** SQL of its name; '' for none. */
  name: string;
  join: string;
  values: unknown[];
}

/** The thing a sorting goes by; null for those that go by where contacts came from. `next` is the number of the first free value of the statement. */
export async function thingOf(use: Looker, by: SortedBy, next: number): Promise<Thing | null> {
  if (by === 'colleague')
    return {
      name: `coalesce(o.name, '')`,
      join: 'left join lead w on w.id = r.lead_id left join person o on o.id = w.owner_id',
      values: [],
    };
  if (by === 'workflow')
    return {
      name: `coalesce(w.name, '')`,
      join: `left join lateral (select workflow_id from run where run.lead_id = r.lead_id order by run.created_at limit 1) f on true left join workflow w on w.id = f.workflow_id`,
      values: [],
    };
  if (by !== 'segment') return null;
  const segments = await leadsOfSegments(use);
  return {
    name: `coalesce(g.name, '')`,
    join: `left join unnest($${next}::uuid[], $${next + 1}::text[]) g(lead_id, name) on g.lead_id = r.lead_id`,
    values: [segments.map(([id]) => id), segments.map(([, name]) => name)],
  };
}

/** Looked up anew every time, so that segments are up to date: of more people than this it would take too long. */
const MOST_PEOPLE = 200_000;
const AT_ONCE = 5000;

/** Who is in which segment as it is now. Who is in several is in the first of them by the alphabet, so that parts add up to the whole. */
async function leadsOfSegments(use: Looker): Promise<[lead: string, segment: string][]> {
  const { runtime } = use;
  if (!runtime) throw new Refusal(422, 'not-understood', 'Segments are asked for at a screen.');
  const { businessId, country, timeZone } = use.actor;
  const { rows } = await use.db.query<{ id: string; name: string }>(
    'select id, name from segment where business_id = $1 and removed_at is null order by lower(name), id limit 100',
    [businessId],
  );
  const found = new Map<string, string>();
  for (const { id, name } of rows) {
    const scope = { businessId, country, timeZone, now: runtime.now() };
    const chosen = await ChosenLeads.open(runtime.screens, { ...EVERYBODY, segment: id }, scope);
    for (let after: string | null = null; chosen; ) {
      const page = await chosen.page('id', after, AT_ONCE);
      for (const lead of page.ids) if (!found.has(lead)) found.set(lead, name);
      if (found.size > MOST_PEOPLE)
        throw new Refusal(422, 'too-many', 'Your segments hold more people than can be sorted by them at once.');
      if (!page.more) break;
      after = page.ids.at(-1)!;
    }
  }
  return [...found];
}

/** The names of a thing on the way down: a segment by its first word, then by itself. */
export const thingPath = (by: SortedBy, thing: string): string[] =>
  by === 'segment' ? [thing.trim().split(/[\s:,]+/)[0] ?? '', thing] : [thing];
