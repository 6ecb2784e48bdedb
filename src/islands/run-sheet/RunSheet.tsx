import {
  closestCorners,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from '@dnd-kit/core';
import { sortableKeyboardCoordinates } from '@dnd-kit/sortable';
import Bell from 'lucide-react/icons/bell';
import Megaphone from 'lucide-react/icons/megaphone';
import UsersRound from 'lucide-react/icons/users-round';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { SentToMe } from '../../app/rehearse.ts';
import type { SheetView } from '../../app/sheet.ts';
import { FieldPickerContext, type PickableField } from '../../components/field-picker.ts';
import { type FieldReference, referenceLabel } from '../../core/template/field-reference.ts';
import { durationWords } from '../../core/words/duration.ts';
import type { Place } from '../../core/words/instant.ts';
import { LANES, type Step, type Place as StepPlace, stepsAt } from '../../core/workflow/definition.ts';
import type { Finding } from '../../core/workflow/finding.ts';
import type { Plan } from '../../core/workflow/plan.ts';
import { templateScope } from '../../core/workflow/run-context.ts';
import { type Rehearsed, rehearseSheet } from '../../steps/plan-step.ts';
import { stepKinds } from '../../steps/registry.ts';
import { call, messageOf } from '../call.ts';
import { useLive } from '../use-live.ts';
import {
  addStep,
  changeSettings,
  changeStep,
  copyStep,
  findStep,
  moveStep,
  removeStep,
  setSamePerson,
  toggleSource,
} from './edits.ts';
import { LaneColumn } from './LaneColumn.tsx';
import { SampleLead } from './SampleLead.tsx';
import { SheetBar } from './SheetBar.tsx';
import { SourceRow } from './SourceRow.tsx';
import { StepCard } from './StepCard.tsx';
import { StepInspector } from './StepInspector.tsx';
import { useDraft } from './use-draft.ts';

interface Props {
  first: SheetView;
  place: Place;
  now: number;
  /** The step chosen when the page opens. */
  chosen: string | null;
}

const newId = (kind: string) => `${kind}-${crypto.randomUUID().slice(0, 8)}`;

/** The run sheet: what happens, to whom, when. */
export default function RunSheet({ first, place, now, chosen }: Props) {
  const [sheet, setSheet] = useState(first);
  const [findings, setFindings] = useState(first.findings);
  const [selected, setSelected] = useState<string | null>(
    chosen ?? first.workflow.draft.moments[0]?.lanes.lead[0]?.id ?? null,
  );
  const [rehearsal, setRehearsal] = useState<{ name: string; steps: Rehearsed[] } | null>(null);
  const [told, setTold] = useState<{ text: string; good: boolean } | null>(null);
  const id = sheet.workflow.id;
  const { draft, revision, saveState, problem, canUndo, canRedo, edit, undo, redo, flush } = useDraft(
    id,
    sheet.workflow,
    setFindings,
  );
  const insert = useRef<((text: string) => void) | null>(null);

  const refresh = useCallback(async () => {
    const fresh = await call<SheetView>('GET', `/api/workflows/${id}`);
    setSheet(fresh);
    setFindings(fresh.findings);
  }, [id]);
  // While there is no sample, the screen waits for one and shows it as it arrives.
  useLive(() => {
    if (!sheet.sample) void refresh().catch(() => {});
  });

  const labels = useMemo(() => new Map(Object.entries(sheet.sample?.labels ?? {})), [sheet.sample]);
  const fields = useMemo<PickableField[]>(() => {
    if (!sheet.sample) return [];
    const scope = templateScope(sheet.sample.context);
    return (['lead', 'answers', 'where', 'business', 'source'] as FieldReference['group'][]).flatMap((group) =>
      Object.entries(scope[group]).map(([key, value]) => ({
        group,
        key,
        value: value ?? '',
        label: referenceLabel({ group, key }, labels),
      })),
    );
  }, [sheet.sample, labels]);
  const plans = useMemo(
    () =>
      new Map(
        sheet.sample ? rehearseSheet(draft, sheet.sample.context, sheet.desk).map((one) => [one.stepId, one.plan]) : [],
      ),
    [draft, sheet.sample, sheet.desk],
  );
  const sampleName = tidied(plans, sheet.sample?.context.person.first_name ?? '') || 'the lead';
  const picker = useMemo(
    () => ({
      fields,
      labels,
      setTarget: (target: (text: string) => void) => {
        insert.current = target;
      },
    }),
    [fields, labels],
  );

  const doing = async (work: () => Promise<string>) => {
    setTold(null);
    try {
      await flush();
      setTold({ text: await work(), good: true });
    } catch (error) {
      setTold({ text: messageOf(error), good: false });
    }
    await refresh().catch(() => {});
  };
  const rehearseNow = () =>
    doing(async () => {
      const shown = await call<{ name: string; steps: Rehearsed[] }>('POST', `/api/workflows/${id}/rehearse`, {
        arrivalId: sheet.sample?.arrivalId ?? null,
      });
      setRehearsal(shown);
      return `Rehearsed with ${shown.name}: each step shows what it would do. Nothing has left the building.`;
    });
  const putLive = () =>
    doing(
      async () =>
        `Version ${(await call<{ version: number }>('POST', `/api/workflows/${id}/live`)).version} is live. The next lead goes through it.`,
    );
  const pause = (paused: boolean) =>
    doing(async () => {
      await call('PUT', `/api/workflows/${id}/live`, { paused });
      return paused ? 'Paused. Nothing new starts; leads under way go on.' : 'Live again.';
    });
  const sendToMe = async (stepId: string) => {
    await flush();
    const sent = await call<SentToMe>('POST', `/api/workflows/${id}/send-to-me`, {
      stepId,
      arrivalId: sheet.sample?.arrivalId ?? null,
    });
    await refresh().catch(() => {});
    return sent;
  };
  const choose = async (arrivalId: string | null) => {
    await call('PUT', `/api/workflows/${id}/sample`, { arrivalId }).catch((error) =>
      setTold({ text: messageOf(error), good: false }),
    );
    await refresh().catch(() => {});
  };

  const remove = useCallback(
    (stepId: string) => {
      edit(removeStep(stepId));
      setSelected(null);
      setTold({ text: 'Removed. Ctrl+Z brings it back.', good: true });
    },
    [edit],
  );

  useEffect(() => {
    const keys = (event: KeyboardEvent) => {
      const typing = (event.target as HTMLElement).closest('input, textarea, select, .cm-editor');
      const command = event.ctrlKey || event.metaKey;
      if (command && event.key.toLowerCase() === 'z' && !typing) {
        event.preventDefault();
        if (event.shiftKey) redo();
        else undo();
      }
      if (event.key === 'Delete' && !typing && selected) remove(selected);
      if (event.key === 'Escape') {
        setRehearsal(null);
        setTold(null);
      }
    };
    window.addEventListener('keydown', keys);
    return () => window.removeEventListener('keydown', keys);
  }, [undo, redo, selected, remove]);

  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, {
      coordinateGetter: sortableKeyboardCoordinates,
      keyboardCodes: { start: ['Space'], cancel: ['Escape'], end: ['Space', 'Enter'] },
    }),
  );
  const dropped = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const step = String(active.id);
    const kind = stepKinds.get(String(active.data.current?.kind ?? ''));
    const [momentId, lane] = String(over.id).split(':');
    const onto = findStep(draft, String(over.id));
    const target = onto
      ? { momentId: onto.moment.id, place: onto.place, index: onto.index }
      : { momentId: momentId!, place: lane as StepPlace, index: Number.MAX_SAFE_INTEGER };
    if (kind && !kind.places.includes(target.place)) {
      setTold({ text: `"${kind.label}" cannot stand there.`, good: false });
      return;
    }
    edit(moveStep(step, target.momentId, target.place, target.index));
  };
  const add = (momentId: string, lane: StepPlace, kindName: string) => {
    const kind = stepKinds.get(kindName)!;
    const step: Step = {
      id: newId(kindName),
      kind: kindName,
      on: true,
      note: '',
      settings: kind.blank() as Record<string, unknown>,
    };
    edit(addStep(momentId, lane, step));
    setSelected(step.id);
  };
  const go = (finding: Finding) => {
    if (!finding.place.stepId) return;
    setSelected(finding.place.stepId);
    const { field } = finding.place;
    setTimeout(() => document.querySelector<HTMLElement>(`aside [data-field="${field}"]`)?.focus(), 60);
  };

  const found = selected ? findStep(draft, selected) : null;
  const siblings = found ? stepsAt(found.moment, found.place) : [];
  const { workflow } = sheet;
  const dirty = revision !== workflow.liveRevision || saveState !== 'saved';
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
          onGo={go}
          onRehearse={() => void rehearseNow()}
          onPause={(paused) => void pause(paused)}
          onPutLive={() => void putLive()}
        />
        {(told || problem) && (
          <p
            className={`notice mx-4 my-2 flex items-center justify-between ${told?.good && !problem ? 'good' : 'bad'}`}
            role="alert"
          >
            {problem || told?.text}
            <button
              type="button"
              className="btn btn-ghost btn-xs"
              onClick={() => {
                setTold(null);
                setRehearsal(null);
              }}
            >
              Close
            </button>
          </p>
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
          />
          <main className="relative overflow-y-auto py-3 pr-4 pl-5">
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
                    edit(toggleSource(source));
                    void flush().then(refresh);
                  }}
                />
              </section>
              <DndContext id="run-sheet" sensors={sensors} collisionDetection={closestCorners} onDragEnd={dropped}>
                {draft.moments.map((moment) => {
                  const card = (lane: StepPlace) => (step: Step) => (
                    <StepCard
                      key={step.id}
                      step={step}
                      place={lane}
                      selected={step.id === selected}
                      desk={sheet.desk}
                      labels={labels}
                      findings={findings.filter((finding) => finding.place.stepId === step.id)}
                      rehearsed={rehearsal?.steps.find((one) => one.stepId === step.id)?.plan ?? null}
                      onSelect={() => setSelected(step.id)}
                    />
                  );
                  return (
                    <section key={moment.id} className="relative mb-4" aria-label="On arrival">
                      <span className="knob absolute top-0.5 -left-12">
                        <Bell className="size-4" aria-hidden="true" />
                      </span>
                      <div className="mb-1.5 flex min-h-8 flex-wrap items-center gap-2">
                        <h2 className="text-[15px]">On arrival</h2>
                        <span className="text-ink-2">every new lead</span>
                        <label className="pill !bg-base-100">
                          <UsersRound className="size-3.5" aria-hidden="true" />
                          <span className="sr-only">When a known person comes in again</span>
                          <select
                            className="cursor-pointer bg-transparent"
                            value={draft.rules.samePerson}
                            onChange={(event) => edit(setSamePerson(event.target.value as never))}
                          >
                            <option value="update_only">Known person: update, no repeat</option>
                            <option value="run_again">Known person: run again</option>
                          </select>
                        </label>
                        {sheet.usualReplyMs !== null && (
                          <span className="ml-auto text-xs text-ink-2">
                            usually answered in {durationWords(sheet.usualReplyMs)}
                          </span>
                        )}
                      </div>
                      <LaneColumn
                        momentId={moment.id}
                        place="first"
                        steps={moment.first}
                        card={card('first')}
                        onAdd={(kind) => add(moment.id, 'first', kind)}
                      />
                      <div className="grid grid-cols-3 gap-2">
                        {LANES.map((lane) => (
                          <LaneColumn
                            key={lane}
                            momentId={moment.id}
                            place={lane}
                            steps={moment.lanes[lane]}
                            card={card(lane)}
                            onAdd={(kind) => add(moment.id, lane, kind)}
                          />
                        ))}
                      </div>
                    </section>
                  );
                })}
              </DndContext>
            </div>
          </main>
          <aside className="overflow-y-auto border-l border-base-300 bg-base-100" aria-label="Chosen step">
            {found ? (
              <StepInspector
                key={found.step.id}
                step={found.step}
                place={found.place}
                first={found.index === 0}
                last={found.index === siblings.length - 1}
                desk={sheet.desk}
                sampleName={sampleName}
                plan={plans.get(found.step.id) ?? null}
                onSettings={(patch) =>
                  edit(changeSettings(found.step.id, patch), `settings:${found.step.id}:${Object.keys(patch).join()}`)
                }
                onChange={(patch) =>
                  edit(changeStep(found.step.id, patch), patch.note === undefined ? '' : `note:${found.step.id}`)
                }
                onCopy={() => {
                  const copy = newId(found.step.kind);
                  edit(copyStep(found.step.id, copy));
                  setSelected(copy);
                }}
                onRemove={() => remove(found.step.id)}
                onMove={(by) => edit(moveStep(found.step.id, found.moment.id, found.place, found.index + by))}
                onSendToMe={() => sendToMe(found.step.id)}
              />
            ) : (
              <p className="p-4 text-ink-2">Choose a step to see its fields, or add one with a plus in a lane.</p>
            )}
          </aside>
        </div>
      </div>
    </FieldPickerContext.Provider>
  );
}

/** The sample's first name as it is after First. */
function tidied(plans: ReadonlyMap<string, Plan>, typed: string): string {
  let name = typed;
  for (const plan of plans.values())
    if (plan.does === 'change') name = plan.changes.find((one) => one.field === 'first_name')?.after ?? name;
  return name;
}
