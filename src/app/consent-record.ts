import { z } from 'zod';
import type { LeadChoice } from '../core/people/lead-choice.ts';
import { CHANNELS, type Channel } from '../core/workflow/channel.ts';
import { audit, demand, notHere, type Use } from './actor.ts';
import { choose } from './choosing.ts';
import { leadName } from './log.ts';

/** One time consent was given or withdrawn, with what proves it. */
export interface ConsentEntry {
  channel: Channel;
  state: 'given' | 'withdrawn';
  at: string;
  /** What they agreed to or wrote, word for word. */
  wording: string;
  version: string;
  how: string;
  address: string;
  /** What came in, as it came in; null where it did not come with an arrival. */
  arrival: { id: string; sourceId: string; sourceName: string } | null;
}

export interface ConsentRecord {
  leadId: string;
  name: string;
  /** By channel: the entry that counts now, null when nothing was ever said. */
  now: { channel: Channel; entry: ConsentEntry | null }[];
  /** Newest first. */
  entries: ConsentEntry[];
}

/** May we write to this person, and how do we know? */
export async function getConsentRecord(use: Use, leadId: string): Promise<ConsentRecord> {
  if (!z.uuid().safeParse(leadId).success) throw notHere('lead');
  const { pool } = use.runtime;
  const { rows: leads } = await pool.query('select * from lead where id = $1 and business_id = $2', [
    leadId,
    use.actor.businessId,
  ]);
  if (!leads[0]) throw notHere('lead');
  const { rows } = await pool.query(
    `select c.*, a.source_id, s.name as source_name from consent c left join arrival a on a.id = c.arrival_id left join source s on s.id = a.source_id
     where c.lead_id = $1 order by c.at desc, c.id desc limit 500`,
    [leadId],
  );
  const entries = rows.map(
    (row): ConsentEntry => ({
      channel: row.channel,
      state: row.state,
      at: row.at.toISOString(),
      wording: row.wording,
      version: row.version,
      how: row.how,
      address: row.address,
      arrival: row.source_id ? { id: row.arrival_id, sourceId: row.source_id, sourceName: row.source_name } : null,
    }),
  );
  return {
    leadId,
    name: leadName(leads[0]),
    now: CHANNELS.map((channel) => ({ channel, entry: entries.find((one) => one.channel === channel) ?? null })),
    entries,
  };
}

const AT_ONCE = 1000;
const HEADER = ['Name', 'Email', 'Phone', 'Channel', 'State', 'When', 'How', 'Wording', 'Version', 'Network address'];

/** Every consent of the chosen leads as a table for a file, oldest first for each. */
export async function consentTable(
  use: Use,
  choice: LeadChoice,
): Promise<{ name: string; rows: AsyncGenerator<string[][]> }> {
  demand(use.actor, 'coordinator');
  const chosen = await choose(use, choice);
  audit(use.em, use.actor, 'consent.export', use.actor.businessId, { choice });
  await use.em.flush();
  async function* rows(): AsyncGenerator<string[][]> {
    yield [[...HEADER, 'Arrival']];
    for (let after: string | null = null; ; ) {
      const { ids, more } = await chosen.page('id', after, AT_ONCE);
      const found = await use.runtime.pool.query(
        `select l.first_name, l.last_name, l.email, l.phone, c.channel, c.state, c.at, c.how, c.wording, c.version, c.address, coalesce(c.arrival_id::text, '') as arrival
         from consent c join lead l on l.id = c.lead_id where c.lead_id = any($1::uuid[]) order by l.id, c.at, c.id`,
        [ids],
      );
      yield found.rows.map((row) => [
        leadName(row),
        ...[row.email, row.phone, row.channel, row.state, row.at.toISOString(), row.how],
        ...[row.wording, row.version, row.address, row.arrival],
      ]);
      if (!more) return;
      after = ids.at(-1)!;
    }
  }
  return { name: 'Consents', rows: rows() };
}
