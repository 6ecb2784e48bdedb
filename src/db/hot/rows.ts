import type { Compared } from '../../core/condition/evaluate.ts';
import type { SaidBy } from '../../core/consent/precedence.ts';
import type { Field } from '../../core/fields/field.ts';
import type { Identity } from '../../core/people/identity.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import type { Channel } from '../../core/workflow/channel.ts';
import type { Place } from '../../core/workflow/definition.ts';
import type { FieldSet, Plan } from '../../core/workflow/plan.ts';
import type { Purpose } from '../../core/workflow/purpose.ts';
import type { Rules, SamePersonDoes } from '../../core/workflow/rules.ts';
import type { ConsentState, RunPerson } from '../../core/workflow/run-context.ts';
import type { Attempt, DeliveryState, RunState, StepState } from '../entities/run.ts';
import type { ChangedBy } from './lead-change.sql.ts';

/* What goes into the statements of the hot path and comes out of them. */

/** What intake hands over for one item. Times are ISO 8601 in UTC; `body` is base64. */
export interface AcceptItem {
  arrival_id: string;
  business_id: string;
  source_id: string;
  external_id: string | null;
  received_at: string;
  headers: Record<string, string>;
  body: string;
  fields: Field[];
  where_from: WhereFrom;
  state: 'read' | 'refused' | 'held' | 'aside';
  problem: string | null;
  person: RunPerson;
  identities: Identity[];
  answers: Record<string, string>;
  consent: {
    state: 'given' | 'unticked';
    said_by: SaidBy;
    wording: string;
    how: string;
    version: string;
    address: string;
    purpose: Purpose | null;
    channels: Channel[];
  } | null;
  /** Whether a number known under another name is a question for a person; not where the number itself writes. */
  asks_whose: boolean;
  /** `member`: a lead we have, who joins one of our own lists. */
  brings: 'people' | 'news' | 'member';
  /** An arrival kept before, handled once more: what is stored is put right, not stored twice. */
  again: boolean;
  /** Which workflows run, instead of those that listen to the source; null for those that listen. */
  workflows:
    | {
        workflow_id: string;
        version_id: string;
        same_person: SamePersonDoes;
        again_after_days: number;
        known_by: Rules['knownBy'];
      }[]
    | null;
  /** What it means for runs under way that end early by it. */
  means: 'booked' | 'bought' | null;
  /** When they came in by their own doing, ISO 8601; null where they did not, or it is not known. */
  came_at: string | null;
  new_lead_id: string;
  touch_id: string;
  run_id: string;
  /** Null for runs that no process has begun: they are due at once, or after `lease_seconds`. */
  lease_by: string | null;
  lease_seconds: number;
  needs_you: { id: string; subject: string; title: string; detail: string } | null;
}

/** What has to be asked anew before a message leaves that has waited. */
export interface Wishes {
  consent: Partial<Record<Channel, ConsentState>>;
  marketing: Partial<Record<Channel, ConsentState>>;
  lastChatAt: number | null;
}

export interface Accepted {
  item: string;
  arrival_id: string;
  repeat: boolean;
  lead_id?: string;
  new_lead?: boolean;
  known?: RunPerson;
  own?: Record<string, string>;
  consent?: Partial<Record<Channel, ConsentState>>;
  marketing?: Partial<Record<Channel, ConsentState>>;
  chat_at?: number | null;
  owner_id?: string | null;
  tags?: string[];
  member_of?: string[];
  runs?: { run_id: string; version_id: string; workflow_id: string }[];
}

export interface StepRow {
  run_id: string;
  step_id: string;
  business_id: string;
  place: Place;
  state: StepState;
  plan: Plan;
  attempts: Attempt[];
  started_at: string;
  finished_at: string | null;
  next_try_at: string | null;
  instead: Plan | null;
  results: FieldSet[] | null;
}

export interface MomentRow {
  run_id: string;
  business_id: string;
  moment_id: string;
  began_at: string;
  case_id: string | null;
  skipped: string | null;
  compared: Compared[];
}

/** Where a run stands after a moment or in the middle of one. */
export interface RunRow {
  id: string;
  lease_by: string;
  state: RunState;
  outcome: string;
  finished_at: string | null;
  due_at: string | null;
  first_reply_at: string | null;
  moment_id: string | null;
  moment_at: string | null;
}

/** Rows a run wants written together. */
export interface Progress {
  deliveries?: Record<string, unknown>[];
  answers?: {
    id: string;
    state: DeliveryState;
    remote_id: string | null;
    detail: string;
    accepted_at: string | null;
  }[];
  steps?: StepRow[];
  leads?: ({ id: string; answers?: Record<string, string>; by: ChangedBy } & Partial<RunPerson>)[];
  moments?: MomentRow[];
  needs?: Record<string, unknown>[];
  links?: Record<string, unknown>[];
  questions?: Record<string, unknown>[];
  runs?: RunRow[];
}

/** A run leased to this process, with all that is needed to go on. */
export interface DueRun {
  run: {
    id: string;
    business_id: string;
    version_id: string;
    source_id: string;
    lead_id: string;
    created_at: string;
    first_reply_at: string | null;
    from_step: string | null;
    workflow_id: string;
    moment_id: string | null;
    moment_at: string | null;
    happened: Record<string, string> | null;
    came_at: string | null;
  };
  owner_id: string | null;
  lead_own: Record<string, string>;
  tags: string[];
  member_of: string[];
  /** What the run's questions were answered, as fields. */
  answered: FieldSet[];
  turns: Record<string, string>;
  moments: Omit<MomentRow, 'run_id' | 'business_id'>[];
  fields: Field[];
  where_from: WhereFrom;
  known: RunPerson;
  consent: Partial<Record<Channel, ConsentState>>;
  marketing: Partial<Record<Channel, ConsentState>>;
  /** When they last wrote in chat, milliseconds. */
  chat_at: number | null;
  steps: Omit<StepRow, 'run_id' | 'business_id' | 'finished_at'>[];
  deliveries: {
    id: string;
    step_id: string;
    item: number;
    state: DeliveryState;
    message: Record<string, unknown>;
    connection_id: string;
    created_at: string;
  }[];
}
