import { useDroppable } from '@dnd-kit/core';
import { rectSortingStrategy, SortableContext, verticalListSortingStrategy } from '@dnd-kit/sortable';
import BookMarked from 'lucide-react/icons/book-marked';
import Headset from 'lucide-react/icons/headset';
import Plus from 'lucide-react/icons/plus';
import UserRound from 'lucide-react/icons/user-round';
import type { ReactNode } from 'react';
import { Hint } from '../../components/Hint.tsx';
import { KindIcon } from '../../components/icons.tsx';
import { Popover } from '../../components/Popover.tsx';
import { LANE_LABELS, type Lane, type Place, type Step } from '../../core/workflow/definition.ts';
import { stepKinds } from '../../steps/registry.ts';

const LOOK: Record<Lane, { icon: typeof UserRound; colour: string }> = {
  lead: { icon: UserRound, colour: 'text-accent' },
  record: { icon: BookMarked, colour: 'text-primary' },
  team: { icon: Headset, colour: 'text-mulberry' },
};

interface Props {
  /** Where a step dropped here goes: "moment:case:" before the place. */
  spot: string;
  /** With what its name means beside it. */
  explained?: boolean;
  place: Place;
  steps: Step[];
  card: (step: Step) => ReactNode;
  onAdd: (kind: string) => void;
}

/** A lane of a moment, or its First strip, with a place to add a step. */
export function LaneColumn({ spot, place, steps, card, onAdd, explained = false }: Props) {
  const { setNodeRef, isOver } = useDroppable({ id: `${spot}${place}` });
  const kinds = [...stepKinds.values()].filter((kind) => kind.places.includes(place));
  const list = (
    <SortableContext
      items={steps.map((step) => step.id)}
      strategy={place === 'first' ? rectSortingStrategy : verticalListSortingStrategy}
    >
      {steps.map(card)}
    </SortableContext>
  );
  if (place === 'first')
    return (
      <div
        ref={setNodeRef}
        className={`mb-2 flex flex-wrap items-center gap-1.5 rounded-lg ${isOver ? 'bg-brass-soft' : ''}`}
      >
        <span className="flex items-center text-xs text-ink-2">
          First
          {explained && <Hint term="first" />}
        </span>
        {list}
        <AddStep kinds={kinds} onAdd={onAdd} label="Add a step to First" round />
      </div>
    );
  const { icon: Icon, colour } = LOOK[place];
  return (
    <section
      ref={setNodeRef}
      className={`min-w-0 rounded-lg ${isOver ? 'bg-brass-soft' : ''}`}
      aria-label={LANE_LABELS[place]}
      data-lane={place}
    >
      <h3 className={`mb-1.5 flex items-center gap-1.5 font-sans text-xs font-semibold tracking-normal ${colour}`}>
        <Icon className="size-4" aria-hidden="true" />
        {LANE_LABELS[place]}
      </h3>
      <div className="flex flex-col gap-1.5">
        {list}
        <AddStep kinds={kinds} onAdd={onAdd} label={`Add a step: ${LANE_LABELS[place]}`} />
      </div>
    </section>
  );
}

function AddStep({
  kinds,
  onAdd,
  label,
  round = false,
}: {
  kinds: { kind: string; label: string; icon: string }[];
  onAdd: (kind: string) => void;
  label: string;
  round?: boolean;
}) {
  return (
    <Popover
      label={label}
      button={<Plus className="size-4" aria-hidden="true" />}
      buttonClass={`flex min-h-7 items-center justify-center border border-dashed border-field-line text-ink-3 hover:border-brass-line hover:bg-brass-soft ${round ? 'rounded-full px-2.5' : 'w-full rounded-box'}`}
      panelClass="w-52 p-1"
      placement="bottom-start"
    >
      {(close) =>
        kinds.map((kind) => (
          <button
            key={kind.kind}
            type="button"
            className="flex w-full items-center gap-2 rounded px-2 py-1.5 text-left hover:bg-base-200"
            onClick={() => {
              close();
              onAdd(kind.kind);
            }}
          >
            <KindIcon name={kind.icon} />
            {kind.label}
          </button>
        ))
      }
    </Popover>
  );
}
