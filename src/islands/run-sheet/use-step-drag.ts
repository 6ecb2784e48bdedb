import { type DragEndEvent, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { sortableKeyboardCoordinates } from '@dnd-kit/sortable';
import type { Definition, Place } from '../../core/workflow/definition.ts';
import { stepKinds } from '../../steps/registry.ts';
import { findStep, moveStep, type Spot } from './edits.ts';

/** Steps dragged by mouse, or by Space and the arrows, from lane to lane and moment to moment. */
export function useStepDrag(
  draft: Definition,
  edit: (change: (before: Definition) => Definition) => void,
  refused: (words: string) => void,
) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, {
      coordinateGetter: sortableKeyboardCoordinates,
      keyboardCodes: { start: ['Space'], cancel: ['Escape'], end: ['Space', 'Enter'] },
    }),
  );
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const kind = stepKinds.get(String(active.data.current?.kind ?? ''));
    const { spot, index } = whereTo(draft, String(over.id));
    if (kind && !kind.places.includes(spot.place)) return refused(`"${kind.label}" cannot stand there.`);
    edit(moveStep(String(active.id), spot, index));
  };
  return { sensors, onDragEnd };
}

/** Onto a step: to its place, which moves down. Onto a lane, "moment:case:lane": to its end. */
function whereTo(draft: Definition, over: string): { spot: Spot; index: number } {
  const onto = findStep(draft, over);
  if (onto) return { spot: { momentId: onto.moment.id, caseId: onto.caseId, place: onto.place }, index: onto.index };
  const [momentId, caseId, lane] = over.split(':');
  return {
    spot: { momentId: momentId!, caseId: caseId || null, place: lane as Place },
    index: Number.MAX_SAFE_INTEGER,
  };
}
