import { OF_THE_PERSON, TESTS, testsOf } from '../condition/condition.ts';
import { testWords } from '../condition/words.ts';
import { type FieldReference, readReference, referenceLabel } from '../template/field-reference.ts';
import { templateProblem, usedReferences } from '../template/template.ts';
import { type Definition, type Moment, placedSteps } from './definition.ts';
import type { Finding } from './finding.ts';
import { placedConditions } from './references.ts';
import { fieldValue, templateScope } from './run-context.ts';
import { type CheckInput, deskNames, type SendingDesk, type StepKind } from './step-kind.ts';

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

  // What steps find and ask, what will have happened, and the items of a list are not known of a sample.
  const given = new Set(
    placed.flatMap(({ step }) => {
      const kind = kinds.get(step.kind);
      const settings = kind?.settings.safeParse(step.settings);
      return settings?.success
        ? (kind!.gives?.(settings.data, input.desk) ?? []).map((one) => `${one.group ?? 'found'}.${one.key}`)
        : [];
    }),
  );
  const comesLater = ({ group, key }: FieldReference) => LATER.has(group) || given.has(`${group}.${key}`);

  for (const finding of momentFindings(definition, input, comesLater)) add(finding);

  for (const { step, moment } of placed) {
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
    for (const { field, ...finding } of kind.check(settings.data, {
      ...input,
      onArrival: moment === definition.moments[0],
    }))
      add({ ...finding, place: { stepId: step.id, field: field ?? null } });
    const scope = input.sample ? (templateScope(input.sample) as Record<string, Record<string, string>>) : null;
    for (const { field, source } of kind.templates(settings.data)) {
      const problem = templateProblem(source);
      if (problem) add({ weight: 'must', code: 'template', text: problem.text, place: { stepId: step.id, field } });
      const lacking = scope
        ? usedReferences(source).filter((r) => !comesLater(r) && scope[r.group]?.[r.key] === undefined)
        : [];
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

const LATER = new Set(['found', 'happened', 'item', 'owner']);

/** What would go wrong with moments, cases, guards and the rules. */
function momentFindings(
  definition: Definition,
  input: SheetCheckInput,
  comesLater: (reference: FieldReference) => boolean,
): Finding[] {
  const found: Finding[] = [];
  const { desk, sample } = input;
  const names = deskNames(desk);
  const at = (momentId: string) => ({ stepId: null, field: 'moment' as const, momentId });
  for (const moment of definition.moments) {
    const place = at(moment.id);
    if (moment.at.kind === 'on_date') {
      if (moment.at.field === '')
        found.push({ weight: 'must', code: 'no-date', text: 'A moment counts from a date: choose the field.', place });
      else if (sample && fieldValue(sample, moment.at.field) === null && !/^(found|happened)/.test(moment.at.field))
        found.push({
          weight: 'look',
          code: 'field-lacking',
          text: `The sample lead has no "${names.field(moment.at.field)}", so a moment would be left out.`,
          place,
        });
    }
    if (moment.at.kind === 'event') {
      const text = eventProblem(moment.at, definition, desk);
      if (text) found.push({ weight: 'must', code: 'gone', text, place });
    }
  }
  for (const { condition, momentId, caseId, stepId } of placedConditions(definition)) {
    const place = stepId ? { stepId, field: 'onlyIf' } : at(momentId);
    const tests = testsOf(condition);
    if (tests.length === 0 && caseId !== null)
      found.push({ weight: 'must', code: 'empty', text: 'A case has no condition yet.', place });
    for (const test of tests) {
      const { takes } = TESTS[test.test];
      if (takes !== null && test.value.trim() === '')
        found.push({
          weight: 'must',
          code: 'empty',
          text: `A condition is not finished: ${testWords(test, names)}.`,
          place,
        });
      else if (takes === 'tag' && !desk.tags.some((tag) => tag.id === test.value))
        found.push({ weight: 'must', code: 'gone', text: 'A condition asks for a tag that is gone.', place });
      else if (takes === 'members' && !desk.lists.some((one) => one.id === test.value))
        found.push({ weight: 'must', code: 'gone', text: 'A condition asks for a list that is gone.', place });
      else if (takes === 'column' && names.column(test.value) === 'a column that is gone')
        found.push({ weight: 'must', code: 'gone', text: 'A condition looks in a column that is gone.', place });
      const read = readReference(test.field);
      if (test.field === '' ? !OF_THE_PERSON.includes(test.test) : !read)
        found.push({ weight: 'must', code: 'empty', text: 'A condition asks about no field.', place });
      else if (sample && read && !comesLater(read) && fieldValue(sample, test.field) === null)
        found.push({
          weight: 'look',
          code: 'field-lacking',
          text: `A condition asks for "${names.field(test.field)}", which the sample lead lacks.`,
          place,
        });
    }
  }
  const { tell } = definition.rules;
  if (tell && !desk.colleagues.some((one) => one.id === tell.colleague))
    found.push({
      weight: 'look',
      code: 'gone',
      text: 'The person to be told of failures is no longer here.',
      place: { stepId: null, field: 'rules' },
    });
  return found;
}

/** What a moment waits for and cannot come, in words; null when nothing is wrong. */
function eventProblem(
  at: Extract<Moment['at'], { kind: 'event' }>,
  definition: Definition,
  desk: SendingDesk,
): string | null {
  const has = (list: readonly { id: string }[], id: string) => list.some((one) => one.id === id);
  const step = placedSteps(definition).find((one) => one.step.id === at.step)?.step;
  switch (at.event) {
    case 'reply':
      return null;
    case 'tag':
      return has(desk.tags, at.tag) ? null : 'A moment waits for a tag: choose it.';
    case 'list':
      return has(desk.lists, at.list) ? null : 'A moment waits until they join a list: choose it.';
    case 'stage':
      return has(desk.stages, at.stage) ? null : 'A moment waits for a stage of their deal: choose it.';
    case 'arrival':
      return at.sources.every((id) => has(desk.sources, id)) ? null : 'A moment waits for a source that is gone.';
    case 'answer':
      return step?.kind === 'ask' ? null : 'A moment waits for an answer: choose the question.';
    case 'form':
    case 'link':
    case 'opened':
      return at.step === '' || step ? null : 'A moment waits for a message that is gone: choose it.';
  }
}
