import { useCallback, useMemo, useRef, useState } from 'react';
import type { SheetView } from '../../app/workflows/run-sheet.ts';
import { call, messageOf } from '../../client/call.ts';
import { useLive } from '../../client/use-live.ts';
import { useSingleKeys } from '../../client/use-single-keys.ts';
import { FieldPickerContext } from '../../components/field-picker.ts';
import type { Place } from '../../core/words/instant.ts';
import '../../components/use-token-editor.ts';
import { ChosenPane } from './ChosenPane.tsx';
import { SampleLead } from './SampleLead.tsx';
import { SheetBar } from './SheetBar.tsx';
import { SheetMain } from './SheetMain.tsx';
import { SheetNotices } from './SheetNotices.tsx';
import { SheetPanes } from './SheetPanes.tsx';
import { useBuilding } from './use-building.ts';
import { useChosen } from './use-chosen.ts';
import { useDoings } from './use-doings.ts';
import { useDraft } from './use-draft.ts';
import { useKnowledge } from './use-knowledge.ts';
import { useOwnForm } from './use-own-form.ts';
import { usePane } from './use-pane.ts';
import { useSheetKeys } from './use-sheet-keys.ts';
import { useStepDrag } from './use-step-drag.ts';

interface Props {
  first: SheetView;
  place: Place;
  now: number;
  /** The step chosen when the page opens. */
  chosen: string | null;
}

/** The run sheet: what happens, to whom, when. */
export default function RunSheet({ first, place, now, chosen }: Props) {
  const [sheet, setSheet] = useState(first);
  const [findings, setFindings] = useState(first.findings);
  const [goingLive, setGoingLive] = useState(false);
  const [values, setValues] = useState<Record<string, string>>({});
  const id = sheet.workflow.id;
  const { draft, revision, saveState, problem, canUndo, canRedo, edit, undo, redo, flush, stored } = useDraft(
    id,
    sheet.workflow,
    setFindings,
  );
  const chosenNow = useChosen(draft, chosen);
  const insert = useRef<((text: string) => void) | null>(null);

  const refresh = useCallback(async () => {
    const fresh = await call('GET', `/api/workflows/${id}`);
    setSheet(fresh);
    setFindings(fresh.findings);
  }, [id]);
  // While there is no sample, the screen waits for one and shows it as it arrives.
  useLive(async () => {
    if (!sheet.sample) await refresh();
  });

  const knowledge = useKnowledge(sheet, draft, values, now);
  const { labels, fields, lists, plans, planOf, sampleName, surroundings } = knowledge;
  const form = useOwnForm(sheet.sources, draft.sources, refresh);
  const picker = useMemo(
    () => ({
      fields,
      labels,
      lists,
      surroundings,
      ...(form ? { ask: form } : {}),
      setTarget: (target: (text: string) => void) => {
        insert.current = target;
      },
    }),
    [fields, labels, lists, surroundings, form],
  );

  const doings = useDoings({
    workflowId: id,
    arrivalId: sheet.sample?.arrivalId ?? null,
    values,
    flush,
    revision: stored,
    refresh,
    // The case this lead would come to is the one in sight.
    onRehearsed: (shown) =>
      chosenNow.showCases(
        Object.fromEntries(
          shown.moments.filter((moment) => moment.leftOut === null).map((moment) => [moment.momentId, moment.caseId]),
        ),
      ),
  });
  const { tell, forget, rehearsal, setRehearsal } = doings;
  const choose = async (arrivalId: string | null) => {
    setValues({});
    await call('PUT', `/api/workflows/${id}/sample`, { arrivalId }).catch((error) => tell(messageOf(error), false));
    await refresh().catch(() => {});
  };

  const building = useBuilding(edit, chosenNow, tell);

  useSheetKeys({
    undo,
    redo,
    remove: () => chosenNow.step && building.removeStep(chosenNow.step),
    leave: () => {
      setRehearsal(null);
      forget();
    },
  });

  useSingleKeys({ r: () => void doings.rehearse(rehearsal?.happens ?? false) });
  const [pane, setPane] = usePane(chosenNow.times, chosen !== null);
  const drag = useStepDrag(draft, edit, (text) => tell(text, false));
  const { workflow } = sheet;
  const dirty = revision !== workflow.liveRevision || saveState !== 'saved';
  return (
    <FieldPickerContext.Provider value={picker}>
      <div className="flex h-full min-h-0 flex-col">
        <SheetBar
          {...{ workflow, dirty, saveState, findings, canUndo, canRedo }}
          onUndo={undo}
          onRedo={redo}
          onGo={chosenNow.go}
          onRehearse={() => void doings.rehearse(rehearsal?.happens ?? false)}
          onRead={() => chosenNow.setReading(true)}
          onLast={() => void doings.rehearseLast()}
          onPause={(paused) => void doings.pause(paused)}
          onPutLive={() => setGoingLive(true)}
        />
        <SheetNotices
          workflow={{ id, nextVersion: workflow.nextVersion }}
          {...{ draft, doings, problem, goingLive, flush }}
          onGoingLive={setGoingLive}
        />
        <SheetPanes pane={pane} onPane={setPane} />
        <div
          className="grid min-h-0 grow lg:grid-cols-[208px_minmax(0,1fr)_344px] [&:not([data-pane=sample])>[aria-label='Sample_lead']]:max-lg:hidden [&:not([data-pane=sheet])>main]:max-lg:hidden [&:not([data-pane=step])>[aria-label='Chosen_step']]:max-lg:hidden"
          data-pane={pane}
        >
          <SampleLead
            {...{ sample: sheet.sample, choices: sheet.choices, fields, values, place, now }}
            onChoose={(one) => void choose(one)}
            onRefresh={() => void choose(null)}
            onPick={(text) => insert.current?.(text)}
            onValues={setValues}
          />
          <SheetMain
            {...{ sheet, draft, edit, place, now, findings, knowledge, building, drag, doings }}
            chosen={chosenNow}
            onChoose={(arrivalId) => void choose(arrivalId)}
            onSources={() => void flush().then(refresh, () => {})}
          />
          <aside className="overflow-y-auto border-l border-base-300 bg-base-100" aria-label="Chosen step">
            <ChosenPane
              {...{ draft, labels, edit, building, sampleName, plans, planOf }}
              catalogue={sheet.catalogue}
              chosen={chosenNow}
              sendToMe={doings.sendToMe}
              onMade={refresh}
            />
          </aside>
        </div>
      </div>
    </FieldPickerContext.Provider>
  );
}
