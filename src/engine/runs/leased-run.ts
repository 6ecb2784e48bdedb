import type { Definition } from '../../core/workflow/definition.ts';
import type { OutgoingMessage } from '../../core/workflow/plan.ts';
import type { RunContext } from '../../core/workflow/run-context.ts';
import type { MomentRow, StepRow } from '../../db/hot/rows.ts';

export type StepRecord = Omit<StepRow, 'run_id' | 'business_id' | 'finished_at'>;
export type MomentRecord = Omit<MomentRow, 'run_id' | 'business_id'>;

/** A message planned before, and not known to be settled: it goes out as planned then, under the same key. */
export interface PendingDelivery {
  id: string;
  message: OutgoingMessage;
  connectionId: string;
  createdAt: string;
}

/** A step's first message is its own; the second is what is sent instead. */
export const deliveryName = (stepId: string, item: number) => `${stepId}:${item}`;

/** One run in the hands of this process. */
export interface LeasedRun {
  id: string;
  businessId: string;
  workflowId: string;
  leadId: string;
  /** The list it began by joining; null for any other source. */
  listId: string | null;
  definition: Definition;
  context: RunContext;
  /** What was recorded before, by step. Empty for a run just accepted. */
  steps: Map<string, StepRecord>;
  /** How moments began, by moment. */
  moments: Map<string, MomentRecord>;
  /** By `deliveryName`. */
  pending: Map<string, PendingDelivery>;
  createdAt: string;
  /** When they came in by their own doing, ISO 8601; null where they did not. */
  cameAt: string | null;
  firstReplyAt: string | null;
  /** The moment under way or waited for; null for the first. */
  momentId: string | null;
  /** When the moment above it began, ISO 8601. */
  momentAt: string;
  /** Just accepted by this process, and nothing can have happened since. */
  fresh: boolean;
  /** Run again by hand from this step on; null for the whole sheet. */
  fromStep: string | null;
}
