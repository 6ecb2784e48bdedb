import { defineEntity, p } from '@mikro-orm/core';
import type { Compared } from '../../core/condition/evaluate.ts';
import type { WaitsFor } from '../../core/workflow/awaited.ts';
import { CHANNELS } from '../../core/workflow/channel.ts';
import type { FieldSet, Plan } from '../../core/workflow/plan.ts';
import { Business, Person } from './business.ts';
import { Lead } from './lead.ts';
import { Arrival, Source } from './source.ts';
import { Workflow, WorkflowVersion } from './workflow.ts';

/**
 * `active` has something left to do at `dueAt`; `done` all went; `stopped` nothing was sent and that is right (no consent);
 * `known` the same person again, not repeated; `needs_you` something only a person can settle; `handled` a person did.
 */
export const RUN_STATES = ['active', 'done', 'stopped', 'known', 'needs_you', 'handled'] as const;
export type RunState = (typeof RUN_STATES)[number];

/** One lead going through one version of one workflow. */
export const Run = defineEntity({
  name: 'Run',
  tableName: 'run',
  indexes: [
    { name: 'run_workflow_at', properties: ['workflow', 'createdAt'] },
    { name: 'run_business_at', properties: ['business', 'createdAt'] },
    { name: 'run_lead', properties: ['lead', 'workflow'] },
    { name: 'run_arrival', properties: ['arrival'] },
    // Only what is under way stands in it, so finding due runs costs the same however many are stored.
    {
      name: 'run_waiting',
      expression: `create index "run_waiting" on "run" ("lead_id") where "moment_id" is not null and "due_at" is not null`,
    },
    { name: 'run_due', expression: `create index "run_due" on "run" ("due_at") where "due_at" is not null` },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    workflow: () => p.manyToOne(Workflow).ref().createForeignKeyConstraint(false),
    version: () => p.manyToOne(WorkflowVersion).ref(),
    source: () => p.manyToOne(Source).ref().createForeignKeyConstraint(false),
    lead: () => p.manyToOne(Lead).ref(),
    arrival: () => p.manyToOne(Arrival).ref(),
    state: p.enum([...RUN_STATES]),
    /** In words, for the list: "Text refused, email sent". */
    outcome: p.text().default(''),
    createdAt: p.datetime(),
    /** When they came in by their own doing; null where they did not, or it is not known. */
    cameAt: p.datetime().nullable(),
    finishedAt: p.datetime().nullable(),
    /** First message to the lead accepted by the outside world. */
    firstReplyAt: p.datetime().nullable(),
    /** When it must be looked at next: the end of the lease while a process has it. Null when nothing is left to do. */
    dueAt: p.datetime().nullable(),
    /** The process that has it. */
    leaseBy: p.text().nullable(),
    /** The moment under way or waited for; null for the first. */
    momentId: p.string().nullable(),
    /** When the moment above it began: what the next one counts from. */
    momentAt: p.datetime().nullable(),
    /** A colleague has taken over: nothing goes on until they hand back. */
    heldAt: p.datetime().nullable(),
    /** What the moment waits for besides its time. */
    waitsFor: p.json<WaitsFor | null>().nullable(),
    /** What came of it: `it` is "yes" or "no". Written once, so a wait ends in one way only. */
    happened: p.json<Record<string, string> | null>().nullable(),
    /** Run again from this step on, by hand; null for the whole sheet. */
    fromStep: p.text().nullable(),
    /** Runs of the same arrival started by hand ("run again"). */
    startedBy: () => p.manyToOne(Person).ref().nullable(),
  },
});

/** One try at performing a step. `ms` is how long it took. */
export interface Attempt {
  at: string;
  ms: number;
  outcome: 'done' | 'accepted' | 'again' | 'refused' | 'unsure';
  code: string;
  detail: string;
}

/** `held` waits for the hours in which messages may go out. */
export const STEP_STATES = ['done', 'nothing', 'again', 'held', 'refused', 'ask', 'skipped'] as const;
export type StepState = (typeof STEP_STATES)[number];

/** What a step got, did and was answered. */
export const StepResult = defineEntity({
  name: 'StepResult',
  tableName: 'step_result',
  properties: {
    run: () => p.manyToOne(Run).ref().primary(),
    stepId: p.string().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    place: p.enum(['first', 'lead', 'record', 'team']),
    state: p.enum([...STEP_STATES]),
    plan: p.json<Plan>(),
    attempts: p.json<Attempt[]>(),
    startedAt: p.datetime(),
    finishedAt: p.datetime().nullable(),
    nextTryAt: p.datetime().nullable(),
    /** What was sent instead, when the step was refused; null when nothing was. */
    instead: p.json<Plan | null>().nullable(),
    /** Fields it gave to the steps after it. */
    results: p.json<FieldSet[] | null>().nullable(),
  },
});

/** How a moment began: which case was taken and what was compared. Written once, so a run taken up again keeps to it. */
export const MomentResult = defineEntity({
  name: 'MomentResult',
  tableName: 'moment_result',
  properties: {
    run: () => p.manyToOne(Run).ref().primary(),
    momentId: p.string().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    beganAt: p.datetime(),
    caseId: p.string().nullable(),
    /** Why it was left out, in words; null when it was not. */
    skipped: p.text().nullable(),
    compared: p.json<Compared[]>(),
  },
});

/** `draft` waits for a person to send it, `dropped` is a draft they threw away. */
export const DELIVERY_STATES = [
  'draft',
  'dropped',
  'sending',
  'accepted',
  'delivered',
  'undelivered',
  'refused',
  /** It may have gone out or not: a person says which. */
  'unsure',
] as const;
export type DeliveryState = (typeof DELIVERY_STATES)[number];

/** One message out. Its id is the idempotency key at the gateway and the Message-ID of an email. */
export const Delivery = defineEntity({
  name: 'Delivery',
  tableName: 'delivery',
  uniques: [{ name: 'delivery_step', properties: ['run', 'stepId', 'item'] }],
  indexes: [
    {
      name: 'delivery_draft',
      expression: `create index "delivery_draft" on "delivery" ("business_id", "created_at") where ("state" = 'draft')`,
    },
    {
      name: 'delivery_form',
      expression: `create index "delivery_form" on "delivery" ("business_id") where "message" -> 'form' is not null`,
    },
    { name: 'delivery_lead', properties: ['lead', 'createdAt'] },
    { name: 'delivery_business_at', properties: ['business', 'createdAt'] },
    // The outbox: what goes out apart from a run, the instant before the ordinary before the bulk.
    {
      name: 'delivery_due',
      expression: `create index "delivery_due" on "delivery" ("rank", "due_at") where "due_at" is not null`,
    },
    {
      name: 'delivery_mailing',
      expression: `create index "delivery_mailing" on "delivery" ("mailing_id") where "mailing_id" is not null`,
    },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    /** Null for a test sent to the coordinator. */
    run: () => p.manyToOne(Run).ref().nullable(),
    stepId: p.string(),
    /** Which item of a repeated step; 0 otherwise. */
    item: p.integer().default(0),
    lead: () => p.manyToOne(Lead).ref().nullable().createForeignKeyConstraint(false),
    channel: p.enum([...CHANNELS]),
    audience: p.enum(['lead', 'team', 'test']),
    recipient: p.text(),
    connectionId: p.uuid(),
    message: p.json<Record<string, unknown>>(),
    state: p.enum([...DELIVERY_STATES]),
    remoteId: p.text().nullable(),
    detail: p.text().default(''),
    createdAt: p.datetime(),
    acceptedAt: p.datetime().nullable(),
    /** Where sending twice could not be told apart: when it was last handed over without a clear end. Null for every other. */
    begunAt: p.datetime().nullable(),
    reportedAt: p.datetime().nullable(),
    readAt: p.datetime().nullable(),
    /** For the outbox: when it is to go out, or be tried again. Null for what a run sends itself, and once it is settled. */
    dueAt: p.datetime().nullable(),
    /** 0 at once, 5 when nothing else waits. */
    rank: p.integer().default(0),
    leaseBy: p.text().nullable(),
    tries: p.integer().default(0),
    /** When it may go out, by the lead's clock; null for at any time. */
    hours: p.json<{ from: string; to: string } | null>().nullable(),
    mailingId: p.uuid().nullable(),
    /** Which of two subjects it has. */
    variant: p.enum(['a', 'b']).nullable(),
    /** Who sent it by hand, or let a draft go. */
    sentBy: () => p.manyToOne(Person).ref().nullable(),
  },
});

/** One message in. */
export const Inbound = defineEntity({
  name: 'Inbound',
  tableName: 'inbound',
  uniques: [{ name: 'inbound_remote', properties: ['connectionId', 'remoteId'] }],
  indexes: [
    { name: 'inbound_lead', properties: ['lead', 'receivedAt'] },
    {
      name: 'inbound_unknown',
      expression: `create index "inbound_unknown" on "inbound" ("business_id", "sender") where "lead_id" is null`,
    },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref().createForeignKeyConstraint(false),
    connectionId: p.uuid(),
    remoteId: p.text(),
    channel: p.enum([...CHANNELS]),
    sender: p.text(),
    lead: () => p.manyToOne(Lead).ref().nullable(),
    text: p.text(),
    /** The question it was taken for an answer to. */
    questionId: p.uuid().nullable(),
    kind: p.enum(['message', 'button', 'form']).default('message'),
    /** As it was sent to us; null for what came before it was kept. */
    raw: p.text().nullable(),
    /** Why a form was not taken; null for all else. */
    problem: p.text().nullable(),
    receivedAt: p.datetime(),
  },
});

/** Something only a person can settle. */
export const NeedsYou = defineEntity({
  name: 'NeedsYou',
  tableName: 'needs_you',
  uniques: [{ name: 'needs_you_subject', properties: ['business', 'subject'] }],
  indexes: [
    {
      name: 'needs_you_open',
      expression: `create index "needs_you_open" on "needs_you" ("business_id", "created_at") where "settled_at" is null`,
    },
  ],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    kind: p.enum([
      'message_refused',
      'step_asks',
      'arrival_refused',
      'message_lost',
      'message_unsure',
      'step_failed',
      'source_trouble',
      'entries_expiring',
      'draft_waits',
      'form_refused',
      'number_shared',
      'maybe_refusal',
      'mail_unread',
      'text_ceiling',
      'source_flood',
      'service_trouble',
      'key_ends',
    ]),
    /** What it is about, so that one trouble makes one entry: "run:…:step:…", "arrival:…". */
    subject: p.text(),
    title: p.text(),
    detail: p.text(),
    runId: p.uuid().nullable(),
    stepId: p.string().nullable(),
    leadId: p.uuid().nullable(),
    /** The other of two leads it is about. */
    otherLeadId: p.uuid().nullable(),
    arrivalId: p.uuid().nullable(),
    sourceId: p.uuid().nullable(),
    createdAt: p.datetime(),
    settledAt: p.datetime().nullable(),
    settledBy: () => p.manyToOne(Person).ref().nullable(),
  },
});
