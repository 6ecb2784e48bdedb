import { MARK_KEYS, type MarkKey, type Marks } from '../../core/results/origin.ts';
import type { Looker } from './looker.ts';

/** How marks are shown: by mark, the name they came with and the name they have here. */
export type ShownAs = ReadonlyMap<MarkKey, ReadonlyMap<string, string>>;

export async function shownNames(use: Looker): Promise<ShownAs> {
  const { rows } = await use.db.query<{ mark: MarkKey; name: string; shown_as: string }>(
    'select mark, name, shown_as from mark_name where business_id = $1',
    [use.actor.businessId],
  );
  return new Map(
    MARK_KEYS.map((mark) => [
      mark,
      new Map(rows.filter((row) => row.mark === mark).map((row) => [row.name, row.shown_as])),
    ]),
  );
}

export const shown = (names: ShownAs, mark: MarkKey, name: string): string => names.get(mark)?.get(name) ?? name;

export interface OriginRow extends Marks {
  id: number;
  source: string;
}

/** Every place contacts have come from. */
export async function originsOf(use: Looker): Promise<Map<number, OriginRow>> {
  const { rows } = await use.db.query<OriginRow>(
    `select o.id, o.site, o.medium, o.campaign, o.ad_set as "adSet", o.ad, o.form, o.page, coalesce(s.name, '') as source
     from origin o left join source s on s.id = o.source_id where o.business_id = $1`,
    [use.actor.businessId],
  );
  return new Map(rows.map((row) => [row.id, row]));
}
