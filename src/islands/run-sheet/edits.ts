import type { Condition } from '../../core/condition/condition.ts';
import type { At } from '../../core/workflow/at.ts';
import {
  blankCase,
  type Case,
  type Definition,
  type Lanes,
  lanesOf,
  type Moment,
  type Place,
  type PlacedStep,
  placedSteps,
  type Step,
  stepsAt,
} from '../../core/workflow/definition.ts';
import type { Rules } from '../../core/workflow/rules.ts';
import { inVersion, type Trial, type Version } from '../../core/workflow/trial.ts';

/** Changes to a run sheet, each giving a new one; the old is left as it was. */
type Edit = (definition: Definition) => Definition;

/** Where a step goes. */
export interface Spot {
  momentId: string;
  caseId: string | null;
  place: Place;
}

function withSteps(moment: Moment, { caseId, place }: Pick<Spot, 'caseId' | 'place'>, steps: Step[]): Moment {
  if (place === 'first') return { ...moment, first: steps };
  const lanes = { ...lanesOf(moment, caseId), [place]: steps };
  return caseId === null
    ? { ...moment, lanes }
    : {
        ...moment,
        cases: moment.cases.map((eachCase) => (eachCase.id === caseId ? { ...eachCase, lanes } : eachCase)),
      };
}

const mapMoment = (definition: Definition, momentId: string, change: (moment: Moment) => Moment): Definition => ({
  ...definition,
  moments: definition.moments.map((moment) => (moment.id === momentId ? change(moment) : moment)),
});

const everyLane = (lanes: Lanes, change: (steps: Step[]) => Step[]): Lanes => ({
  lead: change(lanes.lead),
  record: change(lanes.record),
  team: change(lanes.team),
});

const everywhere = (definition: Definition, change: (steps: Step[]) => Step[]): Definition => ({
  ...definition,
  moments: definition.moments.map((moment) => ({
    ...moment,
    first: change(moment.first),
    cases: moment.cases.map((eachCase) => ({ ...eachCase, lanes: everyLane(eachCase.lanes, change) })),
    lanes: everyLane(moment.lanes, change),
  })),
});

export const findStep = (definition: Definition, stepId: string): PlacedStep | null =>
  placedSteps(definition).find(({ step }) => step.id === stepId) ?? null;

export const addStep =
  (spot: Spot, step: Step): Edit =>
  (definition) =>
    mapMoment(definition, spot.momentId, (moment) =>
      withSteps(moment, spot, [...stepsAt(moment, spot.caseId, spot.place), step]),
    );

export const removeStep =
  (stepId: string): Edit =>
  (definition) =>
    everywhere(definition, (steps) =>
      steps.some((step) => step.id === stepId) ? steps.filter((step) => step.id !== stepId) : steps,
    );

export const changeStep =
  (stepId: string, patch: Partial<Step>): Edit =>
  (definition) =>
    everywhere(definition, (steps) => steps.map((step) => (step.id === stepId ? { ...step, ...patch } : step)));

export const changeSettings =
  (stepId: string, patch: Record<string, unknown>): Edit =>
  (definition) =>
    everywhere(definition, (steps) =>
      steps.map((step) =>
        step.id === stepId
          ? {
              ...step,
              settings: { ...step.settings, ...patch },
              ...(step.trial ? { trial: { ...step.trial, id: crypto.randomUUID() } } : {}),
            }
          : step,
      ),
    );

/** Version B of a step that is tried in two, or what counts. It is another trial then: what was sent before is not counted in it. */
export const changeTrial =
  (stepId: string, patch: Partial<Trial>): Edit =>
  (definition) =>
    everywhere(definition, (steps) =>
      steps.map((step) =>
        step.id === stepId && step.trial
          ? { ...step, trial: { ...step.trial, ...patch, id: crypto.randomUUID() } }
          : step,
      ),
    );

/** From now on a step is written in one version only: the one that is kept. */
export const endTrial =
  (stepId: string, version: Version): Edit =>
  (definition) =>
    everywhere(definition, (steps) =>
      steps.map((step) => {
        if (step.id !== stepId) return step;
        const { trial: _, ...kept } = inVersion(step, version);
        return kept;
      }),
    );

/** A step again under an id of its own; what it finds is its own too. */
const copyOf = (step: Step, id: string): Step => {
  const settings = structuredClone(step.settings);
  // What is tried of one is not tried of the other.
  const { trial: _, ...rest } = structuredClone(step);
  return { ...rest, id, settings: 'key' in settings ? { ...settings, key: id } : settings };
};

/** A copy right below the original. */
export const copyStep =
  (stepId: string, newId: string): Edit =>
  (definition) =>
    everywhere(definition, (steps) =>
      steps.flatMap((step) => (step.id === stepId ? [step, copyOf(step, newId)] : [step])),
    );

/** Moves a step to a place and position; `index` counts without the step itself. */
export const moveStep =
  (stepId: string, spot: Spot, index: number): Edit =>
  (definition) => {
    const found = findStep(definition, stepId);
    if (!found) return definition;
    return mapMoment(removeStep(stepId)(definition), spot.momentId, (moment) => {
      const steps = [...stepsAt(moment, spot.caseId, spot.place)];
      steps.splice(index, 0, found.step);
      return withSteps(moment, spot, steps);
    });
  };

export const toggleSource =
  (sourceId: string): Edit =>
  (definition) => ({
    ...definition,
    sources: definition.sources.includes(sourceId)
      ? definition.sources.filter((id) => id !== sourceId)
      : [...definition.sources, sourceId],
  });

export const changeRules =
  (patch: Partial<Rules>): Edit =>
  (definition) => ({ ...definition, rules: { ...definition.rules, ...patch } });

/** A new moment right below another. */
export const addMoment =
  (afterId: string, moment: Moment): Edit =>
  (definition) => ({
    ...definition,
    moments: definition.moments.flatMap((one) => (one.id === afterId ? [one, moment] : [one])),
  });

export const removeMoment =
  (momentId: string): Edit =>
  (definition) => ({ ...definition, moments: definition.moments.filter((moment) => moment.id !== momentId) });

/** Moves a moment up or down; the first stays the first. */
export const moveMoment =
  (momentId: string, by: -1 | 1): Edit =>
  (definition) => {
    const from = definition.moments.findIndex((moment) => moment.id === momentId);
    const to = from + by;
    if (from < 1 || to < 1 || to >= definition.moments.length) return definition;
    const moments = [...definition.moments];
    moments.splice(to, 0, ...moments.splice(from, 1));
    return { ...definition, moments };
  };

export const changeAt =
  (momentId: string, at: At): Edit =>
  (definition) =>
    mapMoment(definition, momentId, (moment) => ({ ...moment, at }));

export const changeOnlyIf =
  (momentId: string, onlyIf: Condition | null): Edit =>
  (definition) =>
    mapMoment(definition, momentId, (moment) => ({ ...moment, onlyIf }));

export const addCase =
  (momentId: string, caseId: string, when: Condition): Edit =>
  (definition) =>
    mapMoment(definition, momentId, (moment) => ({ ...moment, cases: [...moment.cases, blankCase(caseId, when)] }));

export const changeCase =
  (momentId: string, caseId: string, patch: Partial<Case>): Edit =>
  (definition) =>
    mapMoment(definition, momentId, (moment) => ({
      ...moment,
      cases: moment.cases.map((eachCase) => (eachCase.id === caseId ? { ...eachCase, ...patch } : eachCase)),
    }));

/** A case goes; so do its steps. */
export const removeCase =
  (momentId: string, caseId: string): Edit =>
  (definition) =>
    mapMoment(definition, momentId, (moment) => ({
      ...moment,
      cases: moment.cases.filter((eachCase) => eachCase.id !== caseId),
    }));
