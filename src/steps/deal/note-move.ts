import { v7 as uuidv7 } from 'uuid';
import type { Db } from '../../db/db.ts';

/** Writes down that a deal has come into the stage it is in now, and who or what moved it. */
export async function noteMove(
  client: Db,
  dealId: string,
  by: { runId: string | null } | { personId: string },
): Promise<void> {
  await client.query(
    `insert into deal_move (id, deal_id, lead_id, stage_id, at, run_id, person_id) select $1, id, lead_id, stage_id, moved_at, $3, $4 from deal where id = $2`,
    [uuidv7(), dealId, 'runId' in by ? by.runId : null, 'personId' in by ? by.personId : null],
  );
}
