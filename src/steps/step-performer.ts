import { v5 as uuidv5 } from 'uuid';
import type { Happening } from '../core/workflow/awaited.ts';
import type { FieldSet } from '../core/workflow/plan.ts';
import type { RunContext } from '../core/workflow/run-context.ts';
import type { Db } from '../db/db.ts';
import type { Outside } from './performers.ts';
import { isEach } from './plan-step.ts';

/** For whom something is done. */
export interface PerformFor {
  businessId: string;
  leadId: string;
  /** Null when somebody tries the step by hand. */
  runId: string | null;
  workflowId: string;
  stepId: string;
  /** Made from run and step: the id of what is made, and the idempotency key outside. */
  key: string;
  /** Milliseconds. */
  now: number;
  context: RunContext;
  /** Tells runs that wait for it what has happened with a lead, in the transaction of `client`. */
  tell(client: Db, leadId: string, happening: Happening): Promise<void>;
  /** Takes the lead off a list, in the transaction of `client`; what its sequences still had to send is not sent. */
  leave(client: Db, listId: string): Promise<boolean>;
  /** Puts the lead on a list, in the transaction of `client`. */
  join(client: Db, joining: ListJoining): Promise<'joined' | 'waiting' | 'there' | 'left' | 'no-list'>;
}

export interface ListJoining {
  listId: string;
  how: string;
  /** They have agreed already where they came from. */
  proven: boolean;
  fields: Record<string, string>;
}

/** What the outside world said, with what it told. */
export type CallAnswer =
  /** `told` is what it answered, word for word, as far as it is worth reading. */
  | { kind: 'accepted'; code: string; detail: string; results?: FieldSet[]; told?: string }
  | { kind: 'again'; code: string; detail: string; afterMs: number | null }
  | { kind: 'refused'; code: string; detail: string };

/** What a kind of step does on the server, beyond messages. `what` is what its plan gave. */
export interface StepPerformer {
  /** Its record may change a person's name, address or number: the time line says that it was this step. */
  changesPeople?: true;
  /** What its record locks that others write to as well; work on it is done in one order. */
  shared?(what: unknown): string;
  /** In our own database, inside the transaction that notes the step as done. An error says what is wrong, in a sentence. */
  record?(client: Db, what: unknown, about: PerformFor): Promise<{ detail: string; results?: FieldSet[] }>;
  /** A question to our own database that changes nothing. */
  look?(
    client: Db,
    what: unknown,
    about: Pick<PerformFor, 'businessId'>,
  ): Promise<{ found: boolean; detail: string; results: FieldSet[] }>;
  /** Outside. */
  call?(outside: Outside, what: unknown, about: PerformFor): Promise<CallAnswer>;
}

/** Does on record what a plan says: once, or once for each item of a list. */
export async function recordWhat(
  performer: StepPerformer,
  client: Db,
  what: unknown,
  about: PerformFor,
): Promise<{ detail: string; results?: FieldSet[] }> {
  if (!isEach(what)) return performer.record!(client, what, about);
  let detail = '';
  for (const [i, one] of what.each.entries())
    ({ detail } = await performer.record!(client, one, { ...about, key: uuidv5(`item:${i}`, about.key) }));
  return { detail: what.each.length === 1 ? detail : `${what.each.length} times: ${detail}` };
}

/** What a plan's record locks that others write to as well; empty for none. */
export function sharedBy(performer: StepPerformer, what: unknown): string {
  const first = isEach(what) ? what.each[0] : what;
  return first === undefined ? '' : (performer.shared?.(first) ?? '');
}
