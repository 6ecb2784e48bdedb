import { z } from 'zod';

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

/** One thing done. What `settings` holds is the business of the step's kind. */
export const Step = z.object({
  id: z.string().min(1).max(40),
  kind: z.string().min(1).max(40),
  /** A step switched off stays on the sheet and does nothing. */
  on: z.boolean(),
  note: z.string().max(500),
  settings: z.record(z.string(), z.unknown()),
});
export type Step = z.infer<typeof Step>;

const Steps = z.array(Step).max(60);

export const Moment = z.object({
  id: z.string().min(1).max(40),
  at: z.discriminatedUnion('kind', [z.object({ kind: z.literal('on_arrival') })]),
  first: Steps,
  lanes: z.object({ lead: Steps, record: Steps, team: Steps }),
});
export type Moment = z.infer<typeof Moment>;

export const Rules = z.object({
  /** When somebody this workflow has already run for comes in again. */
  samePerson: z.enum(['update_only', 'run_again']),
});
export type Rules = z.infer<typeof Rules>;

/** The body of a workflow: its run sheet and rules. */
export const Definition = z.object({
  sources: z.array(z.uuid()).max(50),
  moments: z.array(Moment).min(1).max(40),
  rules: Rules,
});
export type Definition = z.infer<typeof Definition>;

/** An empty sheet: one moment, nothing in it. `id` is the new moment's. */
export const blankDefinition = (id: string): Definition => ({
  sources: [],
  moments: [{ id, at: { kind: 'on_arrival' }, first: [], lanes: { lead: [], record: [], team: [] } }],
  rules: { samePerson: 'update_only' },
});

export interface PlacedStep {
  step: Step;
  moment: Moment;
  place: Place;
  index: number;
}

/** Every step with where it stands, in reading order. */
export function placedSteps(definition: Definition): PlacedStep[] {
  return definition.moments.flatMap((moment) => [
    ...moment.first.map((step, index) => ({ step, moment, place: 'first' as const, index })),
    ...LANES.flatMap((place) => moment.lanes[place].map((step, index) => ({ step, moment, place, index }))),
  ]);
}

export const stepsAt = (moment: Moment, place: Place): Step[] =>
  place === 'first' ? moment.first : moment.lanes[place];
