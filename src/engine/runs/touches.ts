import { NO_TOUCHES, TOUCH_GROUPS, type Touches, type TouchValues } from '../../core/source/touches.ts';
import type { Definition } from '../../core/workflow/definition.ts';
import type { Db } from '../../db/db.ts';
import { WHICH_TOUCH } from '../../db/which-touch.ts';

/** Of each of these leads its first touch, its last, and the last before it booked. */
const TOUCHES = `select l.id, ${TOUCH_GROUPS.map(
  (group) =>
    `(select t.where_from || jsonb_build_object('at', to_char(t.at at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"')) from touch t where t.lead_id = l.id ${WHICH_TOUCH[group]}) as ${group}`,
).join(', ')} from unnest($1::uuid[]) l(id)`;

export async function touchesOf(
  pool: Pick<Db, 'query'>,
  leadIds: readonly string[],
): Promise<ReadonlyMap<string, Touches>> {
  const { rows } = await pool.query<{ id: string } & Record<keyof Touches, TouchValues | null>>(TOUCHES, [leadIds]);
  return new Map(
    rows.map((row) => [
      row.id,
      { ...NO_TOUCHES, ...Object.fromEntries(TOUCH_GROUPS.map((group) => [group, row[group] ?? {}])) },
    ]),
  );
}

const asked = new WeakMap<object, boolean>();

/** Whether anything in a sheet, or in the settings of a step, names a touch: only then it is looked up. */
export function namesTouch(what: Definition | Record<string, unknown>): boolean {
  const known = asked.get(what);
  if (known !== undefined) return known;
  const names = new RegExp(`\\b(?:${TOUCH_GROUPS.join('|')})\\b`).test(JSON.stringify(what));
  asked.set(what, names);
  return names;
}
