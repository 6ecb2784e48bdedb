import type pg from 'pg';
import { inTransaction } from '../in-transaction.ts';

/**
 * Whose turn it is of those a step goes through, kept once per run and step: who is away or does not work just now is passed over, where somebody else
 * suits better. Null when none of them is here any more.
 *
 * @param suits how well just now suits somebody, by their id: the higher the better
 */
export async function takeTurn(
  pool: pg.Pool,
  runId: string,
  stepId: string,
  workflowId: string,
  businessId: string,
  among: readonly string[],
  suits: (personId: string) => number,
): Promise<string | null> {
  return inTransaction(pool, async (client) => {
    const { rows: members } = await client.query<{ person_id: string; here: boolean }>(
      `select person_id, away_until is null or away_until <= now() as here from membership
       where business_id = $1 and person_id = any($2::uuid[])`,
      [businessId, among],
    );
    const known = among.filter((id) => members.some((member) => member.person_id === id));
    const here = known.filter((id) => members.some((member) => member.person_id === id && member.here));
    const best = Math.max(...here.map(suits), Number.NEGATIVE_INFINITY);
    const list = here.length > 0 ? here.filter((id) => suits(id) === best) : known;
    // The workflow's row is the counter: one turn at a time, and each gets the next.
    await client.query('select from workflow where id = $1 for update', [workflowId]);
    const taken = await client.query<{ person_id: string }>(
      'select person_id from turn_taken where run_id = $1 and step_id = $2',
      [runId, stepId],
    );
    let who = taken.rows[0]?.person_id ?? null;
    if (!who && list.length > 0) {
      const turn = await client.query<{ n: number }>(
        `update workflow set turns = turns || jsonb_build_object($2::text, coalesce((turns ->> $2)::int, 0) + 1) where id = $1
         returning (turns ->> $2)::int as n`,
        [workflowId, stepId],
      );
      who = list[((turn.rows[0]?.n ?? 1) - 1) % list.length]!;
      await client.query('insert into turn_taken (run_id, step_id, person_id, at) values ($1, $2, $3, now())', [
        runId,
        stepId,
        who,
      ]);
    }
    return who;
  });
}
