import type { Channel } from '../core/workflow/channel.ts';
import type { Definition } from '../core/workflow/definition.ts';
import type { Plan } from '../core/workflow/plan.ts';
import type { Attempt } from '../db/entities/run.ts';
import type { Progress } from '../db/hot/rows.ts';
import { deliveryId } from '../engine/delivery/delivery-id.ts';
import type { StepRecord } from '../engine/runs/leased-run.ts';
import { needRow } from '../engine/runs/need.ts';
import { runOutcome } from '../engine/runs/outcome.ts';
import type { KnownSource } from '../engine/settings-cache.ts';
import type { Rehearsed } from '../steps/rehearse.ts';
import { noProgress } from './no-progress.ts';
import type { Invented } from './people.ts';

export const HOLDER = 'history';
export const iso = (ms: number) => new Date(ms).toISOString();

/** What the outside world would have answered: mostly yes at once, now and then slowly, never to a landline. */
export function play(
  definition: Definition,
  runId: string,
  source: KnownSource,
  leadId: string,
  start: number,
  random: () => number,
  plans: Rehearsed[],
  accounts: Record<Channel, string>,
  person: Invented,
): Progress {
  const progress = noProgress();
  const clock: Record<string, number> = {};
  const records: StepRecord[] = [];
  let firstReply: number | null = null;
  let end = start;
  const busy = random() < 0.04;
  for (const { stepId, place, plan } of plans) {
    let at = (clock[place] ?? start + 4 + Math.floor(random() * 8)) + 2;
    const attempts: Attempt[] = [];
    let state: StepRecord['state'] = plan.does === 'change' ? 'done' : plan.does === 'ask' ? 'ask' : 'nothing';
    const began = at;
    if (plan.does === 'send') {
      const { message } = plan;
      const refused = message.channel === 'text' && message.to.startsWith('+44117');
      if (busy && message.channel === 'text')
        for (const wait of [3000, 40_000, 147_000]) {
          attempts.push({ at: iso(at), ms: 40, outcome: 'again', code: 'http-429', detail: 'Too many texts at once.' });
          at += wait;
        }
      const ms = message.channel === 'text' ? 600 + Math.floor(random() ** 3 * 2600) : 150 + Math.floor(random() * 300);
      attempts.push({
        at: iso(at),
        ms,
        outcome: refused ? 'refused' : 'accepted',
        code: refused ? 'http-422' : message.channel === 'text' ? 'http-202' : 'smtp-250',
        detail: refused
          ? 'Not a mobile number'
          : message.channel === 'text'
            ? 'Accepted by the carrier'
            : 'Accepted by the mail server',
      });
      at += ms;
      state = refused ? 'refused' : 'done';
      if (!refused && message.audience === 'lead') firstReply ??= at;
      const id = deliveryId(runId, stepId);
      progress.deliveries.push({
        id,
        business_id: source.business.id,
        run_id: runId,
        step_id: stepId,
        item: 0,
        lead_id: leadId,
        channel: message.channel,
        audience: message.audience,
        recipient: message.to,
        connection_id: accounts[message.channel],
        message,
        created_at: iso(began),
      });
      progress.answers.push({
        id,
        state: refused ? 'refused' : message.channel === 'text' ? 'delivered' : 'accepted',
        remote_id: null,
        detail: attempts.at(-1)!.detail,
        accepted_at: refused ? null : iso(at),
      });
      if (refused)
        progress.needs.push(
          needRow(
            'message_refused',
            {
              runId,
              businessId: source.business.id,
              leadId,
              stepId,
              who: `${person.first} ${person.last}`,
              sourceName: source.name,
            },
            'text',
            'lead',
            'Not a mobile number',
            at,
          ),
        );
    }
    clock[place] = at;
    end = Math.max(end, at);
    const record: StepRecord = {
      step_id: stepId,
      place,
      state,
      plan: plan as Plan,
      attempts,
      started_at: iso(began),
      next_try_at: null,
      instead: null,
      results: null,
    };
    records.push(record);
    progress.steps.push({ ...record, run_id: runId, business_id: source.business.id, finished_at: iso(at) });
    if (plan.does === 'change')
      progress.leads.push({
        id: leadId,
        by: { kind: 'step', runId, stepId, at: iso(at) },
        ...Object.fromEntries(
          plan.changes.filter((change) => change.after !== change.before).map((change) => [change.field, change.after]),
        ),
      });
    if (place === 'first') for (const lane of ['lead', 'record', 'team']) clock[lane] = Math.max(clock[lane] ?? 0, at);
  }
  if (definition.moments.length > 0)
    progress.runs.push({
      id: runId,
      lease_by: HOLDER,
      ...runOutcome(records),
      finished_at: iso(end),
      due_at: null,
      first_reply_at: firstReply === null ? null : iso(firstReply),
      moment_id: null,
      moment_at: null,
    });
  return progress;
}
