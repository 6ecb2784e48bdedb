import { z } from 'zod';
import { Condition, isBlank } from '../../core/condition/condition.ts';
import { evaluate } from '../../core/condition/evaluate.ts';
import { comparedWords, conditionWords } from '../../core/condition/words.ts';
import { knownOf } from '../../core/workflow/run-context.ts';
import { catalogueNames, type StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({ condition: Condition, ends: z.enum(['moment', 'run']), name: z.string().max(60) });
export type CheckSettings = z.infer<typeof Settings>;

/** Lets the moment go on only when a condition holds. */
export const check: StepKind<CheckSettings> = {
  kind: 'check',
  label: 'Check',
  icon: 'shield-check',
  places: ['first'],
  settings: Settings,
  blank: () => ({ condition: { all: [] }, ends: 'run', name: '' }),
  card: ({ condition, name }, catalogue) => ({
    title:
      name ||
      (isBlank(condition) ? 'Check nothing yet' : `Only if ${conditionWords(condition, catalogueNames(catalogue))}`),
    line: '',
  }),
  aloud: ({ condition }, catalogue) =>
    isBlank(condition) ? 'check nothing yet' : `go on only if ${conditionWords(condition, catalogueNames(catalogue))}`,
  check: ({ condition }) =>
    isBlank(condition)
      ? [{ weight: 'must', code: 'empty', text: 'Check: say what is checked.', field: 'condition' }]
      : [],
  templates: () => [],
  asks: ({ condition }) => condition,
  plan: ({ condition, ends, name }, { context, catalogue, now }) => {
    const verdict = evaluate(condition, knownOf(context, now));
    const names = catalogueNames(catalogue);
    if (verdict.holds) return { does: 'pass', words: name || conditionWords(condition, names) };
    const failed = verdict.compared.find((compared) => !compared.holds);
    const why = failed ? comparedWords(failed, names) : conditionWords(condition, names);
    return { does: 'end', ends, why: { code: 'check', text: `Stopped by a check. ${why}` } };
  },
};
