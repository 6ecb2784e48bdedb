import { v7 as uuidv7 } from 'uuid';
import type { Use } from '../app/use.ts';
import type { Moment } from '../core/workflow/definition.ts';
import type { Plan } from '../core/workflow/plan.ts';
import { allConsents, startContext } from '../core/workflow/run-context.ts';
import type { Progress } from '../db/hot/rows.ts';
import { HotStore } from '../db/hot/store.ts';
import { deliveryId } from '../engine/delivery/delivery-id.ts';
import { runOutcome } from '../engine/runs/outcome.ts';
import { EmailSettings } from '../steps/email/definition.ts';
import { planEmail } from '../steps/plan-email.ts';
import { noProgress } from './no-progress.ts';
import { seededRandom } from './seeded-random.ts';

const HOLDER = 'history';
const DAY = 86_400_000;
const iso = (ms: number) => new Date(ms).toISOString();
/** Share of those who get the first, second and third email that open it, and that follow a link in it. */
const OPENED = [0.61, 0.48, 0.44];
const FOLLOWED = [0.22, 0, 0.27];
/** Share of those who read one that write back. */
const REPLIED = 0.07;
const REPLIES = [
  'Thank you, that helps. Ten minutes it is!',
  'We tried it slowly and it works. When is my next lesson?',
  'May I play it to you on Saturday?',
];

interface Member {
  lead_id: string;
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
  answers: Record<string, string>;
  joined_at: Date;
  /** When they left again; null for those who are on it. */
  left_at: Date | null;
}

/** What a list's sequence of emails has sent to its members so far, and what they did: those who joined of late are under way. */
export async function growSequenceHistory(use: Use, listId: string, workflowId: string): Promise<void> {
  const { runtime, actor } = use;
  const { pool } = runtime;
  const random = seededRandom(20261126);
  const now = runtime.now();
  const store = new HotStore(pool);
  const { rows: versions } = await pool.query<{ id: string; source: string }>(
    `select v.id, t.source_id as source from workflow_version v, nurture_list t where v.workflow_id = $1 and t.id = $2 order by v.number desc limit 1`,
    [workflowId, listId],
  );
  const { id: versionId, source } = versions[0]!;
  const { definition } = (await runtime.settingsCache.version(versionId))!;
  const { catalogue } = await runtime.settingsCache.provisionsOf(actor.businessId);
  const { rows: members } = await pool.query<Member>(
    `select m.lead_id, l.first_name, l.last_name, l.email, l.phone, l.answers, m.joined_at, case when m.state = 'unsubscribed' then m.changed_at end as left_at
     from list_member m join lead l on l.id = m.lead_id where m.list_id = $1 order by m.joined_at`,
    [listId],
  );
  for (const member of members) {
    const joined = member.joined_at.getTime();
    const arrival = uuidv7({ msecs: joined });
    const runId = uuidv7({ msecs: joined });
    const { lead_id: leadId, answers, joined_at: _joined, left_at: left, ...person } = member;
    await pool.query(
      `insert into arrival (id, business_id, source_id, received_at, headers, body, fields, where_from, state, lead_id, repeats)
       values ($1, $2, $3, $4, '{}', $5, $6, '{}', 'read', $7, 0)`,
      [
        ...[arrival, actor.businessId, source, member.joined_at, Buffer.from(JSON.stringify(person))],
        ...[JSON.stringify(Object.entries(person).map(([key, value]) => ({ key, label: key, value }))), leadId],
      ],
    );
    await pool.query(
      `insert into run (id, business_id, workflow_id, version_id, source_id, lead_id, arrival_id, state, outcome, created_at, lease_by)
       values ($1, $2, $3, $4, $5, $6, $7, 'active', '', $8, $9)`,
      [runId, actor.businessId, workflowId, versionId, source, leadId, arrival, member.joined_at, HOLDER],
    );
    const given = allConsents({ email: 'given' });
    const context = startContext({ person, answers }, person, {
      where: {},
      business: { name: actor.businessName, country: actor.country, timeZone: actor.timeZone, holidays: [] },
      source: { name: '' },
      consent: given,
      marketing: given,
    });
    const progress = noProgress();
    const visits: { delivery: string; step: string; kind: 'opened' | 'link'; at: number }[] = [];
    const replies: { at: number; text: string }[] = [];
    const records: Progress['steps'] = [];
    let began = joined;
    let waits: { moment: Moment; at: number } | null = null;
    for (const [i, moment] of definition.moments.entries()) {
      if (moment.at.kind === 'later') began += moment.at.span.amount * DAY;
      if (left !== null && left.getTime() < began) break;
      if (began > now) {
        waits = { moment, at: began };
        break;
      }
      const step = moment.lanes.lead[0]!;
      const plan: Plan = planEmail(EmailSettings.parse(step.settings), { context, catalogue, now: began, turn: null });
      if (plan.does !== 'send') continue;
      const at = began + 200 + Math.floor(random() * 400);
      const id = deliveryId(runId, step.id);
      const words = 'Accepted by the mail server';
      const record = {
        ...{ step_id: step.id, place: 'lead' as const, state: 'done' as const, plan },
        attempts: [{ at: iso(began), ms: at - began, outcome: 'accepted' as const, code: 'smtp-250', detail: words }],
        ...{ started_at: iso(began), next_try_at: null, instead: null, results: null },
      };
      const row = { ...record, run_id: runId, business_id: actor.businessId, finished_at: iso(at) };
      records.push(row);
      progress.steps.push(row);
      progress.moments.push({
        ...{ run_id: runId, business_id: actor.businessId, moment_id: moment.id, began_at: iso(began) },
        ...{ case_id: null, skipped: null, compared: [] },
      });
      progress.deliveries.push({
        ...{ id, business_id: actor.businessId, run_id: runId, step_id: step.id, item: 0, lead_id: leadId },
        ...{
          channel: 'email',
          audience: 'lead',
          recipient: person.email,
          connection_id: catalogue.email!.connectionId,
        },
        ...{ message: plan.message, created_at: iso(began) },
      });
      progress.answers.push({ id, state: 'accepted', remote_id: null, detail: words, accepted_at: iso(at) });
      const read = at + 20 * 60_000 + Math.floor(random() * 9 * 3_600_000);
      if (random() < OPENED[i]! && read < now) {
        visits.push({ delivery: id, step: step.id, kind: 'opened', at: read });
        if (random() < REPLIED && read + 600_000 < now)
          replies.push({ at: read + 600_000, text: REPLIES[Math.floor(random() * REPLIES.length)]! });
        if (random() < FOLLOWED[i]! / OPENED[i]!)
          visits.push({ delivery: id, step: step.id, kind: 'link', at: read + 30_000 });
      }
    }
    const { outcome } = runOutcome(records);
    const ended = left !== null && records.length < definition.moments.length;
    progress.runs.push({
      id: runId,
      lease_by: HOLDER,
      state: waits ? 'active' : 'done',
      outcome: waits
        ? `${outcome}, waiting for the next moment`
        : ended
          ? 'Ended early: they unsubscribed from the list'
          : outcome,
      finished_at: waits ? null : iso(ended ? left.getTime() : began),
      due_at: waits ? iso(waits.at) : null,
      first_reply_at: progress.answers[0]?.accepted_at ?? null,
      moment_id: waits?.moment.id ?? null,
      moment_at: waits ? (progress.moments.at(-1)?.began_at ?? null) : null,
    });
    await store.write(progress);
    for (const reply of replies)
      await pool.query(
        `insert into inbound (id, business_id, connection_id, remote_id, channel, sender, lead_id, text, received_at) values ($1, $2, $3, $4, 'email', $5, $6, $7, $8)`,
        [
          ...[
            uuidv7({ msecs: reply.at }),
            actor.businessId,
            catalogue.email!.connectionId,
            `<past-${uuidv7()}@example.org>`,
          ],
          ...[person.email, leadId, reply.text, new Date(reply.at)],
        ],
      );
    for (const visit of visits)
      await pool.query(
        `insert into visit (id, business_id, token, delivery_id, run_id, step_id, lead_id, kind, machine, agent, at)
         values ($1, $2, '', $3, $4, $5, $6, $7, false, 'Made up for the demo', $8)`,
        [
          ...[uuidv7({ msecs: visit.at }), actor.businessId, visit.delivery, runId, visit.step, leadId, visit.kind],
          new Date(visit.at),
        ],
      );
  }
}
