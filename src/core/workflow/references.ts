import type { Condition } from '../condition/condition.ts';
import { type Definition, placedSteps } from './definition.ts';

/** A condition with where it stands on the sheet. */
export interface PlacedCondition {
  condition: Condition;
  momentId: string;
  caseId: string | null;
  stepId: string | null;
}

/** Every condition of a sheet: of moments, cases and guards. */
export function placedConditions(definition: Definition): PlacedCondition[] {
  const out: PlacedCondition[] = [];
  for (const moment of definition.moments) {
    if (moment.onlyIf) out.push({ condition: moment.onlyIf, momentId: moment.id, caseId: null, stepId: null });
    for (const eachCase of moment.cases)
      out.push({ condition: eachCase.when, momentId: moment.id, caseId: eachCase.id, stepId: null });
  }
  for (const { step, moment } of placedSteps(definition))
    if (step.onlyIf) out.push({ condition: step.onlyIf, momentId: moment.id, caseId: null, stepId: step.id });
  return out;
}
