import type pg from 'pg';
import { saysOneOf } from '../../core/message/says-one-of.ts';
import type { WaitsFor } from '../entities/run.ts';

/** Looks for an awaited event among what has come in about a lead since `since` (ISO 8601). */
export async function findEvent(
  client: pg.ClientBase,
  leadId: string,
  waits: WaitsFor,
  since: string,
): Promise<Record<string, string> | null> {
  switch (waits.event) {
    case 'reply': {
      const { rows } = await client.query<{ text: string }>(
        'select text from inbound where lead_id = $1 and received_at > $2 order by received_at',
        [leadId, since],
      );
      const said = rows.find((row) => saysOneOf(row.text, waits.words));
      return said ? { it: 'yes', text: said.text } : null;
    }
    case 'arrival': {
      const { rows } = await client.query<{ fields: { key: string; value: string }[] }>(
        `select fields from arrival where lead_id = $1 and received_at > $2 and (cardinality($3::uuid[]) = 0 or source_id = any($3::uuid[]))
         order by received_at limit 1`,
        [leadId, since, waits.sources],
      );
      return rows[0] ? { ...Object.fromEntries(rows[0].fields.map((f) => [f.key, f.value])), it: 'yes' } : null;
    }
    case 'tag': {
      const { rowCount } = await client.query('select from lead_tag where lead_id = $1 and tag_id = $2 and at > $3', [
        leadId,
        waits.tag,
        since,
      ]);
      return rowCount ? { it: 'yes' } : null;
    }
  }
}
