import { v5 as uuidv5, v7 as uuidv7 } from 'uuid';
import { currencyOf } from '../../core/words/money.ts';
import type { Db } from '../../db/db.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { OutcomeDone } from './definition.ts';

export const countOutcome: StepPerformer = {
  async record(client, what, { businessId, leadId, runId, stepId, key: performed, now }) {
    const { action, name, amount, currency, at, once, key: told } = what as OutcomeDone;
    const kindId = await kindNamed(client, businessId, name, now);
    const key =
      once === 'person'
        ? `person:${leadId}`
        : once === 'key'
          ? `key:${told}`
          : // Run again by hand, it is the same arrival still.
            `arrival:${(await arrivalOf(client, runId)) ?? performed}:${stepId}`;
    if (action === 'take_back') {
      // An arrival that takes something back is another than the one that told of it.
      const { rowCount } = await client.query(
        once === 'arrival'
          ? `delete from noted_outcome where id = (select id from noted_outcome where kind_id = $1 and lead_id = $2 order by at desc limit 1)`
          : 'delete from noted_outcome where kind_id = $1 and lead_id = $2 and key = $3',
        once === 'arrival' ? [kindId, leadId] : [kindId, leadId, key],
      );
      return { detail: rowCount ? `Taken back: ${name}` : `There was no ${name} to take back` };
    }
    const of = amount === null ? '' : currency || (await ownCurrency(client, businessId));
    const { rows } = await client.query<{ fresh: boolean }>(
      `insert into noted_outcome (id, business_id, kind_id, lead_id, key, at, amount, currency, run_id, noted_at)
       select $1, $2, $3, $4, $5, $6, $7, $8, $9, $10
       on conflict (kind_id, key) do update set at = excluded.at, amount = excluded.amount, currency = excluded.currency, noted_at = excluded.noted_at
       returning (xmax = 0) as fresh`,
      [
        ...[uuidv5(`outcome ${name}`, performed), businessId, kindId, leadId, key],
        ...[at === null ? new Date(now) : new Date(at), amount, of, runId, new Date(now)],
      ],
    );
    return { detail: rows[0]!.fresh ? `Counted: ${name}` : `Counted before: ${name}, put right` };
  },
};

/** The business's outcome of this name; the first use of it makes it. */
async function kindNamed(client: Db, businessId: string, name: string, now: number): Promise<string> {
  const find = () =>
    client.query<{ id: string }>(
      'select id from outcome_kind where business_id = $1 and name = $2 and removed_at is null',
      [businessId, name],
    );
  const known = (await find()).rows[0];
  if (known) return known.id;
  await client.query(
    `insert into outcome_kind (id, business_id, name, created_at) values ($1, $2, $3, $4) on conflict (business_id, name) do update set removed_at = null`,
    [uuidv7(), businessId, name, new Date(now)],
  );
  return (await find()).rows[0]!.id;
}

async function arrivalOf(client: Db, runId: string | null): Promise<string | null> {
  const { rows } = await client.query<{ arrival_id: string }>('select arrival_id from run where id = $1', [runId]);
  return rows[0]?.arrival_id ?? null;
}

async function ownCurrency(client: Db, businessId: string): Promise<string> {
  const { rows } = await client.query<{ country: string }>('select country from business where id = $1', [businessId]);
  return currencyOf(rows[0]!.country);
}
