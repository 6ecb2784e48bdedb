import { OF_THE_PERSON, TESTS, testsOf } from '../condition/condition.ts';
import { testWords } from '../condition/words.ts';
import { type FieldReference, readReference } from '../template/field-reference.ts';
import { type Definition, type Moment, placedSteps } from './definition.ts';
import type { Finding } from './finding.ts';
import { placedConditions } from './references.ts';
import { fieldValue } from './run-context.ts';
import { type Catalogue, type CheckInput, catalogueNames } from './step-kind.ts';

/** What a whole sheet is checked against. */
export interface SheetCheckInput extends CheckInput {
  sources: { id: string; name: string; state: 'waiting' | 'live' | 'paused' }[];
  /** Whether a test was sent or a rehearsal run since the last change. */
  triedSinceChange: boolean;
}

/** What would go wrong with moments, cases, guards and the rules. */
export function momentFindings(
  definition: Definition,
  input: SheetCheckInput,
  comesLater: (reference: FieldReference) => boolean,
): Finding[] {
  const found: Finding[] = [];
  const { catalogue, sample } = input;
  const names = catalogueNames(catalogue);
  const at = (momentId: string) => ({ stepId: null, field: 'moment' as const, momentId });
  for (const [index, moment] of definition.moments.entries()) {
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
      const text = eventProblem(moment.at, definition, catalogue, index);
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
      else if (takes === 'tag' && !catalogue.tags.some((tag) => tag.id === test.value))
        found.push({ weight: 'must', code: 'gone', text: 'A condition asks for a tag that is gone.', place });
      else if (takes === 'members' && !catalogue.lists.some((list) => list.id === test.value))
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
  if (tell && !catalogue.colleagues.some((colleague) => colleague.id === tell.colleague))
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
  catalogue: Catalogue,
  index: number,
): string | null {
  const has = (list: readonly { id: string }[], id: string) => list.some((one) => one.id === id);
  const placed = placedSteps(definition).find((placedStep) => placedStep.step.id === at.step);
  const step = placed?.step;
  // What a moment waits for has to have gone out in a moment above it.
  const above = !placed || definition.moments.indexOf(placed.moment) < index;
  switch (at.event) {
    case 'reply':
      return null;
    case 'tag':
      return has(catalogue.tags, at.tag) ? null : 'A moment waits for a tag: choose it.';
    case 'list':
      return has(catalogue.lists, at.list) ? null : 'A moment waits until they join a list: choose it.';
    case 'stage':
      return has(catalogue.stages, at.stage) ? null : 'A moment waits for a stage of their deal: choose it.';
    case 'arrival':
      return at.sources.every((id) => has(catalogue.sources, id)) ? null : 'A moment waits for a source that is gone.';
    case 'answer':
      if (step?.kind !== 'ask') return 'A moment waits for an answer: choose the question.';
      return above
        ? null
        : 'A moment waits for the answer to a question that is asked only in it or below it: move the question into a moment above.';
    case 'form':
    case 'link':
    case 'opened':
      if (at.step === '' || (step && above)) return null;
      return step
        ? 'A moment waits for what comes of a message that goes out only in it or below it: move the message into a moment above.'
        : 'A moment waits for a message that is gone: choose it.';
  }
}
