import type pg from 'pg';
import type { FieldSet } from '../core/workflow/plan.ts';
import type { RunContext } from '../core/workflow/run-context.ts';
import type { Outside } from './performers.ts';

/** For whom something is done. */
export interface PerformFor {
  businessId: string;
  leadId: string;
  runId: string;
  workflowId: string;
  stepId: string;
  /** Made from run and step: the id of what is made, and the idempotency key outside. */
  key: string;
  /** Milliseconds. */
  now: number;
  context: RunContext;
}

/** What the outside world said, with what it told. */
export type CallAnswer =
  | { kind: 'accepted'; code: string; detail: string; results?: FieldSet[] }
  | { kind: 'again'; code: string; detail: string; afterMs: number | null }
  | { kind: 'refused'; code: string; detail: string };

/** What a kind of step does on the server, beyond messages. `what` is what its plan gave. */
export interface StepPerformer {
  /** In our own database, inside the transaction that notes the step as done. An error says what is wrong, in a sentence. */
  record?(client: pg.ClientBase, what: unknown, about: PerformFor): Promise<{ detail: string; results?: FieldSet[] }>;
  /** A question to our own database that changes nothing. */
  look?(
    client: Pick<pg.Pool, 'query'>,
    what: unknown,
    about: Pick<PerformFor, 'businessId'>,
  ): Promise<{ found: boolean; detail: string; results: FieldSet[] }>;
  /** Outside. */
  call?(outside: Outside, what: unknown, about: PerformFor): Promise<CallAnswer>;
}
