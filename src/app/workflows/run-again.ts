import { UniqueConstraintViolationException } from '@mikro-orm/core';
import { z } from 'zod';
import { Run } from '../../db/entities/run.ts';
import { WorkflowVersion } from '../../db/entities/workflow.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { getRun } from './get-run.ts';

export const RunAgain = z.object({
  stepId: z.string().max(40),
  sendAgain: z.boolean(),
  /** Made by whoever asks, once for each time they mean it: asked twice with the same, it is done once. */
  key: z.uuid(),
});

/**
 * Runs again from one step on, as a new run of the same arrival and version: new keys, so that the outside world does not
 * take it for the old message. A message that went through is only sent again when that is said outright. From a step of First that failed, the
 * whole moment is gone through from its beginning, and what comes after it.
 */
export async function runAgain(
  use: Use,
  workflowId: string,
  runId: string,
  { stepId, sendAgain, key }: z.infer<typeof RunAgain>,
): Promise<{ runId: string; done: string }> {
  demand(use.actor, 'build');
  const old = await getRun(use, workflowId, runId);
  const step = old.steps.find((step) => step.stepId === stepId);
  if (!step) throw notHere('step');
  const first = step.place === 'first';
  if (first && step.state !== 'refused')
    throw new Refusal(409, 'not-failed', 'This step of First did not fail: there is nothing to take up from it.');
  const done = first ? `It goes on from “${step.title}” now.` : `It runs from “${step.title}” again now.`;
  const made = await use.em.findOne(Run, { id: key });
  if (made) {
    if (made.business.id !== use.actor.businessId || made.arrival.id !== old.arrivalId)
      throw new Refusal(409, 'key-used', 'This was asked for before with something else. Load the page again.');
    return { runId: key, done };
  }
  if (old.state === 'active')
    throw new Refusal(409, 'under-way', 'This run is still under way. Wait until it is finished, then run it again.');
  const repeated = first ? old.steps.filter((step) => step.place !== 'first') : [step];
  if (
    !sendAgain &&
    repeated.some(({ delivery }) => delivery && ['accepted', 'delivered', 'unsure'].includes(delivery.state))
  )
    throw new Refusal(
      409,
      'already-sent',
      first
        ? 'It went on without this step, and a message has gone out. Going through it again would write to the same person twice.'
        : 'This message has already gone out. Sending it again would write to the same person twice.',
    );
  const found = await use.em.findOneOrFail(Run, { id: runId });
  const version = await use.em.findOneOrFail(WorkflowVersion, { id: found.version.id });
  const moment = version.definition.moments.findIndex((moment) => moment.id === step.momentId);
  try {
    await use.write(async (tx) => {
      tx.em.create(Run, {
        id: key,
        business: tx.actor.businessId,
        workflow: workflowId,
        version: version.id,
        source: found.source,
        lead: found.lead,
        arrival: found.arrival,
        state: 'active',
        createdAt: new Date(),
        dueAt: new Date(),
        ...(first ? (moment > 0 ? { momentId: step.momentId } : {}) : { fromStep: stepId }),
        startedBy: tx.actor.personId,
      });
      tx.note('run.again', key, { of: runId, from: stepId });
      await tx.em.flush();
      await settleRun(tx, runId);
    });
  } catch (error) {
    // Asked twice in the same instant: the other one has made it.
    if (!(error instanceof UniqueConstraintViolationException)) throw error;
  }
  return { runId: key, done };
}

/** Takes a run off the pile: a person has dealt with it. */
export async function settleRun(tx: Write, runId: string): Promise<{ done: string }> {
  demand(tx.actor, 'build');
  const { rowCount } = await tx.db.query(
    `with settled as (update needs_you set settled_at = now(), settled_by_id = $3 where run_id = $1 and business_id = $2 and settled_at is null),
       handled as (update run set state = 'handled' where id = $1 and business_id = $2 and state = 'needs_you')
     select from run where id = $1 and business_id = $2`,
    [runId, tx.actor.businessId, tx.actor.personId],
  );
  if (rowCount === 0) throw notHere('run');
  tx.note('run.handled', runId);
  tx.ring();
  return { done: 'Taken off the pile: it counts as handled.' };
}
