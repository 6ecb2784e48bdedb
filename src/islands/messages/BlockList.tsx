import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable';
import { type Block, copyBlock } from '../../core/email/layout.ts';
import type { LayoutProblem } from '../../core/email/layout-problems.ts';
import { BlockCard } from './BlockCard.tsx';

/** The blocks of an email below each other: filled in, moved by mouse or keyboard, copied and taken out. */
export function BlockList({
  blocks,
  problems,
  newId,
  onChange,
}: {
  blocks: Block[];
  problems: readonly LayoutProblem[];
  newId: () => string;
  onChange: (blocks: Block[]) => void;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  return (
    <DndContext
      id="template"
      sensors={sensors}
      collisionDetection={closestCenter}
      onDragEnd={({ active, over }) => {
        const from = blocks.findIndex((block) => block.id === active.id);
        const to = blocks.findIndex((block) => block.id === over?.id);
        if (from >= 0 && to >= 0 && from !== to) onChange(arrayMove(blocks, from, to));
      }}
    >
      <SortableContext items={blocks.map((block) => block.id)} strategy={verticalListSortingStrategy}>
        {blocks.map((block, i) => (
          <BlockCard
            key={block.id}
            block={block}
            problems={problems.filter((problem) => problem.blockId === block.id).map((problem) => problem.text)}
            first={i === 0}
            last={i === blocks.length - 1}
            onChange={(next) => onChange(blocks.map((one) => (one.id === block.id ? next : one)))}
            onMove={(by) => onChange(arrayMove(blocks, i, i + by))}
            onCopy={() => onChange(blocks.toSpliced(i + 1, 0, copyBlock(block, newId)))}
            onRemove={() => onChange(blocks.filter((one) => one.id !== block.id))}
          />
        ))}
      </SortableContext>
      {blocks.length === 0 && <p className="text-ink-2">Nothing in it yet. Add a block from the left.</p>}
    </DndContext>
  );
}
