import { lazy, Suspense } from 'react';
import type { SheetView } from '../../app/workflows/run-sheet.ts';
import type { SentToMe } from '../../app/workflows/send-to-me.ts';
import { type Definition, type Step, stepsAt } from '../../core/workflow/definition.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import * as edits from './edits.ts';
import { StepInspector } from './StepInspector.tsx';
import type { Building } from './use-building.ts';
import type { useChosen } from './use-chosen.ts';
import type { Draft } from './use-draft.ts';

// What is opened later is loaded then.
const MomentInspector = lazy(() => import('./MomentInspector.tsx').then((made) => ({ default: made.MomentInspector })));
const ReadToMe = lazy(() => import('./ReadToMe.tsx').then((made) => ({ default: made.ReadToMe })));

interface Props {
  draft: Definition;
  catalogue: SheetView['catalogue'];
  labels: ReadonlyMap<string, string>;
  chosen: ReturnType<typeof useChosen>;
  edit: Draft['edit'];
  building: Building;
  sampleName: string;
  plans: ReadonlyMap<string, Plan>;
  planOf: (step: Step) => Plan | null;
  sendToMe: (stepId: string) => Promise<SentToMe>;
  /** Something was made where it is chosen: a tag, a list. */
  onMade: () => Promise<void>;
}

/** What is chosen on the sheet, with its fields: a step, a moment, or the whole sheet read aloud. */
export function ChosenPane({
  draft,
  catalogue,
  labels,
  chosen,
  edit,
  building,
  sampleName,
  plans,
  planOf,
  sendToMe,
  onMade,
}: Props) {
  const momentAt = draft.moments.findIndex((moment) => moment.id === chosen.moment);
  const moment = draft.moments[momentAt];
  const found = chosen.step ? edits.findStep(draft, chosen.step) : null;
  if (chosen.reading)
    return (
      <Suspense>
        <ReadToMe draft={draft} catalogue={catalogue} labels={labels} onClose={() => chosen.setReading(false)} />
      </Suspense>
    );
  if (moment)
    return (
      <Suspense>
        <MomentInspector
          key={moment.id}
          moment={moment}
          first={momentAt === 0}
          canUp={momentAt > 1}
          canDown={momentAt > 0 && momentAt < draft.moments.length - 1}
          catalogue={catalogue}
          definition={draft}
          onAt={(at) => edit(edits.changeAt(moment.id, at), `at:${moment.id}`)}
          onOnlyIf={(onlyIf) => edit(edits.changeOnlyIf(moment.id, onlyIf), `only:${moment.id}`)}
          onAddCase={() => building.addCase(moment.id)}
          onCase={(caseId, patch) => edit(edits.changeCase(moment.id, caseId, patch), `case:${caseId}`)}
          onRemoveCase={(caseId) => building.removeCase(moment.id, caseId)}
          onMove={(by) => edit(edits.moveMoment(moment.id, by))}
          onRemove={() => building.removeMoment(moment.id)}
        />
      </Suspense>
    );
  if (!found)
    return <p className="p-4 text-ink-2">Choose a step or a moment to see its fields, or add one with a plus.</p>;
  const { step, index } = found;
  const spot = { momentId: found.moment.id, caseId: found.caseId, place: found.place };
  return (
    <StepInspector
      key={step.id}
      step={step}
      place={found.place}
      first={index === 0}
      last={index === stepsAt(found.moment, found.caseId, found.place).length - 1}
      catalogue={catalogue}
      sampleName={sampleName}
      plan={plans.get(step.id) ?? null}
      planOf={planOf}
      onSettings={(patch) =>
        edit(edits.changeSettings(step.id, patch), `settings:${step.id}:${Object.keys(patch).join()}`)
      }
      onChange={(patch) => edit(edits.changeStep(step.id, patch), patch.note === undefined ? '' : `note:${step.id}`)}
      onTrial={(patch) => edit(edits.changeTrial(step.id, patch), `trial:${step.id}:${Object.keys(patch).join()}`)}
      onEndTrial={(version) => edit(edits.endTrial(step.id, version))}
      onCopy={() => building.copyStep(step)}
      onRemove={() => building.removeStep(step.id)}
      onMove={(by) => edit(edits.moveStep(step.id, spot, index + by))}
      onSendToMe={() => sendToMe(step.id)}
      onMade={onMade}
    />
  );
}
