import { type Condition, testsOf } from '../core/condition/condition.ts';
import { type Compared, evaluate, type FactAsked, factKey, factOf } from '../core/condition/evaluate.ts';
import { comparedWords } from '../core/condition/words.ts';
import { answeredAtOnce } from '../core/time/answered-at-once.ts';
import type { OpenHours } from '../core/time/quiet-hours.ts';
import type { Awaited } from '../core/workflow/at.ts';
import { type Definition, LANES, lanesOf, type Place, type Step } from '../core/workflow/definition.ts';
import type { FieldSet, Plan, Question } from '../core/workflow/plan.ts';
import { fieldValue, knownOf, type RunContext } from '../core/workflow/run-context.ts';
import { type Catalogue, catalogueNames } from '../core/workflow/step-kind.ts';
import { whenDue } from '../core/workflow/when-due.ts';
import { applyFields } from './apply-fields.ts';
import { applyChange, conditionOf, planStep } from './plan-step.ts';

export interface Rehearsed {
  stepId: string;
  place: Place;
  caseId: string | null;
  /** False in a case that is not taken, and in a moment that is left out or never reached. */
  taken: boolean;
  plan: Plan;
  /** Held for the hours in which messages may go out, milliseconds. */
  heldUntil: number | null;
  /** Outside those hours, and sent all the same: they have just come in and wait for it. */
  atOnce: boolean;
}

export interface RehearsedMoment {
  momentId: string;
  /** When it would begin, milliseconds; null when it would not. */
  at: number | null;
  /** Whose clock the lead lives by. */
  zone: string;
  /** Why it is left out, in words; null when it is not. */
  leftOut: string | null;
  caseId: string | null;
  compared: Compared[];
  steps: Rehearsed[];
}

export interface Rehearsal {
  moments: RehearsedMoment[];
  /** Questions the context has no answer to. */
  wants: FactAsked[];
}

export interface Assume {
  now: number;
  /** What comes of moments that wait for something. */
  happens: boolean;
  /** The time zone a phone number tells; null when it tells none. A table of some size, so it is handed in. */
  zoneOf: (phone: string) => string | null;
  /** Until when a message to a number is held, by its clocks, milliseconds. Left out, nothing is. */
  heldFor?: (instant: number, hours: OpenHours, phone: string, otherwise: string) => number | null;
  /** The lead has come in this minute by their own doing. */
  justCameIn: boolean;
  /**
   * What somebody has set by hand to see a case, by reference: it stands for whatever a step would find ("found.teacher.phone"), be answered
   * ("answers.size") or hear ("happened.text").
   */
  values?: Readonly<Record<string, string>>;
  /** What look-ups found, by step. */
  found?: ReadonlyMap<string, FieldSet[]>;
}

/** What a whole sheet would do with one lead, waits skipped but dated. Nothing leaves, nothing is written. */
export function rehearse(definition: Definition, start: RunContext, catalogue: Catalogue, assume: Assume): Rehearsal {
  let context = start;
  const wants: Rehearsal['wants'] = [];
  const names = catalogueNames(catalogue);
  let clock = assume.now;
  let over: string | null = null;
  const sent = new Map<string, Extract<Plan, { does: 'send' }>>();

  const decide = (condition: Condition) => {
    for (const test of testsOf(condition)) {
      const asked = factOf(test, fieldValue(context, test.field) ?? '');
      if (asked && context.facts[factKey(asked)] === undefined) wants.push(asked);
    }
    return evaluate(condition, knownOf(context, clock));
  };
  const planned = (step: Step): Plan => {
    if (step.on && step.onlyIf) {
      const verdict = decide(step.onlyIf);
      const failed = verdict.compared.find((compared) => !compared.holds);
      if (!verdict.holds)
        return {
          does: 'nothing',
          why: {
            code: 'guard',
            text: failed ? `Only when ${comparedWords(failed, names)}` : 'Its condition did not hold',
          },
        };
    }
    const asked = conditionOf(step);
    if (asked) decide(asked);
    return planStep(step, context, catalogue, clock);
  };
  /** The context once a step is done. */
  const after = (step: Step, plan: Plan): RunContext => {
    const changed = applyChange(context, plan).context;
    const sets = plan.does === 'record' ? (plan.sets ?? []) : [];
    return withSet(applyFields(changed, [...sets, ...(assume.found?.get(step.id) ?? [])], catalogue));
  };
  const set = Object.entries(assume.values ?? {});
  const withSet = (reached: RunContext): RunContext =>
    applyFields(
      reached,
      set.filter(([reference]) => reference.startsWith('found')).map(([reference, value]) => ({ reference, value })),
      catalogue,
    );
  const setOr = (reference: string, otherwise: string): string => assume.values?.[reference] ?? otherwise;
  const held = (plan: Plan, onArrival: boolean): Pick<Rehearsed, 'heldUntil' | 'atOnce'> => {
    if (plan.does !== 'send' || plan.message.audience !== 'lead') return NOT_HELD;
    const { rules } = definition;
    const hours = rules.hours[plan.message.channel];
    const until = hours
      ? (assume.heldFor?.(clock, hours, context.person.phone, context.business.timeZone) ?? null)
      : null;
    if (until === null) return NOT_HELD;
    const marketing = plan.message.purpose === 'marketing';
    const cameAt = assume.justCameIn ? clock : null;
    return answeredAtOnce({ rules, onArrival, marketing, cameAt, now: clock })
      ? { heldUntil: null, atOnce: true }
      : { heldUntil: until, atOnce: false };
  };

  const moments = definition.moments.map((moment, index): RehearsedMoment => {
    const zone = assume.zoneOf(context.person.phone) ?? context.business.timeZone;
    const compared: Compared[] = [];
    let leftOut = over;
    let at: number | null = null;
    if (leftOut === null) {
      if (index === 0) at = clock;
      else {
        const due = whenDue(moment.at, {
          previous: clock,
          now: clock,
          leadZone: assume.zoneOf(context.person.phone),
          businessZone: context.business.timeZone,
          country: context.business.country,
          holidays: context.business.holidays,
          field: (reference) => fieldValue(context, reference),
        });
        if ('at' in due) at = due.at;
        else leftOut = due.text;
        context = { ...context, happened: {} };
        if (moment.at.kind === 'event') {
          const { event, step } = moment.at;
          // What was not sent is not waited for; said to happen, it happens at once; otherwise the wait runs out.
          const waited = !OF_A_STEP.includes(event) || (step === '' ? sent.size > 0 : sent.has(step));
          if (assume.happens || !waited) at = clock;
          const happens = assume.happens && waited;
          const asked = event === 'answer' && happens ? sent.get(step)?.question : undefined;
          const answer = asked ? setOr(asked.saveAs, sampleAnswer(asked)) : '';
          if (asked) context = applyFields(context, [{ reference: asked.saveAs, value: answer }], catalogue);
          const filledIn =
            event === 'form' && happens
              ? Object.fromEntries(
                  Object.entries(sampleForm(context, catalogue, sent.get(step) ?? [...sent.values()].at(-1))).map(
                    ([key, value]) => [key, setOr(formReference(key), value)],
                  ),
                )
              : {};
          context = applyFields(
            context,
            Object.entries(filledIn).map(([key, value]) => ({ reference: formReference(key), value })),
            catalogue,
          );
          // Who answers in chat, or fills in a form there, opens the window.
          const inChat = event === 'form' || [...sent.values()].some(({ message }) => message.channel === 'chat');
          if (happens && inChat && ['reply', 'answer', 'form'].includes(event))
            context = { ...context, lastChatAt: clock };
          context = {
            ...context,
            happened: {
              ...filledIn,
              it: happens ? 'yes' : 'no',
              text: happens ? setOr('happened.text', answer || 'Yes please') : '',
              answer: happens ? setOr('happened.answer', answer) : answer,
              ...(happens && assume.values?.['happened.url'] ? { url: assume.values['happened.url'] } : {}),
            },
          };
        }
      }
      if (at !== null) clock = at;
    }
    if (leftOut === null && moment.onlyIf) {
      const verdict = decide(moment.onlyIf);
      compared.push(...verdict.compared);
      if (!verdict.holds) {
        const failed = verdict.compared.find((compared) => !compared.holds);
        leftOut = failed ? `Only when ${comparedWords(failed, names)}` : 'Its condition does not hold';
      }
    }
    const steps: Rehearsed[] = [];
    for (const step of moment.first) {
      const plan = planned(step);
      const taken = leftOut === null;
      steps.push({ stepId: step.id, place: 'first', caseId: null, taken, plan, ...NOT_HELD });
      if (!taken) continue;
      context = after(step, plan);
      if (plan.does === 'end') {
        leftOut = plan.why.text;
        if (plan.ends === 'run') over = plan.why.text;
      }
    }
    let caseId: string | null = null;
    if (leftOut === null)
      for (const eachCase of moment.cases) {
        const verdict = decide(eachCase.when);
        compared.push(...verdict.compared);
        if (verdict.holds) {
          caseId = eachCase.id;
          break;
        }
      }
    for (const id of [...moment.cases.map((eachCase) => eachCase.id), null]) {
      const taken = leftOut === null && id === caseId;
      for (const place of LANES)
        for (const step of lanesOf(moment, id)[place]) {
          const plan = planned(step);
          steps.push({ stepId: step.id, place, caseId: id, taken, plan, ...held(plan, index === 0) });
          if (!taken) continue;
          context = after(step, plan);
          if (plan.does === 'send') sent.set(step.id, plan);
        }
    }
    return { momentId: moment.id, at: leftOut === null ? at : null, zone, leftOut, caseId, compared, steps };
  });
  return { moments, wants };
}

const NOT_HELD = { heldUntil: null, atOnce: false };

/** Happenings that belong to what a step sent. */
const OF_A_STEP: readonly Awaited[] = ['answer', 'form', 'link', 'opened'];

/** An answer that fits, for trying what comes after it. */
const sampleAnswer = ({ kind, choices }: Question): string =>
  kind === 'choice'
    ? (choices[0] ?? '')
    : {
        anything: 'Yes please',
        yes_no: 'Yes',
        number: '3',
        date: '2026-01-15',
        email: 'robin@example.com',
        phone: '+447700900199',
      }[kind];

const formReference = (key: string): string =>
  ['first_name', 'last_name', 'email'].includes(key) ? `lead.${key}` : `answers.${key}`;

/** What a form would come back with: what is known of the sample, and answers that fit where nothing is. */
function sampleForm(
  context: RunContext,
  catalogue: Catalogue,
  plan: Extract<Plan, { does: 'send' }> | undefined,
): Record<string, string> {
  const id = plan?.message.channel === 'chat' ? plan.message.form?.formId : undefined;
  const form = catalogue.chatForms.find((chatForm) => chatForm.id === id)?.live?.content;
  return Object.fromEntries(
    (form?.screens ?? [])
      .flatMap((screen) => screen.fields)
      .map((field) => [
        field.key,
        fieldValue(context, formReference(field.key)) ||
          (field.kind === 'tick'
            ? 'Yes'
            : sampleAnswer({ ...SHORT, kind: ANSWERS_LIKE[field.kind], choices: field.choices })),
      ]),
  );
}

const SHORT: Question = { kind: 'anything', choices: [], saveAs: '', hint: '', most: 1, forDays: 1 };
const ANSWERS_LIKE = {
  short: 'anything',
  long: 'anything',
  email: 'email',
  phone: 'phone',
  choice: 'choice',
  date: 'date',
  tick: 'yes_no',
} as const;

/** Every step of a rehearsal, in reading order. */
export const rehearsedSteps = (rehearsal: Pick<Rehearsal, 'moments'>): Rehearsed[] =>
  rehearsal.moments.flatMap((moment) => moment.steps);
