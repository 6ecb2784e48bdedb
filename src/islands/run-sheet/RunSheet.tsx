import Megaphone from 'lucide-react/icons/megaphone';
import { lazy, Suspense, useCallback, useMemo, useRef, useState } from 'react';
import type { SheetView } from '../../app/workflows/run-sheet.ts';
import { call, messageOf } from '../../client/call.ts';
import { useLive } from '../../client/use-live.ts';
import { FieldPickerContext } from '../../components/field-picker.ts';
import { durationWords } from '../../core/words/duration.ts';
import type { Place } from '../../core/words/instant.ts';
import { ChosenPane } from './ChosenPane.tsx';
import * as edits from './edits.ts';
import { MomentList } from './MomentList.tsx';
import { SamePersonChoice } from './SamePersonChoice.tsx';
import { SampleLead } from './SampleLead.tsx';
import { SheetBar } from './SheetBar.tsx';
import { SourceRow } from './SourceRow.tsx';
import { useBuilding } from './use-building.ts';
import { useChosen } from './use-chosen.ts';
import { useDoings } from './use-doings.ts';
import { useDraft } from './use-draft.ts';
import { useKnowledge } from './use-knowledge.ts';
import { useSheetKeys } from './use-sheet-keys.ts';
import { useStepDrag } from './use-step-drag.ts';

// What is opened later is loaded then.
const LastLeads = lazy(() => import('./LastLeads.tsx').then((made) => ({ default: made.LastLeads })));
const ToldBar = lazy(() => import('./ToldBar.tsx').then((made) => ({ default: made.ToldBar })));
const PutLive = lazy(() => import('./PutLive.tsx').then((made) => ({ default: made.PutLive })));

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
  const { labels, fields, lists, plans, sampleName } = knowledge;
  const picker = useMemo(
    () => ({
      fields,
      labels,
      lists,
      setTarget: (target: (text: string) => void) => {
        insert.current = target;
      },
    }),
    [fields, labels, lists],
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
  const { told, tell, forget, rehearsal, setRehearsal, last, setLast } = doings;
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

  const drag = useStepDrag(draft, edit, (text) => tell(text, false));
  const { workflow } = sheet;
  const dirty = revision !== workflow.liveRevision || saveState !== 'saved';
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
    <FieldPickerContext.Provider value={picker}>
      <div className="flex h-full min-h-0 flex-col">
        <SheetBar
          workflow={workflow}
          dirty={dirty}
          saveState={saveState}
          findings={findings}
          canUndo={canUndo}
          canRedo={canRedo}
          onUndo={undo}
          onRedo={redo}
          onGo={chosenNow.go}
          onRehearse={() => void doings.rehearse(rehearsal?.happens ?? false)}
          onRead={() => chosenNow.setReading(true)}
          onLast={() => void doings.rehearseLast()}
          onPause={(paused) => void doings.pause(paused)}
          onPutLive={() => setGoingLive(true)}
        />
        {goingLive && (
          <Suspense>
            <PutLive
              workflowId={id}
              version={workflow.nextVersion}
              beforeAsking={flush}
              onGo={(moveOn) => {
                setGoingLive(false);
                void doings.putLive(moveOn);
              }}
              onClose={() => setGoingLive(false)}
            />
          </Suspense>
        )}
        {(told || problem) && (
          <Suspense>
            <ToldBar
              text={problem || told?.text || ''}
              good={Boolean(told?.good) && !problem}
              happens={
                rehearsal && !problem && draft.moments.some((moment) => moment.at.kind === 'event')
                  ? rehearsal.happens
                  : null
              }
              onOther={() => void doings.rehearse(!rehearsal?.happens)}
              onClose={() => {
                forget();
                setRehearsal(null);
              }}
            />
          </Suspense>
        )}
        <div className="grid min-h-0 grow grid-cols-[208px_minmax(0,1fr)_344px]">
          <SampleLead
            sample={sheet.sample}
            choices={sheet.choices}
            fields={fields}
            place={place}
            now={now}
            onChoose={(one) => void choose(one)}
            onRefresh={() => void choose(null)}
            onPick={(text) => insert.current?.(text)}
            values={values}
            onValues={setValues}
          />
          <main className="relative overflow-y-auto py-3 pr-4 pl-5">
            {last && (
              <Suspense>
                <LastLeads
                  leads={last}
                  place={place}
                  now={now}
                  onChoose={(arrivalId) => {
                    setLast(null);
                    void choose(arrivalId);
                  }}
                  onClose={() => setLast(null)}
                />
              </Suspense>
            )}
            <h1 className="sr-only">Run sheet of {workflow.name}</h1>
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
                    flush().then(refresh, () => {});
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
                chosen={chosenNow}
                building={building}
                drag={drag}
                aside={firstAside}
              />
            </div>
          </main>
          <aside className="overflow-y-auto border-l border-base-300 bg-base-100" aria-label="Chosen step">
            <ChosenPane
              draft={draft}
              catalogue={sheet.catalogue}
              labels={labels}
              chosen={chosenNow}
              edit={edit}
              building={building}
              sampleName={sampleName}
              plans={plans}
              sendToMe={doings.sendToMe}
              onMade={refresh}
            />
          </aside>
        </div>
      </div>
    </FieldPickerContext.Provider>
  );
}
