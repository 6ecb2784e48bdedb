import type { Condition } from '../core/condition/condition.ts';
import { readReference } from '../core/template/field-reference.ts';
import type { Step } from '../core/workflow/definition.ts';
import type { Plan } from '../core/workflow/plan.ts';
import type { RunContext, RunPerson } from '../core/workflow/run-context.ts';
import type { SendingDesk } from '../core/workflow/step-kind.ts';
import { stepKinds } from './registry.ts';

/** Plans one step: pure, so a rehearsal, the preview and the engine see the same. `now` in milliseconds. */
export function planStep(step: Step, context: RunContext, desk: SendingDesk, now: number): Plan {
  if (!step.on) return { does: 'nothing', why: { code: 'switched_off', text: 'Switched off' } };
  const kind = stepKinds.get(step.kind);
  const settings = kind?.settings.safeParse(step.settings);
  if (!kind || !settings?.success)
    return { does: 'ask', why: { code: 'template', text: 'The settings of this step cannot be read' } };
  return kind.plan(settings.data, { context, desk, now });
}

/** What is sent instead when a step is refused; null when its kind has nothing else to offer. */
export function planInstead(step: Step, context: RunContext, desk: SendingDesk, now: number): Plan | null {
  const kind = stepKinds.get(step.kind);
  const settings = kind?.settings.safeParse(step.settings);
  return settings?.success ? (kind!.instead?.(settings.data, { context, desk, now }) ?? null) : null;
}

/** The context after a change, with the person's fields and the answers that really changed. */
export function applyChange(
  context: RunContext,
  plan: Plan,
): { context: RunContext; changed: Partial<RunPerson>; answers: Record<string, string> } {
  const changed: Partial<RunPerson> = {};
  const answers: Record<string, string> = {};
  if (plan.does === 'change')
    for (const { field, before, after } of plan.changes) {
      if (after === before) continue;
      const read = readReference(field);
      if (read?.group === 'answers') answers[read.key] = after;
      else if (Object.hasOwn(context.person, field)) changed[field as keyof RunPerson] = after;
    }
  if (plan.does !== 'change') return { context, changed, answers };
  return {
    context: { ...context, person: { ...context.person, ...changed }, answers: { ...context.answers, ...answers } },
    changed,
    answers,
  };
}

/** The condition a step's plan goes by, if its kind has one. */
export function conditionOf(step: Step): Condition | null {
  const kind = stepKinds.get(step.kind);
  const settings = kind?.settings.safeParse(step.settings);
  return settings?.success ? (kind!.asks?.(settings.data) ?? null) : null;
}
