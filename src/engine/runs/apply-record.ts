import type { RunContext } from '../../core/workflow/run-context.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import { applyFields } from '../../steps/apply-fields.ts';
import { applyChange } from '../../steps/plan-step.ts';
import type { StepRecord } from './leased-run.ts';

/** The context after a step that was done before: what it changed and what it found. */
export function applyRecord(context: RunContext, record: StepRecord, catalogue: Catalogue): RunContext {
  const after = applyChange(context, record.plan).context;
  return record.results ? applyFields(after, record.results, catalogue) : after;
}
