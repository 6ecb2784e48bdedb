import Megaphone from 'lucide-react/icons/megaphone';
import { lazy, Suspense } from 'react';
import type { SheetView } from '../../app/workflows/run-sheet.ts';
import { durationWords } from '../../core/words/duration.ts';
import type { Place } from '../../core/words/instant.ts';
import type { Definition } from '../../core/workflow/definition.ts';
import type { Finding } from '../../core/workflow/finding.ts';
import * as edits from './edits.ts';
import { MomentList } from './MomentList.tsx';
import { SamePersonChoice } from './SamePersonChoice.tsx';
import { SourceRow } from './SourceRow.tsx';
import type { useBuilding } from './use-building.ts';
import type { useChosen } from './use-chosen.ts';
import type { Doings } from './use-doings.ts';
import type { Draft } from './use-draft.ts';
import type { useKnowledge } from './use-knowledge.ts';
import type { useStepDrag } from './use-step-drag.ts';

// What is opened later is loaded then.
const LastLeads = lazy(() => import('./LastLeads.tsx').then((made) => ({ default: made.LastLeads })));

interface Props {
  sheet: SheetView;
  draft: Definition;
  edit: Draft['edit'];
  place: Place;
  now: number;
  findings: Finding[];
  knowledge: ReturnType<typeof useKnowledge>;
  chosen: ReturnType<typeof useChosen>;
  building: ReturnType<typeof useBuilding>;
  drag: ReturnType<typeof useStepDrag>;
  doings: Doings;
  /** Takes a lead that came in for the sample; null for the newest. */
  onChoose: (arrivalId: string) => void;
  /** The sources of the sheet are others now. */
  onSources: () => void;
}

/** The sheet itself: where leads come from, and the moments below each other along the rope. */
export function SheetMain({
  sheet,
  draft,
  edit,
  place,
  now,
  findings,
  knowledge,
  chosen,
  building,
  drag,
  doings,
  onChoose,
  onSources,
}: Props) {
  const { last, setLast, rehearsal } = doings;
  const firstAside = (
    <>
      <SamePersonChoice
        value={draft.rules.samePerson}
        onChange={(samePerson) => edit(edits.changeRules({ samePerson }))}
      />
      {sheet.usualReplyMs !== null && (
        <span className="ml-auto text-xs text-ink-2">usually answered in {durationWords(sheet.usualReplyMs)}</span>
      )}
    </>
  );
  return (
    <main className="relative overflow-y-auto py-3 pr-4 pl-5 max-sm:px-3">
      {last && (
        <Suspense>
          <LastLeads
            leads={last}
            place={place}
            now={now}
            onChoose={(arrivalId) => {
              setLast(null);
              onChoose(arrivalId);
            }}
            onClose={() => setLast(null)}
          />
        </Suspense>
      )}
      <h1 className="sr-only">Run sheet of {sheet.workflow.name}</h1>
      <div className="relative min-h-full pl-12">
        <div className="rope left-[13px]" aria-hidden="true" />
        <section className="relative mb-3" aria-label="Sources">
          <span className="knob absolute -left-12 !border-slate-line !text-secondary">
            <Megaphone className="size-4" aria-hidden="true" />
          </span>
          <SourceRow
            sources={sheet.sources}
            chosen={draft.sources}
            onToggle={(source) => {
              edit(edits.toggleSource(source));
              onSources();
            }}
          />
        </section>
        <MomentList
          draft={draft}
          sheet={sheet}
          place={place}
          knowledge={knowledge}
          findings={findings}
          rehearsal={rehearsal}
          chosen={chosen}
          building={building}
          drag={drag}
          aside={firstAside}
        />
      </div>
    </main>
  );
}
