import type { Condition } from '../core/condition/condition.ts';
import { readReference } from '../core/template/field-reference.ts';
import type { Step } from '../core/workflow/definition.ts';
import type { Plan } from '../core/workflow/plan.ts';
import type { RunContext, RunPerson } from '../core/workflow/run-context.ts';
import type { Catalogue } from '../core/workflow/step-kind.ts';
import { stepKinds } from './registry.ts';

/** Plans one step: pure, so a rehearsal, the preview and the engine see the same. `now` in milliseconds. */
export function planStep(step: Step, context: RunContext, catalogue: Catalogue, now: number): Plan {
  if (!step.on) return { does: 'nothing', why: { code: 'switched_off', text: 'Switched off' } };
  const kind = stepKinds.get(step.kind);
  const settings = kind?.settings.safeParse(step.settings);
  if (!kind || !settings?.success)
    return { does: 'ask', why: { code: 'template', text: 'The settings of this step cannot be read' } };
  const turn = context.turns[step.id] ?? null;
  const plan = (item: RunContext) => kind.plan(settings.data, { context: item, catalogue, now, turn });
  return step.each !== '' && kind.repeats ? planEach(step.each, context, plan) : plan(context);
}

/** Most items of a list a step is done for. */
const MOST_ITEMS = 500;

/** Done once for each item of a list: one plan that holds what is done for every one of them. */
function planEach(list: string, context: RunContext, plan: (item: RunContext) => Plan): Plan {
  const whats: unknown[] = [];
  const words: string[] = [];
  for (const item of (context.lists[list] ?? []).slice(0, MOST_ITEMS)) {
    const one = plan({ ...context, item });
    if (one.does === 'nothing') continue;
    if (one.does !== 'record') return one;
    whats.push(one.what);
    words.push(one.words);
  }
  if (whats.length === 0) return { does: 'nothing', why: { code: 'empty', text: 'The list it goes through is empty' } };
  const more = words.length > 3 ? ` and ${words.length - 3} more` : '';
  return { does: 'record', words: words.slice(0, 3).join('; ') + more, what: { each: whats } satisfies EachDone };
}

/** What is done for each item of a list. */
export interface EachDone {
  each: unknown[];
}

export const isEach = (what: unknown): what is EachDone => Array.isArray((what as EachDone | null)?.each);

/** What is sent instead when a step is refused, or when its reply window is shut; null when its kind has nothing else to offer. */
export function planInstead(
  step: Step,
  context: RunContext,
  catalogue: Catalogue,
  now: number,
  why: 'refused' | 'shut' = 'refused',
): Plan | null {
  const kind = stepKinds.get(step.kind);
  const settings = kind?.settings.safeParse(step.settings);
  if (!kind || !settings?.success) return null;
  const input = { context, catalogue, now, turn: null };
  return (why === 'shut' ? kind.shut?.(settings.data, input) : kind.instead?.(settings.data, input)) ?? null;
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

/** The colleagues a step goes through in turn; null when nobody's turn is needed for this lead. */
export function turnOf(step: Step, context: RunContext, catalogue: Catalogue, now: number): readonly string[] | null {
  const kind = stepKinds.get(step.kind);
  const settings = kind?.settings.safeParse(step.settings);
  return settings?.success ? (kind!.turn?.(settings.data, { context, catalogue, now, turn: null }) ?? null) : null;
}
