import type { At } from '../../core/workflow/at.ts';
import { blankMoment, type Definition, IF_FAILS, type Step } from '../../core/workflow/definition.ts';
import { stepKinds } from '../../steps/registry.ts';
import * as edits from './edits.ts';
import type { useChosen } from './use-chosen.ts';
import type { Draft } from './use-draft.ts';

const newId = (kind: string) => `${kind}-${crypto.randomUUID().slice(0, 8)}`;

export type Building = ReturnType<typeof useBuilding>;

/** What is put onto a sheet and taken off it, and what is chosen after that. */
export function useBuilding(
  edit: Draft['edit'],
  { chooseStep, chooseMoment, showCases, leave }: ReturnType<typeof useChosen>,
  tell: (text: string, good: boolean) => void,
) {
  const removed = (change: (before: Definition) => Definition, words: string) => {
    edit(change);
    leave();
    tell(words, true);
  };
  return {
    addStep(spot: edits.Spot, kindName: string) {
      const kind = stepKinds.get(kindName)!;
      const step: Step = {
        ...{ id: newId(kindName), kind: kindName, on: true, note: '', onlyIf: null, ifFails: IF_FAILS, each: '' },
        settings: kind.blank() as Record<string, unknown>,
      };
      edit(edits.addStep(spot, step));
      chooseStep(step.id);
    },
    copyStep(step: Step) {
      const copy = newId(step.kind);
      edit(edits.copyStep(step.id, copy));
      chooseStep(copy);
    },
    removeStep: (stepId: string) => removed(edits.removeStep(stepId), 'Removed. Ctrl+Z brings it back.'),
    addMoment(afterId: string, at: At) {
      const moment = blankMoment(newId('moment'), at);
      edit(edits.addMoment(afterId, moment));
      // What is waited for either happens or not: two ways from the beginning.
      if (at.kind === 'event') {
        const caseId = newId('case');
        edit(
          edits.addCase(moment.id, caseId, { field: 'happened.it', test: 'is', value: 'yes', to: '', exact: false }),
        );
        edit(edits.changeCase(moment.id, caseId, { name: 'It happened' }));
      }
      chooseMoment(moment.id);
    },
    removeMoment: (momentId: string) =>
      removed(edits.removeMoment(momentId), 'The moment and its steps are removed. Ctrl+Z brings them back.'),
    addCase(momentId: string) {
      const caseId = newId('case');
      edit(edits.addCase(momentId, caseId, { all: [] }));
      showCases({ [momentId]: caseId });
      chooseMoment(momentId);
    },
    removeCase(momentId: string, caseId: string) {
      edit(edits.removeCase(momentId, caseId));
      tell('The case and its steps are removed. Ctrl+Z brings them back.', true);
    },
  };
}
