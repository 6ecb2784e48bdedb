import { closestCorners, DndContext } from '@dnd-kit/core';
import { Fragment, type ReactNode } from 'react';
import type { SheetView } from '../../app/workflows/run-sheet.ts';
import type { Place } from '../../core/words/instant.ts';
import { atWords } from '../../core/workflow/at-words.ts';
import type { Definition, Step, Place as StepPlace } from '../../core/workflow/definition.ts';
import { AddMoment } from './AddMoment.tsx';
import { MomentSection } from './MomentSection.tsx';
import { StepCard } from './StepCard.tsx';
import type { useBuilding } from './use-building.ts';
import type { useChosen } from './use-chosen.ts';
import type { useDoings } from './use-doings.ts';
import type { useKnowledge } from './use-knowledge.ts';
import type { useStepDrag } from './use-step-drag.ts';

/** The moments of a run sheet down the rope, each with its steps; between them, where another can begin. */
export function MomentList({
  draft,
  sheet,
  place,
  knowledge: { labels, names, named },
  findings,
  rehearsal,
  chosen,
  building,
  drag,
  aside,
}: {
  draft: Definition;
  sheet: SheetView;
  place: Place;
  knowledge: ReturnType<typeof useKnowledge>;
  findings: SheetView['findings'];
  rehearsal: ReturnType<typeof useDoings>['rehearsal'];
  chosen: ReturnType<typeof useChosen>;
  building: ReturnType<typeof useBuilding>;
  drag: ReturnType<typeof useStepDrag>;
  /** Stands at the head of the first moment. */
  aside: ReactNode;
}) {
  return (
    <DndContext id="run-sheet" collisionDetection={closestCorners} {...drag}>
      {draft.moments.map((moment, index) => {
        const shown = rehearsal?.moments.find((other) => other.momentId === moment.id) ?? null;
        const card = (lane: StepPlace) => (step: Step) => {
          const rehearsed = shown?.steps.find((other) => other.stepId === step.id);
          return (
            <StepCard
              key={step.id}
              step={step}
              place={lane}
              selected={step.id === chosen.step}
              catalogue={sheet.catalogue}
              labels={labels}
              locale={place.locale}
              findings={findings.filter((finding) => finding.place.stepId === step.id)}
              rehearsed={rehearsed && shown ? { ...rehearsed, zone: shown.zone } : null}
              onSelect={() => chosen.chooseStep(step.id)}
            />
          );
        };
        return (
          <Fragment key={moment.id}>
            <MomentSection
              moment={moment}
              first={index === 0}
              selected={chosen.moment === moment.id}
              caseId={chosen.caseOf(moment.id)}
              title={atWords(moment.at, named)}
              names={names}
              locale={place.locale}
              findings={findings.filter(({ place: where }) => 'momentId' in where && where.momentId === moment.id)}
              rehearsed={shown}
              aside={index === 0 && aside}
              card={card}
              onSelect={() => chosen.chooseMoment(moment.id)}
              onCase={(caseId) => chosen.showCases({ [moment.id]: caseId })}
              onAdd={(lane, kind) =>
                building.addStep(
                  { momentId: moment.id, caseId: lane === 'first' ? null : chosen.caseOf(moment.id), place: lane },
                  kind,
                )
              }
              onAddCase={() => building.addCase(moment.id)}
            />
            <AddMoment onAdd={(at) => building.addMoment(moment.id, at)} />
          </Fragment>
        );
      })}
    </DndContext>
  );
}
