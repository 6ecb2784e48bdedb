import { defineEntity, type InferEntity, p } from '@mikro-orm/core';
import type { Definition } from '../../core/workflow/definition.ts';
import { SAME_PERSON_DOES } from '../../core/workflow/rules.ts';
import { Business, Person } from './business.ts';
import { PRESENT } from './present.ts';
import { Source } from './source.ts';

export const Workflow = defineEntity({
  name: 'Workflow',
  tableName: 'workflow',
  indexes: [{ name: 'workflow_business', properties: ['business'] }],
  filters: { present: PRESENT },
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    name: p.string(),
    folder: p.string().default(''),
    state: p.enum(['draft', 'live', 'paused']),
    draft: p.json<Definition>(),
    /** Counts saved edits of the draft; a save names the revision it is based on. */
    revision: p.integer().default(0),
    /** Revision at the last rehearsal or test sent, for "not tried since". */
    triedRevision: p.integer().default(-1),
    /** The arrival used as sample lead; null until one is chosen. */
    sampleArrivalId: p.uuid().nullable(),
    liveVersionId: p.uuid().nullable(),
    /** Revision the live version was made from. */
    liveRevision: p.integer().nullable(),
    /** Up to when a colleague has been told what needs a person. */
    failuresToldAt: p.datetime().nullable(),
    /** How many turns steps that take turns have given, by step. */
    turns: p.json<Record<string, number>>().defaultRaw(`'{}'`),
    createdAt: p.datetime(),
    /** Since when it is gone for everybody but its history. */
    removedAt: p.datetime().nullable(),
    updatedAt: p.datetime(),
  },
});
export type IWorkflow = InferEntity<typeof Workflow>;

/** A version once put live. Never changed. */
export const WorkflowVersion = defineEntity({
  name: 'WorkflowVersion',
  tableName: 'workflow_version',
  uniques: [{ name: 'workflow_version_number', properties: ['workflow', 'number'] }],
  properties: {
    id: p.uuid().primary(),
    business: () => p.manyToOne(Business).ref(),
    workflow: () => p.manyToOne(Workflow).ref(),
    number: p.integer(),
    definition: p.json<Definition>(),
    putLiveBy: () => p.manyToOne(Person).ref().nullable(),
    putLiveAt: p.datetime(),
  },
});

/** Which live version listens to which source: what intake looks at. */
export const Listening = defineEntity({
  name: 'Listening',
  tableName: 'listening',
  properties: {
    source: () => p.manyToOne(Source).ref().primary(),
    business: () => p.manyToOne(Business).ref(),
    workflow: () => p.manyToOne(Workflow).ref().primary(),
    version: () => p.manyToOne(WorkflowVersion).ref(),
    samePerson: p.enum([...SAME_PERSON_DOES]),
    againAfterDays: p.integer().default(30),
    knownBy: p.enum(['workflow', 'source']).default('workflow'),
  },
});
