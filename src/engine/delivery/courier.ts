import { answeredAtOnce } from '../../core/time/answered-at-once.ts';
import { heldFor } from '../../core/time/quiet-hours.ts';
import type { Step } from '../../core/workflow/definition.ts';
import type { OutgoingMessage, Plan } from '../../core/workflow/plan.ts';
import type { EngineParts } from '../runs/engine-parts.ts';
import { deliveryName, type PendingDelivery, type StepRecord } from '../runs/leased-run.ts';
import { needRow } from '../runs/need.ts';
import { iso, type RunNotes, recordOf } from '../runs/run-notes.ts';
import type { Provisions } from '../settings-cache.ts';
import { deliveryId } from './delivery-id.ts';
import { connectionFor, makeDelivery } from './make-delivery.ts';

type SendPlan = Extract<Plan, { does: 'send' }>;
type Base = Pick<StepRecord, 'step_id' | 'place' | 'started_at'>;

/** The messages of one run: made and written down, under a key that is made from run and step; `deliverStep` hands them over. */
export class Courier {
  constructor(
    readonly notes: RunNotes,
    readonly provisions: Provisions,
    readonly parts: EngineParts,
  ) {}

  /** The message of a step that was planned before and is not known to be settled. */
  pendingOf(step: Step): PendingDelivery | null {
    const item = this.notes.run.steps.get(step.id)?.instead ? 1 : 0;
    return this.notes.run.pending.get(deliveryName(step.id, item)) ?? null;
  }

  /** When messages of this kind may go out again; null when they may now. Colleagues may always be written to. */
  closed(message: OutgoingMessage): number | null {
    if (message.audience !== 'lead') return null;
    const { definition, context, momentId, cameAt, listId } = this.notes.run;
    const { rules, moments } = definition;
    const hours = rules.hours[message.channel];
    if (!hours) return null;
    const now = this.parts.now();
    const atOnce = answeredAtOnce({
      rules,
      onArrival: momentId === null || momentId === moments[0]?.id,
      marketing: message.purpose === 'marketing' || listId !== null,
      cameAt: cameAt === null ? null : Date.parse(cameAt),
      now,
    });
    return atOnce ? null : heldFor(now, hours, context.person.phone, context.business.timeZone);
  }

  /** Writes a message down before it leaves. */
  async putDown(step: Step, plan: SendPlan): Promise<PendingDelivery> {
    this.notes.stillMine();
    const made = this.make(step, plan, 0);
    await this.notes.flush(made.rows);
    return made.pending;
  }

  /** Puts a message up for a person to read and send. */
  async draft(step: Step, plan: SendPlan, base: Base): Promise<null> {
    this.notes.stillMine();
    await this.notes.flush();
    const { rows, pending } = this.make(step, plan, 0, 'draft');
    const detail = 'Waits to be read and sent';
    const about = this.notes.about(step);
    await this.notes.settle(
      recordOf(base, 'done', plan, [{ at: iso(this.parts.now()), ms: 0, outcome: 'done', code: 'draft', detail }]),
      {
        ...rows,
        needs: [
          needRow('draft_waits', about, pending.message.channel, pending.message.audience, detail, this.parts.now()),
        ],
      },
    );
    return null;
  }

  make(step: Step, plan: SendPlan, item: number, state: 'sending' | 'draft' = 'sending') {
    const { run } = this.notes;
    const about = {
      id: deliveryId(run.id, step.id, item),
      businessId: run.businessId,
      runId: run.id,
      stepId: step.id,
      item,
      leadId: run.leadId,
      listId: run.listId,
    };
    const { catalogue } = this.provisions;
    // Its plan was made with these very accounts: there is a connection.
    const connection = connectionFor(catalogue, plan.message.channel)!;
    return makeDelivery(about, plan.message, connection, catalogue.counting, this.parts, this.parts.now(), {
      state,
      question: plan.question,
    });
  }
}
