import { z } from 'zod';
import { Condition } from '../condition/condition.ts';
import { At } from './at.ts';
import { Rules, TEXT_HOURS } from './rules.ts';
import { Trial } from './trial.ts';

/** The lanes of a moment, in the order they stand on the run sheet. */
export const LANES = ['lead', 'record', 'team'] as const;
export type Lane = (typeof LANES)[number];
/** Where a step can stand: in First or in a lane. */
export type Place = 'first' | Lane;

export const LANE_LABELS: Record<Place, string> = {
  first: 'First',
  lead: 'To the lead',
  record: 'On record',
  team: 'To the team',
};

/** What happens when the outside world refuses a step for good, or is not to be reached for too long. */
export const IfFails = z.object({
  /** Tried again and again for this long, in minutes. */
  tryForMinutes: z
    .number()
    .int()
    .min(0)
    .max(7 * 24 * 60),
  after: z.enum(['carry_on', 'stop_lane', 'other_channel']),
});
export type IfFails = z.infer<typeof IfFails>;
export const IF_FAILS: IfFails = { tryForMinutes: 240, after: 'carry_on' };

/** One thing done. What `settings` holds is the business of the step's kind. */
export const Step = z.object({
  id: z.string().min(1).max(40),
  kind: z.string().min(1).max(40),
  /** A step switched off stays on the sheet and does nothing. */
  on: z.boolean(),
  note: z.string().max(500),
  /** The guard: done only when this holds. */
  onlyIf: Condition.nullable().default(null),
  ifFails: IfFails.default(IF_FAILS),
  /** Done once for each item of this list of the arrival, for kinds that can; empty for once. */
  each: z.string().max(200).default(''),
  settings: z.record(z.string(), z.unknown()),
  /** Tried in two versions; left out where it is not. */
  trial: Trial.optional(),
});
export type Step = z.infer<typeof Step>;

const Steps = z.array(Step).max(60);
const Lanes = z.object({ lead: Steps, record: Steps, team: Steps });
export type Lanes = z.infer<typeof Lanes>;

/** One alternative of a moment. The first whose condition holds is taken. */
export const Case = z.object({
  id: z.string().min(1).max(40),
  name: z.string().max(60),
  when: Condition,
  lanes: Lanes,
});
export type Case = z.infer<typeof Case>;

export const Moment = z.object({
  id: z.string().min(1).max(40),
  at: At,
  /** The moment is left out when this does not hold. */
  onlyIf: Condition.nullable().default(null),
  first: Steps,
  cases: z.array(Case).max(12).default([]),
  /** What happens when no case fits; without cases, what happens. */
  lanes: Lanes,
});
export type Moment = z.infer<typeof Moment>;

/** The body of a workflow: its run sheet and rules. */
export const Definition = z.object({
  sources: z.array(z.uuid()).max(50),
  moments: z.array(Moment).min(1).max(40),
  rules: Rules,
});
export type Definition = z.infer<typeof Definition>;

const emptyLanes = (): Lanes => ({ lead: [], record: [], team: [] });

export const blankMoment = (id: string, at: At): Moment => ({
  id,
  at,
  onlyIf: null,
  first: [],
  cases: [],
  lanes: emptyLanes(),
});

export const blankCase = (id: string, when: Condition): Case => ({ id, name: '', when, lanes: emptyLanes() });

/** An empty sheet: one moment, nothing in it. `id` is the new moment's. */
export const blankDefinition = (id: string): Definition => ({
  sources: [],
  moments: [blankMoment(id, { kind: 'on_arrival' })],
  rules: Rules.parse({ samePerson: 'by_source', hours: { text: TEXT_HOURS, email: null, chat: null } }),
});

/** Where a step stands. `caseId` is null in First and in the lanes of a moment without cases, or of its "otherwise". */
export interface PlacedStep {
  step: Step;
  moment: Moment;
  caseId: string | null;
  place: Place;
  index: number;
}

/** The lanes of one case, or those of "otherwise". */
export const lanesOf = (moment: Moment, caseId: string | null): Lanes =>
  moment.cases.find((eachCase) => eachCase.id === caseId)?.lanes ?? moment.lanes;

/** Every step with where it stands, in reading order. */
export function placedSteps(definition: Definition): PlacedStep[] {
  return definition.moments.flatMap((moment) => [
    ...moment.first.map((step, index) => ({ step, moment, caseId: null, place: 'first' as const, index })),
    ...[...moment.cases.map((eachCase) => eachCase.id), null].flatMap((caseId) =>
      LANES.flatMap((place) =>
        lanesOf(moment, caseId)[place].map((step, index) => ({ step, moment, caseId, place, index })),
      ),
    ),
  ]);
}

export const stepsAt = (moment: Moment, caseId: string | null, place: Place): Step[] =>
  place === 'first' ? moment.first : lanesOf(moment, caseId)[place];
