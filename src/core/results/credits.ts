import { apportion } from './apportion.ts';
import { MODELS, type Model, weightsOf } from './models.ts';
import { type Origin, originKey } from './origin.ts';
import type { Outcome, OutcomeKind } from './outcomes.ts';

/** One outcome is so many credits: shares of it are whole numbers, and add up. */
export const CREDIT = 1_000_000;
/** Answered inside five minutes (common practice, no source), in milliseconds. */
export const IN_TIME_MS = 5 * 60_000;

/** A contact, as credits see it. */
export interface TouchAt {
  /** Milliseconds since 1970. */
  at: number;
  origin: Origin;
}

/** Everything that is known of one lead. */
export interface LeadFacts {
  createdAt: number;
  /** The earliest first. */
  touches: TouchAt[];
  /** The lead source of their first arrival; null where they were put in by hand. */
  sourceId: string | null;
  /** When the first message to them was taken; null while none was. */
  answeredAt: number | null;
  outcomes: Outcome[];
}

/** What one contact is credited with of one outcome, by each model. */
export interface Credit {
  origin: Origin;
  /** Which outcome: its kind and what makes it one. */
  kind: OutcomeKind;
  key: string;
  at: number;
  /** Of CREDIT. */
  shares: Record<Model, number>;
  /** Hundredths of `currency`. */
  money: Record<Model, number>;
  currency: string;
  /** It is the first of its kind for this lead: people are counted by these. */
  first: boolean;
}

const NO_MONEY: Readonly<Record<Model, number>> = { first: 0, last: 0, even: 0, ends: 0, fading: 0 };
const ALL: Readonly<Record<Model, number>> = {
  first: CREDIT,
  last: CREDIT,
  even: CREDIT,
  ends: CREDIT,
  fading: CREDIT,
};

/** The contacts an outcome at `at` can have come of. Without one before it, it is the source's own: nothing that came after can have brought it. */
function before({ touches, createdAt, sourceId }: LeadFacts, at: number): TouchAt[] {
  const earlier = touches.filter((touch) => touch.at <= at);
  if (earlier.length > 0) return earlier;
  const unmarked = { site: '', medium: '', campaign: '', adSet: '', ad: '', form: '', page: '', sourceId };
  return [{ at: Math.min(createdAt, at), origin: unmarked }];
}

/** All outcomes of a lead, with that they came in and how they were answered. */
function allOutcomes(facts: LeadFacts): Outcome[] {
  const { createdAt, answeredAt, outcomes } = facts;
  const of = (kind: OutcomeKind): Outcome => ({ key: '', kind, at: createdAt, money: null, currency: '' });
  // Counted at the time they came: of those who came, so many were answered.
  const answered = answeredAt === null ? [] : [of('answered')];
  const inTime = answeredAt !== null && answeredAt - createdAt <= IN_TIME_MS ? [of('in_five')] : [];
  return [of('lead'), ...answered, ...inTime, ...outcomes];
}

/** What each contact of a lead is credited with. Of each outcome the credits, and the money, add up to the whole in every model. */
export function creditsOf(facts: LeadFacts): Credit[] {
  const seen = new Set<string>();
  const sorted = allOutcomes(facts).sort((a, b) => a.at - b.at);
  return sorted.flatMap((outcome) => {
    const first = !seen.has(outcome.kind);
    seen.add(outcome.kind);
    return creditsOfOutcome(before(facts, outcome.at), outcome, first);
  });
}

function creditsOfOutcome(touches: TouchAt[], outcome: Outcome, first: boolean): Credit[] {
  const { kind, key, at, money, currency } = outcome;
  const of = { kind, key, at, currency: money === null ? '' : currency, first };
  // Nearly everybody has one contact: nothing to share out.
  if (touches.length === 1) {
    const whole = money === null ? NO_MONEY : { first: money, last: money, even: money, ends: money, fading: money };
    return [{ ...of, origin: touches[0]!.origin, shares: ALL, money: whole }];
  }
  const times = touches.map((touch) => touch.at);
  const shares = {} as Record<Model, number[]>;
  const sums = {} as Record<Model, number[]>;
  for (const model of MODELS) {
    const weights = weightsOf(model, times);
    shares[model] = apportion(CREDIT, weights);
    sums[model] = money === null ? times.map(() => 0) : apportion(money, weights);
  }
  const pick = (by: Record<Model, number[]>, i: number) =>
    Object.fromEntries(MODELS.map((model) => [model, by[model][i]!])) as Record<Model, number>;
  const byOrigin = new Map<string, Credit>();
  for (const [i, { origin }] of touches.entries()) {
    const id = originKey(origin);
    const sum = byOrigin.get(id);
    const [share, part] = [pick(shares, i), pick(sums, i)];
    byOrigin.set(
      id,
      sum
        ? { ...sum, shares: added(sum.shares, share), money: added(sum.money, part) }
        : { ...of, origin, shares: share, money: part },
    );
  }
  return [...byOrigin.values()];
}

const added = (a: Record<Model, number>, b: Record<Model, number>): Record<Model, number> =>
  Object.fromEntries(MODELS.map((model) => [model, a[model] + b[model]])) as Record<Model, number>;
