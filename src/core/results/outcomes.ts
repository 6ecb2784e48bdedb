import { byKey } from './by-key.ts';

/**
 * What can come of a lead. `lead` is that they came in at all; `answered` and `in_five` are how they were answered. Kinds of the business's own are
 * `own:` and an id, a stage of a pipeline is `stage:` and its id.
 */
export const OUTCOME_WORDS = {
  lead: 'Leads',
  answered: 'Answered',
  in_five: 'Within 5 minutes',
  replied: 'Replied',
  listed: 'Joined a list',
  booked: 'Appointments',
  cancelled: 'Cancelled',
  kept: 'Kept',
  missed: 'Missed',
  won: 'Won',
  lost: 'Lost',
  ordered: 'Orders',
  refunded: 'Refunds',
} as const;
export type BuiltInKind = keyof typeof OUTCOME_WORDS;
export type OutcomeKind = BuiltInKind | `own:${string}` | `stage:${string}`;

/** Kinds whose money is a sale: what came in, and what went back. */
export const SALES: readonly OutcomeKind[] = ['won', 'ordered', 'refunded'];
export const isSale = (kind: string): boolean => SALES.includes(kind as OutcomeKind) || kind.startsWith('own:');

/** Something that has happened with a lead. */
export interface Outcome {
  /** What makes it one and the same, among those of one kind and lead: the appointment's id, the order's number. */
  key: string;
  kind: OutcomeKind;
  /** Milliseconds since 1970. */
  at: number;
  /** In hundredths of `currency`, negative for what went back; null where no money is told. */
  money: number | null;
  /** ISO 4217; empty where no money is told. */
  currency: string;
}

/** What a booking calendar told of an appointment, the earliest first. */
export interface AppointmentEvent {
  event: string;
  /** When it was told, milliseconds. */
  at: number;
  /** Which calendar source and which appointment. */
  appointment: string;
  /** When it ends, milliseconds; null where that was not told. */
  end: number | null;
}

/**
 * What comes of appointments: each booked once, however often it is confirmed or moved; cancelled, missed, or kept once it is over and nobody has said
 * otherwise. What was told last counts. `until` is the next end that lies ahead of `now`, when one of them has to be looked at again.
 */
export function appointmentOutcomes(
  events: readonly AppointmentEvent[],
  now: number,
): { outcomes: Outcome[]; until: number | null } {
  const byAppointment = byKey(events, ({ appointment }) => appointment);
  const outcomes: Outcome[] = [];
  let until: number | null = null;
  for (const [key, told] of byAppointment) {
    const of = (kind: OutcomeKind, at: number) => outcomes.push({ key, kind, at, money: null, currency: '' });
    const booked = told.find(({ event }) => event === 'booked' || event === 'confirmed');
    if (booked) of('booked', booked.at);
    // That it was moved or confirmed after all takes back that it was cancelled.
    const last = told.at(-1)!;
    const end = told.findLast((one) => one.end !== null)?.end ?? null;
    if (last.event === 'cancelled') of('cancelled', last.at);
    else if (last.event === 'no-show') of('missed', last.at);
    else if (end !== null && end <= now) of('kept', end);
    else if (end !== null && (until === null || end < until)) until = end;
  }
  return { outcomes, until };
}

/** What a shop told of an order, the earliest first. */
export interface OrderEvent {
  event: string;
  at: number;
  /** Which shop and which order. */
  order: string;
  /** As the shop calls it. */
  state: string;
  /** Hundredths of its currency; null where it could not be read. */
  total: number | null;
  currency: string;
}

/** States of an order in which its money has gone back, in lower case. Common practice, no source. */
const GONE_BACK = new Set(['returned', 'refunded', 'cancelled', 'canceled', 'voided']);

/**
 * What comes of orders: each once, at its own time, with the total it had first. A total that changes later is a correction at the time of the change:
 * a refund where it fell, more money where it rose. So is an order that is sent back, or one that is not after all.
 */
export function orderOutcomes(events: readonly OrderEvent[]): Outcome[] {
  const outcomes: Outcome[] = [];
  for (const [key, told] of byKey(events, ({ order }) => order)) {
    let stands: number | null = null;
    for (const [n, { at, state, total, currency }] of told.entries()) {
      const back = GONE_BACK.has(state.trim().toLowerCase());
      const worth: number | null = back ? 0 : (total ?? stands);
      if (n === 0) outcomes.push({ key, kind: 'ordered', at, money: total, currency: total === null ? '' : currency });
      const before: number = n === 0 ? (total ?? 0) : (stands ?? 0);
      const change = (worth ?? before) - before;
      if (change !== 0)
        outcomes.push({ key: `${key}#${n}`, kind: change < 0 ? 'refunded' : 'ordered', at, money: change, currency });
      stands = worth ?? stands;
    }
  }
  return outcomes;
}

/** A deal as it stands, and the times it stood as won. */
export interface DealFacts {
  id: string;
  /** How it ended; null while it is open (again). */
  ends: 'won' | 'lost' | null;
  /** When that was, milliseconds. */
  at: number | null;
  /** Hundredths; null where its value is not told. */
  value: number | null;
  currency: string;
  /** From when to when it stood as won, milliseconds, the earliest first; without an end where it still does. */
  won: readonly { from: number; to: number | null }[];
}

/** A deal that stood as won for less than this was dragged there by mistake. Our own choice. */
const MEANT_MS = 24 * 60 * 60_000;

/** What comes of a deal: won or lost, once; one that was won for good and is not any more has given its money back when it stopped being so. */
export function dealOutcomes({ id, ends, at, value, currency, won }: DealFacts): Outcome[] {
  const money = { money: value, currency: value === null ? '' : currency };
  if (ends === 'won' && at !== null) return [{ key: id, kind: 'won', at, ...money }];
  const lost: Outcome[] =
    ends === 'lost' && at !== null ? [{ key: id, kind: 'lost', at, money: null, currency: '' }] : [];
  const meant = won.filter(({ from, to }) => to !== null && to - from >= MEANT_MS);
  const [first, last] = [meant[0], meant.at(-1)];
  if (!first || !last) return lost;
  const back = value === null ? null : 0 - value;
  return [
    { key: id, kind: 'won', at: first.from, ...money },
    { key: `${id}#1`, kind: 'refunded', at: last.to!, money: back, currency: money.currency },
    ...lost,
  ];
}

/** An amount with its currency, as a shop tells a total ("49.00 GBP"), in hundredths; null where there is none. */
export function readMoney(told: string): { hundredths: number; currency: string } | null {
  const found = /^(-?\d{1,12})(?:\.(\d{1,4}))?(?: ([A-Z]{3}))?$/.exec(told.trim());
  if (!found) return null;
  const hundredths = Math.round(Number(`${found[1]}.${found[2] ?? '0'}`) * 100);
  return { hundredths, currency: found[3] ?? '' };
}
