import { type Definition, LANES, type Moment, type Place, type Step, stepsAt } from '../../core/workflow/definition.ts';

/** Changes to a run sheet, each giving a new one; the old is left as it was. */
type Edit = (definition: Definition) => Definition;

const withSteps = (moment: Moment, place: Place, steps: Step[]): Moment =>
  place === 'first' ? { ...moment, first: steps } : { ...moment, lanes: { ...moment.lanes, [place]: steps } };

const mapMoment = (definition: Definition, momentId: string, change: (moment: Moment) => Moment): Definition => ({
  ...definition,
  moments: definition.moments.map((moment) => (moment.id === momentId ? change(moment) : moment)),
});

const everywhere = (definition: Definition, change: (steps: Step[]) => Step[]): Definition => ({
  ...definition,
  moments: definition.moments.map((moment) => ({
    ...moment,
    first: change(moment.first),
    lanes: { lead: change(moment.lanes.lead), record: change(moment.lanes.record), team: change(moment.lanes.team) },
  })),
});

export function findStep(
  definition: Definition,
  stepId: string,
): { step: Step; moment: Moment; place: Place; index: number } | null {
  for (const moment of definition.moments)
    for (const place of ['first', ...LANES] as Place[]) {
      const index = stepsAt(moment, place).findIndex((step) => step.id === stepId);
      if (index >= 0) return { step: stepsAt(moment, place)[index]!, moment, place, index };
    }
  return null;
}

export const addStep =
  (momentId: string, place: Place, step: Step): Edit =>
  (definition) =>
    mapMoment(definition, momentId, (moment) => withSteps(moment, place, [...stepsAt(moment, place), step]));

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
      steps.map((step) => (step.id === stepId ? { ...step, settings: { ...step.settings, ...patch } } : step)),
    );

/** A copy right below the original. */
export const copyStep =
  (stepId: string, newId: string): Edit =>
  (definition) =>
    everywhere(definition, (steps) =>
      steps.flatMap((step) => (step.id === stepId ? [step, { ...structuredClone(step), id: newId }] : [step])),
    );

/** Moves a step to a place and position; `index` counts without the step itself. */
export const moveStep =
  (stepId: string, momentId: string, place: Place, index: number): Edit =>
  (definition) => {
    const found = findStep(definition, stepId);
    if (!found) return definition;
    return mapMoment(removeStep(stepId)(definition), momentId, (moment) => {
      const steps = [...stepsAt(moment, place)];
      steps.splice(index, 0, found.step);
      return withSteps(moment, place, steps);
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

export const setSamePerson =
  (samePerson: Definition['rules']['samePerson']): Edit =>
  (definition) => ({ ...definition, rules: { ...definition.rules, samePerson } });
