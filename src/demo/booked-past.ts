import { appendRows } from '../app/sheets/tab-files.ts';
import type { Use } from '../app/use.ts';
import type { Field } from '../core/fields/field.ts';
import { NO_TOUCHES } from '../core/source/touches.ts';
import { renderTemplate } from '../core/template/template.ts';
import { allConsents, machineScope, startContext } from '../core/workflow/run-context.ts';
import { touchesOf } from '../engine/runs/touches.ts';
import { BOOKED_COLUMNS } from './booked-columns.ts';

/** Bookings of the weeks before stand in the owner's table too, each with the ad that brought whoever booked. */
export async function bookedPast(use: Use): Promise<void> {
  const { pool } = use.runtime;
  const [tab] = (
    await pool.query<{ id: string; columns: { id: string }[] }>(
      `select t.id, t.columns from sheet_tab t join sheet s on s.id = t.sheet_id where s.business_id = $1 and s.name = 'Bookings and their ads'`,
      [use.actor.businessId],
    )
  ).rows;
  const { rows } = await pool.query<{ lead_id: string; first_name: string; last_name: string; fields: Field[] }>(
    `select a.lead_id, l.first_name, l.last_name, a.fields from arrival a join source s on s.id = a.source_id join lead l on l.id = a.lead_id
     where a.business_id = $1 and s.name = 'Bookings' order by a.received_at`,
    [use.actor.businessId],
  );
  const touches = await touchesOf(pool, [...new Set(rows.map((row) => row.lead_id))]);
  const { businessName, country, timeZone, holidays, locale } = use.actor;
  await use.write((tx) =>
    appendRows(
      tx,
      tab!.id,
      rows.map(({ lead_id, first_name, last_name, fields }) => {
        const answers = Object.fromEntries(fields.map(({ key, value }) => [key, value]));
        const person = { first_name, last_name, email: '', phone: '' };
        const context = startContext({ person, answers }, person, {
          where: {},
          business: { name: businessName, country, timeZone, holidays, locale },
          source: { name: 'Bookings' },
          consent: allConsents(),
          touches: touches.get(lead_id) ?? NO_TOUCHES,
        });
        const scope = machineScope(context, use.runtime.now());
        const cells = Object.values(BOOKED_COLUMNS).map((cell) => {
          const filled = renderTemplate(cell, scope);
          return filled.ok ? filled.text : '';
        });
        return Object.fromEntries(cells.map((cell, i) => [tab!.columns[i]!.id, cell]));
      }),
      'bookings-so-far.csv',
    ),
  );
}
