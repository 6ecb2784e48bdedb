import {
  closestCorners,
  DndContext,
  type DragEndEvent,
  type KeyboardCoordinateGetter,
  KeyboardSensor,
  PointerSensor,
  useDroppable,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { useState } from 'react';
import type { BoardDeal, BoardStage, Board as BoardView } from '../../app/deals/deals.ts';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { useQuery } from '../../client/use-query.ts';
import { within } from '../../client/within.ts';
import NameAndFolder from '../../components/NameAndFolder.tsx';
import RemoveButton from '../../components/RemoveButton.tsx';
import type { Place } from '../../core/words/instant.ts';
import { moneyWords } from '../../core/words/money.ts';
import { CurrencyChoice } from './CurrencyChoice.tsx';
import { DealCard } from './DealCard.tsx';
import { Table } from './DealTable.tsx';
import type { DealPatch } from './deal-words.ts';
import { NewDeal } from './NewDeal.tsx';

/** With the keyboard a deal goes from stage to stage, not pixel by pixel. */
const byStage: KeyboardCoordinateGetter = (event, { context: { droppableRects, collisionRect } }) => {
  const step = event.code === 'ArrowRight' ? 1 : event.code === 'ArrowLeft' ? -1 : 0;
  if (step === 0 || !collisionRect) return undefined;
  event.preventDefault();
  const stages = [...droppableRects.values()].sort((a, b) => a.left - b.left);
  const middle = collisionRect.left + collisionRect.width / 2;
  const to = stages[stages.findIndex((stage) => middle >= stage.left && middle <= stage.right) + step];
  return to && { x: to.left + (to.width - collisionRect.width) / 2, y: to.top + 40 };
};

/** How far each deal has come: dragged from stage to stage by mouse or keyboard, or chosen from a list in the table. */
export default function Board({
  first,
  place,
  now: at,
  changes,
}: {
  first: BoardView;
  place: Place;
  now: number;
  /** Whether the pipeline itself may be changed. */
  changes: boolean;
}) {
  const {
    value: board,
    at: now,
    again,
    put,
  } = useQuery(['pipeline', first.id], () => call('GET', `/api/pipelines/${first.id}`), { first, at });
  const [table, setTable] = useState(false);
  const { act, told } = useAction({ inTurn: true });
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: byStage }),
  );
  const change = async (deal: BoardDeal, patch: DealPatch) => {
    // Where it is dropped it lies at once; if that was refused it goes back with the next answer.
    put({
      ...board,
      deals: board.deals.map((boardDeal) => (boardDeal.id === deal.id ? { ...boardDeal, ...patch } : boardDeal)),
    });
    await act(() => call('PUT', `/api/deals/${deal.id}`, patch));
    await again();
  };
  const dropped = ({ active, over }: DragEndEvent) => {
    const deal = board.deals.find((deal) => deal.id === active.id);
    if (deal && over && deal.stageId !== over.id) void change(deal, { stageId: String(over.id) });
  };
  return (
    <div className="flex h-full min-h-0 flex-col">
      <div className="flex flex-wrap items-center gap-3 border-b border-base-300 bg-base-100 px-4 py-2">
        <h1 className="text-xl">{board.name}</h1>
        <span className="text-note text-ink-2">
          {board.deals.filter((deal) => !board.stages.find((stage) => stage.id === deal.stageId)?.ends).length} open
        </span>
        <span className="grow" />
        <button
          type="button"
          className="btn btn-plain btn-sm"
          aria-pressed={table}
          onClick={() => setTable((before) => !before)}
        >
          {table ? 'As a board' : 'As a table'}
        </button>
        {changes && (
          <>
            <a className="btn btn-ghost btn-sm" href={within('/pipeline?all')}>
              All pipelines
            </a>
            <NameAndFolder kind="pipeline" id={board.id} name={board.name} folder={board.folder} folders={[]} />
            <RemoveButton
              what="pipeline"
              name={board.name}
              size="sm"
              stays="Its deals go with it. For 30 days it can be put back with them, under Settings, Removed."
              path={`/api/pipelines/${board.id}`}
              to="/pipeline"
            />
          </>
        )}
        <CurrencyChoice pipelineId={board.id} currency={board.currency} changed={() => void again()} />
        <NewDeal pipelineId={board.id} opened={() => void again()} />
      </div>
      <Notice told={told} className="mx-4 mt-2" />
      {table ? (
        <Table board={board} place={place} now={now} onChange={change} />
      ) : (
        <DndContext id="board" sensors={sensors} collisionDetection={closestCorners} onDragEnd={dropped}>
          <div className="grid min-h-0 grow auto-cols-[minmax(220px,1fr)] grid-flow-col gap-3 overflow-x-auto p-4">
            {board.stages.map((stage) => (
              <Stage
                key={stage.id}
                stage={stage}
                deals={board.deals.filter((deal) => deal.stageId === stage.id)}
                locale={place.locale}
                currency={board.currency}
                now={now}
                stages={board.stages}
                onChange={change}
              />
            ))}
          </div>
        </DndContext>
      )}
      {board.closedBefore > 0 && (
        <p className="px-4 py-1 text-xs text-ink-2">{board.closedBefore} closed more than 30 days ago are not shown.</p>
      )}
    </div>
  );
}

function Stage({
  stage,
  deals,
  locale,
  currency,
  now,
  stages,
  onChange,
}: {
  stage: BoardStage;
  deals: BoardDeal[];
  locale: string;
  currency: string;
  now: number;
  stages: BoardStage[];
  onChange: (deal: BoardDeal, patch: DealPatch) => Promise<void>;
}) {
  const { setNodeRef, isOver } = useDroppable({ id: stage.id });
  const sum = deals.reduce((total, boardDeal) => total + Number(boardDeal.value ?? 0), 0);
  return (
    <section
      ref={setNodeRef}
      aria-label={stage.name}
      data-stage={stage.id}
      className={`flex min-h-0 flex-col rounded-box border p-2 ${isOver ? 'border-primary bg-pine-soft' : 'border-base-300 bg-base-200'}`}
    >
      <h2 className="mb-1 flex items-baseline justify-between gap-2 px-1 font-sans text-note font-semibold">
        {stage.name}
        <span className="font-normal text-ink-2">
          {deals.length === 1 ? '1 deal' : `${deals.length} deals`}
          {sum > 0 && `, ${moneyWords(sum, currency, locale)}`}
        </span>
      </h2>
      <div className="min-h-16 grow overflow-y-auto">
        {deals.map((deal) => (
          <DealCard
            key={deal.id}
            deal={deal}
            locale={locale}
            currency={currency}
            now={now}
            stages={stages}
            onChange={(patch) => void onChange(deal, patch)}
          />
        ))}
      </div>
    </section>
  );
}
