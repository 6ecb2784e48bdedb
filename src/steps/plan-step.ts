import { type Definition, LANES, type Place, type Step } from '../core/workflow/definition.ts';
import type { Plan } from '../core/workflow/plan.ts';
import type { RunContext, RunPerson } from '../core/workflow/run-context.ts';
import type { SendingDesk } from '../core/workflow/step-kind.ts';
import { stepKinds } from './registry.ts';

/** Plans one step: pure, so a rehearsal, the preview and the engine see the same. */
export function planStep(step: Step, context: RunContext, desk: SendingDesk): Plan {
  if (!step.on) return { does: 'nothing', why: { code: 'switched_off', text: 'Switched off' } };
  const kind = stepKinds.get(step.kind);
  const settings = kind?.settings.safeParse(step.settings);
  if (!kind || !settings?.success)
    return { does: 'ask', why: { code: 'template', text: 'The settings of this step cannot be read' } };
  return kind.plan(settings.data, { context, desk });
}

/** The context after a change, and the person's fields that really changed. */
export function applyChange(context: RunContext, plan: Plan): { context: RunContext; changed: Partial<RunPerson> } {
  if (plan.does !== 'change') return { context, changed: {} };
  const changed: Partial<RunPerson> = {};
  for (const change of plan.changes) if (change.after !== change.before) changed[change.field] = change.after;
  return { context: { ...context, person: { ...context.person, ...changed } }, changed };
}

export interface Rehearsed {
  stepId: string;
  place: Place;
  plan: Plan;
}

/** What each step of a sheet would do with one lead. Nothing leaves, nothing is written. */
export function rehearseSheet(definition: Definition, start: RunContext, desk: SendingDesk): Rehearsed[] {
  let context = start;
  const shown: Rehearsed[] = [];
  for (const moment of definition.moments) {
    for (const step of moment.first) {
      const plan = planStep(step, context, desk);
      context = applyChange(context, plan).context;
      shown.push({ stepId: step.id, place: 'first', plan });
    }
    for (const place of LANES)
      for (const step of moment.lanes[place])
        shown.push({ stepId: step.id, place, plan: planStep(step, context, desk) });
  }
  return shown;
}
