import type { Compared } from '../../core/condition/evaluate.ts';
import { LANES, type Lane, lanesOf, type Moment, type Step } from '../../core/workflow/definition.ts';
import type { Provisions } from '../settings-cache.ts';
import type { EngineParts } from './engine-parts.ts';
import { LanesAtWork } from './lanes-at-work.ts';
import type { LeasedRun, MomentRecord, StepRecord } from './leased-run.ts';
import { runOutcome } from './outcome.ts';
import { iso, RunNotes, settled } from './run-notes.ts';
import { StepRunner } from './run-step.ts';

export type MomentEnd =
  /** Every lane is at its end. */
  | { kind: 'over' }
  /** A check ended the whole run here. */
  | { kind: 'ends' }
  /** A lane waits for another try or for its hours; nothing else is going on. `until` in milliseconds. */
  | { kind: 'waits'; until: number; outcome: string };

/**
 * Takes one moment as far as it can go now: its condition, First in order, then the three lanes of the case that fits side by
 * side, each from its first step that is not settled. A lane whose step must wait lets the others go on.
 */
export async function runMoment(
  run: LeasedRun,
  moment: Moment,
  began: number,
  provisions: Provisions,
  parts: EngineParts,
): Promise<MomentEnd> {
  const notes = new RunNotes(run, parts.store, parts.leases, parts.now);
  const runner = new StepRunner(run, provisions, parts, notes);
  const record = (more: Partial<MomentRecord>): MomentRecord => ({
    moment_id: moment.id,
    began_at: iso(began),
    case_id: null,
    skipped: null,
    compared: [],
    ...more,
  });
  // How it began is written before anything leaves, so that the run keeps to it whatever changes meanwhile.
  let begun = run.moments.get(moment.id);
  const note = (momentRecord: MomentRecord) => {
    begun = momentRecord;
    run.moments.set(moment.id, momentRecord);
    notes.began({ ...momentRecord, run_id: run.id, business_id: run.businessId });
  };

  const compared: Compared[] = [];
  if (!begun && moment.onlyIf && run.fromStep === null) {
    const verdict = await runner.decide(moment.onlyIf);
    compared.push(...verdict.compared);
    if (!verdict.holds) {
      note(record({ skipped: 'Its condition did not hold', compared }));
      await notes.flush();
      return { kind: 'over' };
    }
  }
  if (begun?.skipped) return { kind: 'over' };

  const ended = await runner.first(moment);
  if (ended && 'until' in ended) {
    await notes.flush();
    return { kind: 'waits', until: ended.until, outcome: runOutcome([...run.steps.values()]).outcome };
  }
  if (ended) {
    if (!begun) note(record({ skipped: ended.why, compared }));
    await notes.flush();
    return { kind: ended.ends === 'run' ? 'ends' : 'over' };
  }

  if (!begun && (moment.cases.length > 0 || compared.length > 0)) {
    let caseId: string | null = null;
    if (run.fromStep !== null) caseId = caseOfStep(moment, run.fromStep);
    else
      for (const eachCase of moment.cases) {
        const verdict = await runner.decide(eachCase.when);
        compared.push(...verdict.compared);
        if (verdict.holds) {
          caseId = eachCase.id;
          break;
        }
      }
    note(record({ case_id: caseId, compared }));
  }
  const lanes = lanesOf(moment, begun?.case_id ?? null);
  const skip = stepsToSkip(lanes, run.fromStep);
  const atWork = new LanesAtWork(LANES.length, parts.later);

  /** Runs a lane to its end, or to a wait. Gives the time of the wait, of several the first. */
  async function runLane(lane: Lane): Promise<number | null> {
    let left = false;
    let held: number | null = null;
    try {
      let stopped = false;
      for (const step of lanes[lane]) {
        if (!settled(run.steps.get(step.id))) {
          if (skip.has(step.id)) await runner.leaveOut(step, lane, 'not_repeated', 'Not part of this repeat');
          else if (stopped)
            await runner.leaveOut(step, lane, 'lane_stopped', 'The lane was stopped by the step before');
          else {
            const wait = await runner.step(step, lane, atWork);
            if (wait) held = Math.min(held ?? wait.until, wait.until);
            left = wait?.holds === true;
            if (left) return held;
          }
        }
        stopped ||= stopsLane(step, run.steps.get(step.id)!);
      }
      return held;
    } finally {
      if (!left) atWork.finished();
    }
  }

  const results = await Promise.allSettled(LANES.map(runLane));
  const failed = results.find((result) => result.status === 'rejected');
  if (failed) throw failed.reason;
  await notes.flush();
  const waits = results.flatMap((result) =>
    result.status === 'fulfilled' && result.value !== null ? [result.value] : [],
  );
  if (waits.length === 0) return { kind: 'over' };
  return { kind: 'waits', until: Math.min(...waits), outcome: runOutcome([...run.steps.values()]).outcome };
}

/** A step set to stop its lane when the outside world refuses it for good. */
function stopsLane(step: Step, record: StepRecord): boolean {
  return (record.state === 'refused' || record.state === 'ask') && step.ifFails.after === 'stop_lane';
}

const caseOfStep = (moment: Moment, stepId: string): string | null =>
  moment.cases.find((eachCase) => LANES.some((lane) => eachCase.lanes[lane].some((step) => step.id === stepId)))?.id ??
  null;

/** When run again from a step: everything in the lanes but that step and what stands below it in its lane. */
function stepsToSkip(lanes: Moment['lanes'], fromStep: string | null): Set<string> {
  const skip = new Set<string>();
  if (fromStep === null) return skip;
  for (const lane of LANES) {
    const at = lanes[lane].findIndex((step) => step.id === fromStep);
    for (const step of at < 0 ? lanes[lane] : lanes[lane].slice(0, at)) skip.add(step.id);
  }
  return skip;
}
