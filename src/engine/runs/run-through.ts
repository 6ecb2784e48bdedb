import { phoneZone } from '../../core/time/phone-zone.ts';
import type { Moment } from '../../core/workflow/definition.ts';
import { fieldValue } from '../../core/workflow/run-context.ts';
import { type Due, whenDue } from '../../core/workflow/when-due.ts';
import type { MomentRow, RunRow } from '../../db/hot/rows.ts';
import { applyFields } from '../../steps/apply-fields.ts';
import type { Provisions } from '../settings-cache.ts';
import type { EngineParts } from './engine-parts.ts';
import type { LeasedRun } from './leased-run.ts';
import { runOutcome } from './outcome.ts';
import { runMoment } from './run-moment.ts';
import { iso, LeaseLost } from './run-notes.ts';

const ENDED = {
  reply: 'they replied',
  stop: 'they asked for no more',
  booked: 'they booked',
  bought: 'they bought',
  tag: 'they got a tag that ends it',
} as const;

/** Takes one run as far as it can go now: moment by moment, until one has to wait or the sheet is at its end. */
export async function runThrough(run: LeasedRun, provisions: Provisions, parts: EngineParts): Promise<void> {
  try {
    await goThrough(run, provisions, parts);
  } catch (error) {
    if (!(error instanceof LeaseLost)) throw error;
  }
}

async function goThrough(run: LeasedRun, provisions: Provisions, parts: EngineParts): Promise<void> {
  const { store, now, leases } = parts;
  const { moments, rules } = run.definition;
  const row = (more: Partial<RunRow>): RunRow => {
    const { state, outcome } = runOutcome([...run.steps.values()]);
    return {
      id: run.id,
      lease_by: leases.holder,
      state,
      outcome,
      finished_at: null,
      due_at: null,
      first_reply_at: run.firstReplyAt,
      moment_id: run.momentId ?? moments[0]!.id,
      moment_at: run.momentAt,
      ...more,
    };
  };
  const finish = (more: Partial<RunRow> = {}) =>
    store.write({ runs: [row({ finished_at: iso(now()), moment_id: null, ...more })] });

  if (!run.fresh && run.fromStep === null && rules.endsWhen.length + rules.endsTags.length > 0) {
    const ended = await store.endedBy(run.id, run.leadId, run.createdAt, rules);
    if (ended) {
      const { state, outcome } = runOutcome([...run.steps.values()]);
      const words = `Ended early: ${ENDED[ended]}`;
      const unsent = [...run.pending.values()].map(({ id }) => ({
        id,
        state: 'refused' as const,
        remote_id: null,
        detail: words,
        accepted_at: null,
      }));
      if (unsent.length > 0) await store.write({ answers: unsent });
      await finish({
        state: state === 'needs_you' ? state : 'done',
        outcome: outcome ? `${outcome}. ${words}` : words,
      });
      return;
    }
  }

  let index = Math.max(
    0,
    moments.findIndex((moment) => moment.id === run.momentId),
  );
  if (run.fromStep !== null) index = momentOfStep(moments, run.fromStep) ?? index;
  for (;;) {
    const moment = moments[index];
    if (!moment) break;
    const began =
      Date.parse(run.moments.get(moment.id)?.began_at ?? '') || (index === 0 ? Date.parse(run.createdAt) : now());
    const came = await runMoment(run, moment, began, provisions, parts);
    if (came.kind === 'waits') {
      await store.write({
        runs: [row({ state: 'active', due_at: iso(came.until), outcome: came.outcome, moment_id: moment.id })],
      });
      return;
    }
    if (came.kind === 'ends' || run.fromStep !== null) break;
    run.momentAt = iso(began);
    run.fresh = false;
    // The next moment that is not left out.
    let due: Due | null = null;
    const skipped: MomentRow[] = [];
    while (++index < moments.length) {
      const next = moments[index]!;
      due = whenDue(next.at, {
        previous: Date.parse(run.momentAt),
        now: now(),
        leadZone: phoneZone(run.context.person.phone),
        businessZone: run.context.business.timeZone,
        country: run.context.business.country,
        holidays: run.context.business.holidays,
        field: (reference) => fieldValue(run.context, reference),
      });
      if ('at' in due) break;
      skipped.push({
        run_id: run.id,
        business_id: run.businessId,
        moment_id: next.id,
        began_at: iso(now()),
        case_id: null,
        skipped: due.text,
        compared: [],
      });
      due = null;
    }
    if (skipped.length > 0) await store.write({ moments: skipped });
    if (!due || !('at' in due)) break;
    const next = moments[index]!;
    run.momentId = next.id;
    run.context = { ...run.context, happened: {} };
    if (next.at.kind === 'event') {
      const { kind: _kind, within: _within, ...waits } = next.at;
      const waiting = row({ state: 'active', due_at: iso(due.at), outcome: waitingWords(row({}).outcome, next) });
      const happened = await store.beginWait(waiting, run.leadId, waits, run.momentAt);
      if (!happened) return;
      const answers = await store.answersOf(run.id);
      run.context = { ...applyFields(run.context, answers, provisions.catalogue), happened };
    } else if (due.at > now()) {
      await store.write({
        runs: [row({ state: 'active', due_at: iso(due.at), outcome: waitingWords(row({}).outcome, next) })],
      });
      return;
    }
  }
  await finish();
}

const waitingWords = (outcome: string, next: Moment) => {
  const words =
    next.at.kind === 'event'
      ? next.at.event === 'reply'
        ? 'waiting for a reply'
        : next.at.event === 'answer'
          ? 'waiting for their answer'
          : 'waiting for something to happen'
      : 'waiting for the next moment';
  return outcome ? `${outcome}, ${words}` : words.charAt(0).toUpperCase() + words.slice(1);
};

function momentOfStep(moments: readonly Moment[], stepId: string): number | null {
  const at = moments.findIndex((moment) =>
    [...moment.cases.map((eachCase) => eachCase.lanes), moment.lanes].some((lanes) =>
      Object.values(lanes).some((steps) => steps.some((step) => step.id === stepId)),
    ),
  );
  return at < 0 ? null : at;
}
