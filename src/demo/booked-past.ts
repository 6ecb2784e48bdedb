import { appendRows } from '../app/sheets/tab-files.ts';
import type { Use } from '../app/use.ts';
import type { Field } from '../core/fields/field.ts';
import { touchesOf } from '../engine/runs/touches.ts';

/** Bookings of the weeks before stand in the owner's table too, each with the ad that brought whoever booked. */
export async function bookedPast(use: Use): Promise<void> {
  const { pool } = use.runtime;
  const [tab] = (
    await pool.query<{ id: string; columns: { id: string }[] }>(
      `select t.id, t.columns from sheet_tab t join sheet s on s.id = t.sheet_id where s.business_id = $1 and s.name = 'Bookings and their ads'`,
      [use.actor.businessId],
    )
  ).rows;
  const { rows } = await pool.query<{ lead_id: string; name: string; fields: Field[] }>(
    `select a.lead_id, btrim(l.first_name || ' ' || l.last_name) as name, a.fields from arrival a join source s on s.id = a.source_id join lead l on l.id = a.lead_id
     where a.business_id = $1 and s.name = 'Bookings' order by a.received_at`,
    [use.actor.businessId],
  );
  const touches = await touchesOf(pool, [...new Set(rows.map((row) => row.lead_id))]);
  await use.write((tx) =>
    appendRows(
      tx,
      tab!.id,
      rows.map(({ lead_id, name, fields }) => {
        const of = (key: string) => fields.find((field) => field.key === key)?.value ?? '';
        const touch = touches.get(lead_id)?.booking_touch ?? {};
        const cells = [name, of('appointment.start'), of('appointment.calendar')];
        const ad = [touch.utm_source, touch.campaign, touch.ad_set, touch.ad].map((value) => value ?? '');
        return Object.fromEntries([...cells, ...ad].map((cell, i) => [tab!.columns[i]!.id, cell]));
      }),
      'bookings-so-far.csv',
    ),
  );
}
