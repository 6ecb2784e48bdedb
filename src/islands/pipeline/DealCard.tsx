import { useDraggable } from '@dnd-kit/core';
import { CSS } from '@dnd-kit/utilities';
import ArrowRightLeft from 'lucide-react/icons/arrow-right-left';
import CornerDownRight from 'lucide-react/icons/corner-down-right';
import Pencil from 'lucide-react/icons/pencil';
import { useState } from 'react';
import type { BoardDeal, BoardStage } from '../../app/deals/deals.ts';
import { within } from '../../client/within.ts';
import { Tool } from '../../components/Tool.tsx';
import { initials } from '../../core/words/initials.ts';
import { moneyWords } from '../../core/words/money.ts';
import { ageWords, type DealPatch } from './deal-words.ts';

interface Props {
  deal: BoardDeal;
  currency: string;
  locale: string;
  now: number;
  stages: readonly BoardStage[];
  onChange: (patch: DealPatch) => void;
}

/** Whoever asked to write writes at once. */
const toKeyboard = (input: HTMLInputElement | null) => input?.focus();

/** A deal on the board: what it is, its money, its age, what comes next and whose it is. Its tools come up when it is looked at. */
export function DealCard({ deal, currency, locale, now, stages, onChange }: Props) {
  const { attributes, listeners, setNodeRef, transform, isDragging } = useDraggable({ id: deal.id });
  const [writing, setWriting] = useState(false);
  const age = `Here ${ageWords(deal.movedAt, now)}`;
  const keep = (typed: string) => {
    setWriting(false);
    if (typed !== deal.nextStep) onChange({ nextStep: typed });
  };
  return (
    <article
      ref={setNodeRef}
      className={`sheet-card relative mb-2 p-2.5 ${isDragging ? 'z-10 opacity-80 shadow-lg' : ''}`}
      style={{ transform: CSS.Translate.toString(transform) }}
      aria-label={deal.title}
    >
      <div className="cursor-grab" {...attributes} {...listeners}>
        <h3 className="flex justify-between gap-2 font-sans text-sm font-semibold tracking-normal">
          <span className="min-w-0 break-words">{deal.title}</span>
          <span className="shrink-0">{moneyWords(deal.value, currency, locale)}</span>
        </h3>
        <p className="flex items-center justify-between gap-2 text-note text-ink-2">
          <span className="min-w-0 truncate" title={deal.movedBy ? `${age}, moved by ${deal.movedBy}` : age}>
            {age}
          </span>
          {deal.owner && (
            <span
              className="grid size-6 shrink-0 place-items-center rounded-full bg-pine-soft text-[0.65rem] font-semibold text-primary"
              role="img"
              aria-label={`With ${deal.owner}`}
              title={`With ${deal.owner}`}
            >
              {initials(deal.owner)}
            </span>
          )}
        </p>
      </div>
      {writing ? (
        <input
          ref={toKeyboard}
          className="input input-xs mt-1"
          aria-label={`Next step of ${deal.title}`}
          placeholder="Next step"
          defaultValue={deal.nextStep}
          maxLength={300}
          onBlur={(event) => keep(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === 'Enter') keep(event.currentTarget.value);
            if (event.key === 'Escape') setWriting(false);
          }}
        />
      ) : (
        deal.nextStep && (
          <p className="mt-1 flex items-start gap-1 text-note">
            <CornerDownRight className="mt-0.5 size-3.5 shrink-0 text-ink-3" aria-hidden="true" />
            <span className="min-w-0 break-words">{deal.nextStep}</span>
          </p>
        )
      )}
      <div className="card-tools">
        <a className="px-1.5 text-xs font-semibold hover:underline" href={within(`/leads/${deal.leadId}`)}>
          Lead
        </a>
        <Tool label={`Say what comes next for ${deal.title}`} onClick={() => setWriting(true)}>
          <Pencil className="size-3.5" />
        </Tool>
        <span className="relative grid size-7 place-items-center rounded focus-within:outline-2 focus-within:outline-primary">
          <ArrowRightLeft className="size-3.5" aria-hidden="true" />
          <select
            className="absolute inset-0 cursor-pointer opacity-0"
            aria-label={`Move ${deal.title} to`}
            title="Move it to another stage"
            value=""
            onChange={(event) => onChange({ stageId: event.target.value })}
          >
            <option value="">Move it to</option>
            {stages
              .filter((stage) => stage.id !== deal.stageId)
              .map((stage) => (
                <option key={stage.id} value={stage.id}>
                  {stage.name}
                </option>
              ))}
          </select>
        </span>
      </div>
    </article>
  );
}
