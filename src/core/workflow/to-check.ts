import { referenceLabel } from '../template/field-reference.ts';
import { templateProblem, usedReferences } from '../template/template.ts';
import { type Definition, placedSteps } from './definition.ts';
import type { Finding } from './finding.ts';
import { templateScope } from './run-context.ts';
import type { CheckInput, StepKind } from './step-kind.ts';

export interface SheetCheckInput extends CheckInput {
  sources: { id: string; name: string; state: 'waiting' | 'live' | 'paused' }[];
  /** Whether a test was sent or a rehearsal run since the last change. */
  triedSinceChange: boolean;
}

/** The running list of what would go wrong, in reading order. */
export function toCheck(
  definition: Definition,
  kinds: ReadonlyMap<string, StepKind>,
  input: SheetCheckInput,
): Finding[] {
  const findings: Finding[] = [];
  const add = (finding: Finding) => findings.push(finding);
  const listened = input.sources.filter((source) => definition.sources.includes(source.id));
  if (listened.length === 0)
    add({
      weight: 'must',
      code: 'no-source',
      text: 'No source yet: nothing will ring in.',
      place: { stepId: null, field: 'sources' },
    });
  for (const source of listened)
    if (source.state === 'paused')
      add({
        weight: 'look',
        code: 'source-paused',
        text: `The source "${source.name}" is paused.`,
        place: { stepId: null, field: 'sources' },
      });
  if (listened.length > 0 && !input.sample)
    add({
      weight: 'look',
      code: 'no-sample',
      text: 'No sample lead yet: fill in the form once to catch one.',
      place: { stepId: null, field: 'sample' },
    });

  const placed = placedSteps(definition);
  if (!placed.some(({ step, place }) => step.on && place !== 'first'))
    add({
      weight: 'must',
      code: 'nothing-happens',
      text: 'Nothing happens yet: add a step to a lane.',
      place: { stepId: null, field: 'sheet' },
    });

  for (const { step } of placed) {
    if (!step.on) continue;
    const kind = kinds.get(step.kind);
    if (!kind) {
      add({
        weight: 'must',
        code: 'unknown-kind',
        text: `This copy of Pine Bell does not know steps of the kind "${step.kind}".`,
        place: { stepId: step.id, field: null },
      });
      continue;
    }
    const settings = kind.settings.safeParse(step.settings);
    if (!settings.success) {
      const issue = settings.error.issues[0];
      const field = String(issue?.path[0] ?? '');
      add({
        weight: 'must',
        code: 'settings',
        text: `${kind.label}: ${issue?.message ?? 'something is missing'}.`,
        place: { stepId: step.id, field: field || null },
      });
      continue;
    }
    for (const { field, ...finding } of kind.check(settings.data, input))
      add({ ...finding, place: { stepId: step.id, field: field ?? null } });
    const scope = input.sample ? (templateScope(input.sample) as Record<string, Record<string, string>>) : null;
    for (const { field, source } of kind.templates(settings.data)) {
      const problem = templateProblem(source);
      if (problem) add({ weight: 'must', code: 'template', text: problem.text, place: { stepId: step.id, field } });
      const lacking = scope ? usedReferences(source).filter((r) => scope[r.group]?.[r.key] === undefined) : [];
      for (const reference of new Map(lacking.map((r) => [`${r.group}.${r.key}`, r])).values())
        add({
          weight: 'look',
          code: 'field-lacking',
          text: `${kind.label}: the sample lead has no field "${referenceLabel(reference)}", so it would be left empty.`,
          place: { stepId: step.id, field },
        });
    }
  }
  if (placed.length > 0 && listened.length > 0 && !input.triedSinceChange)
    add({
      weight: 'look',
      code: 'not-tried',
      text: 'Not tried since the last change: rehearse it, or send one to yourself.',
      place: { stepId: null, field: 'sheet' },
    });
  return findings;
}
