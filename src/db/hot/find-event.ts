import type pg from 'pg';
import { saysOneOf } from '../../core/message/says-one-of.ts';
import type { WaitsFor } from '../../core/workflow/awaited.ts';
import type { Db } from '../db.ts';

/**
 * Looks for an awaited event among what has come in about a lead since `since` (ISO 8601). The answer to a question, a form, a
 * link and an opened email belong to the run that asked or sent: they count whenever they came, and where nothing was asked or sent
 * there is nothing to wait for.
 */
export async function findEvent(
  client: Db,
  { leadId, runId }: { leadId: string; runId: string },
  waits: WaitsFor,
  since: string,
): Promise<Record<string, string> | null> {
  const first = async <Row extends pg.QueryResultRow>(sql: string, values: unknown[]) =>
    (await client.query<Row>(sql, values)).rows[0] ?? null;
  /** Whether the run has sent anything that can be followed or opened. */
  const sent = (which: 't.url is null' | 't.url is not null') =>
    first(`select 1 from tracked_link t where t.run_id = $1 and ${which} and ($2 = '' or t.step_id = $2) limit 1`, [
      runId,
      waits.step,
    ]);
  switch (waits.event) {
    case 'reply': {
      const { rows } = await client.query<{ text: string }>(
        'select text from inbound where lead_id = $1 and received_at > $2 and problem is null order by received_at',
        [leadId, since],
      );
      const said = rows.find((row) => saysOneOf(row.text, waits.words));
      return said ? { it: 'yes', text: said.text } : null;
    }
    case 'arrival': {
      const found = await first<{ fields: { key: string; value: string }[] }>(
        `select a.fields from arrival a join source s on s.id = a.source_id where a.lead_id = $1 and a.received_at > $2
           and (cardinality($3::uuid[]) = 0 and s.kind <> 'list' or a.source_id = any($3::uuid[])) order by a.received_at limit 1`,
        [leadId, since, waits.sources],
      );
      return found ? { ...Object.fromEntries(found.fields.map((f) => [f.key, f.value])), it: 'yes' } : null;
    }
    case 'tag':
      return (await first('select 1 from lead_tag where lead_id = $1 and tag_id::text = $2 and at > $3', [
        leadId,
        waits.tag,
        since,
      ]))
        ? { it: 'yes' }
        : null;
    case 'list':
      return (await first(
        `select 1 from list_member where lead_id = $1 and list_id::text = $2 and state = 'active' and changed_at > $3`,
        [leadId, waits.list, since],
      ))
        ? { it: 'yes' }
        : null;
    case 'stage':
      return (await first('select 1 from deal where lead_id = $1 and stage_id::text = $2 and moved_at > $3', [
        leadId,
        waits.stage,
        since,
      ]))
        ? { it: 'yes' }
        : null;
    case 'answer': {
      const found = await first<{ state: string; answer: string | null; text: string }>(
        `select q.state, q.answer, coalesce((select i.text from inbound i where i.question_id = q.id order by i.received_at desc limit 1), '') as text
         from asked_question q where q.run_id = $1 and q.step_id = $2`,
        [runId, waits.step],
      );
      if (!found) return NOTHING_SENT;
      if (found.state === 'open') return null;
      return found.answer === null
        ? { it: 'no', text: found.text }
        : { it: 'yes', answer: found.answer, text: found.text };
    }
    case 'form': {
      const found = await first<{ answers: Record<string, string>; text: string }>(
        `select f.answers, i.text from form_answer f join inbound i on i.id = f.inbound_id where f.run_id = $1 and ($2 = '' or f.step_id = $2) order by f.at limit 1`,
        [runId, waits.step],
      );
      if (found) return { ...found.answers, it: 'yes', text: found.text };
      const asked = await first(
        `select 1 from delivery where run_id = $1 and channel = 'chat' and message -> 'form' is not null and ($2 = '' or step_id = $2) limit 1`,
        [runId, waits.step],
      );
      return asked ? null : NOTHING_SENT;
    }
    case 'link': {
      const found = await first<{ url: string }>(
        `select t.url from visit v join tracked_link t on t.token = v.token
         where v.run_id = $1 and v.kind = 'link' and not v.machine and ($2 = '' or v.step_id = $2) order by v.at limit 1`,
        [runId, waits.step],
      );
      if (found) return { it: 'yes', url: found.url };
      return (await sent('t.url is not null')) ? null : NOTHING_SENT;
    }
    case 'opened': {
      const found = await first(
        `select 1 from visit where run_id = $1 and kind = 'opened' and not machine and ($2 = '' or step_id = $2) limit 1`,
        [runId, waits.step],
      );
      if (found) return { it: 'yes' };
      return (await sent('t.url is null')) ? null : NOTHING_SENT;
    }
  }
}

const NOTHING_SENT = { it: 'no' };
