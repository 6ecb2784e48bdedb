import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { type ConsentState, type SaidBy, whatCounts } from '../../core/consent/precedence.ts';
import type { LeadChoice } from '../../core/people/lead-choice.ts';
import { CHANNELS, type Channel } from '../../core/workflow/channel.ts';
import { PURPOSES, type Purpose } from '../../core/workflow/purpose.ts';
import { demand } from '../actor.ts';
import { notHere } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { choose } from './choosing.ts';
import { leadName, type Named } from './lead-name.ts';

/** One time consent was given or withdrawn, with what proves it. */
export interface ConsentEntry {
  channel: Channel;
  /** What messages it is about; null for all. */
  purpose: Purpose | null;
  state: ConsentState;
  /** Whose word it is: theirs before what others say of them. */
  saidBy: SaidBy;
  at: string;
  /** What they agreed to or wrote, word for word. */
  wording: string;
  version: string;
  how: string;
  address: string;
  /** What came in, as it came in; null where it did not come with an arrival. */
  arrival: { id: string; sourceId: string; sourceName: string } | null;
  /** What they wrote or filled in, where it did not come with an arrival. */
  inboundId: string | null;
}

export interface ConsentRecord {
  leadId: string;
  name: string;
  /** By channel and purpose: the entry that counts now, null when nothing was ever said. */
  now: { channel: Channel; purpose: Purpose; entry: ConsentEntry | null }[];
  /** Newest first. */
  entries: ConsentEntry[];
}

/** May we write to this person, and how do we know? */
export async function getConsentRecord(use: Use, leadId: string): Promise<ConsentRecord> {
  if (!z.uuid().safeParse(leadId).success) throw notHere('lead');
  const { db } = use;
  const { rows: leads } = await db.query<Named>(
    'select first_name, last_name, email, phone from lead where id = $1 and business_id = $2',
    [leadId, use.actor.businessId],
  );
  if (!leads[0]) throw notHere('lead');
  const { rows } = await db.query(
    `select c.*, a.source_id, s.name as source_name from consent c left join arrival a on a.id = c.arrival_id left join source s on s.id = a.source_id
     where c.lead_id = $1 order by c.at desc, c.id desc limit 500`,
    [leadId],
  );
  const entries = rows.map(
    (row): ConsentEntry => ({
      channel: row.channel,
      purpose: row.purpose,
      state: row.state,
      saidBy: row.said_by,
      at: row.at.toISOString(),
      wording: row.wording,
      version: row.version,
      how: row.how,
      address: row.address,
      arrival: row.source_id ? { id: row.arrival_id, sourceId: row.source_id, sourceName: row.source_name } : null,
      inboundId: row.inbound_id,
    }),
  );
  return {
    leadId,
    name: leadName(leads[0]),
    now: CHANNELS.flatMap((channel) =>
      PURPOSES.map((purpose) => ({
        channel,
        purpose,
        entry: counting(entries.filter((entry) => entry.channel === channel && (entry.purpose ?? purpose) === purpose)),
      })),
    ),
    entries,
  };
}

/** Of entries, newest first, the one that counts. */
const counting = (entries: readonly ConsentEntry[]): ConsentEntry | null =>
  whatCounts(
    [...entries]
      .reverse()
      .map((entry) => ({ saidBy: entry.saidBy, state: entry.state, at: Date.parse(entry.at), entry })),
  )?.entry ?? null;

const AT_ONCE = 1000;
const HEADER = [
  'Name',
  'Email',
  'Phone',
  'Channel',
  'About',
  'State',
  'Said by',
  'When',
  'How',
  'Wording',
  'Version',
  'Network address',
];

/** A consent with whose it is, as the statement below names it. */
interface ConsentRow extends Named {
  channel: string;
  about: string;
  state: string;
  said_by: string;
  at: Date;
  how: string;
  wording: string;
  version: string;
  address: string;
  arrival: string;
  message: string;
}

/** Every consent of the chosen leads as a table for a file, oldest first for each. */
export async function consentTable(
  use: Use,
  choice: LeadChoice,
): Promise<{ name: string; rows: AsyncGenerator<string[][]> }> {
  demand(use.actor, 'build');
  const chosen = await choose(use, choice);
  await use.write(async (tx) => tx.note('consent.export', tx.actor.businessId, { choice }));
  async function* rows(): AsyncGenerator<string[][]> {
    yield [[...HEADER, 'Arrival', 'Message']];
    for (let after: string | null = null; ; ) {
      const { ids, more } = await chosen.page('id', after, AT_ONCE);
      const found = await use.db.query<ConsentRow>(
        `select l.first_name, l.last_name, l.email, l.phone, c.channel, coalesce(c.purpose, 'all') as about, c.state, c.said_by, c.at, c.how, c.wording, c.version, c.address,
           coalesce(c.arrival_id::text, '') as arrival, coalesce(c.inbound_id::text, '') as message
         from consent c join lead l on l.id = c.lead_id where c.lead_id = any($1::uuid[]) order by l.id, c.at, c.id`,
        [ids],
      );
      yield found.rows.map((row) => [
        leadName(row),
        ...[row.email, row.phone, row.channel, row.about, row.state, row.said_by, row.at.toISOString(), row.how],
        ...[row.wording, row.version, row.address, row.arrival, row.message],
      ]);
      if (!more) return;
      after = ids.at(-1)!;
    }
  }
  return { name: 'Consents', rows: rows() };
}

/** What somebody wrote or filled in, as the network sent it: the proof behind a consent. */
export async function getInboundProof(
  use: Use,
  leadId: string,
  inboundId: string,
): Promise<{ receivedAt: string; text: string } | null> {
  if (!z.uuid().safeParse(inboundId).success) return null;
  const { rows } = await use.db.query<{ received_at: Date; text: string }>(
    'select received_at, coalesce(raw, text) as text from inbound where id = $1 and lead_id = $2 and business_id = $3',
    [inboundId, leadId, use.actor.businessId],
  );
  return rows[0] ? { receivedAt: rows[0].received_at.toISOString(), text: rows[0].text } : null;
}

export const ConsentByHand = z.object({
  channel: z.enum(CHANNELS),
  /** Null for all messages. */
  purpose: z.enum(PURPOSES).nullable(),
  state: z.enum(['given', 'withdrawn']),
  /** How it was said, as it is told later: "On the phone, to Oona". */
  how: z.string().trim().min(1, 'Say how they told you: it is the proof').max(300),
});

/** Writes down what somebody said about being written to, on the phone or at the counter. */
export async function recordConsent(tx: Write, leadId: string, input: z.infer<typeof ConsentByHand>): Promise<void> {
  demand(tx.actor, 'do-work');
  if (!z.uuid().safeParse(leadId).success) throw notHere('lead');
  const { now } = tx.runtime;
  const { db } = tx;
  const { rowCount } = await db.query(
    `insert into consent (id, business_id, lead_id, channel, purpose, state, wording, how, at)
     select $1, business_id, id, $3, $4, $5, '', $6, $7 from lead where id = $2 and business_id = $8`,
    [
      ...[uuidv7(), leadId, input.channel, input.purpose, input.state],
      ...[`${input.how} (written down by ${tx.actor.name})`, new Date(now()), tx.actor.businessId],
    ],
  );
  if (!rowCount) throw notHere('lead');
  tx.note('consent.record', leadId, { channel: input.channel, state: input.state });
  tx.ring();
}
