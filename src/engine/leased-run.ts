import type { Definition } from '../core/workflow/definition.ts';
import type { OutgoingMessage } from '../core/workflow/plan.ts';
import type { RunContext } from '../core/workflow/run-context.ts';
import type { StepRow } from '../db/hot/store.ts';

export type StepRecord = Pick<
  StepRow,
  'step_id' | 'place' | 'state' | 'plan' | 'attempts' | 'started_at' | 'next_try_at'
>;

/** A message planned before, and not known to be settled: it goes out as planned then, under the same key. */
export interface PendingDelivery {
  id: string;
  message: OutgoingMessage;
  connectionId: string;
  createdAt: string;
}

/** One run in the hands of this process. */
export interface LeasedRun {
  id: string;
  businessId: string;
  leadId: string;
  definition: Definition;
  context: RunContext;
  /** What was recorded before, by step. Empty for a run just accepted. */
  steps: Map<string, StepRecord>;
  pending: Map<string, PendingDelivery>;
  createdAt: string;
  firstReplyAt: string | null;
  /** Run again by hand from this step on; null for the whole sheet. */
  fromStep: string | null;
}
