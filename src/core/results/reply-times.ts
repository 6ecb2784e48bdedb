import { compareShares, type Share } from '../statistics/two-shares.ts';
import { wilson } from '../statistics/wilson.ts';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;

/** Spans of time until the first reply: each up to and including `to`, in milliseconds. */
export const BANDS = [
  { key: 'seconds', label: 'Up to 30 s', short: 'to 30 s', to: 30_000 },
  { key: 'minute', label: '30 s to 1 min', short: 'to 1 min', to: MINUTE },
  { key: 'five', label: '1 to 5 min', short: 'to 5 min', to: 5 * MINUTE },
  { key: 'half', label: '5 to 30 min', short: 'to 30 min', to: 30 * MINUTE },
  { key: 'hours', label: '30 min to 2 h', short: 'to 2 h', to: 2 * HOUR },
  { key: 'day', label: '2 to 24 h', short: 'to 24 h', to: 24 * HOUR },
  { key: 'later', label: 'Over a day', short: 'later', to: Number.POSITIVE_INFINITY },
] as const;
/** Answered within five minutes: the first three of them. */
export const FAST_BANDS = 3;

/** Why an answer took longer than five minutes, or never came. The order is that in which they are asked. */
export const WAIT_WORDS = {
  person: 'A person had to write or release it',
  refused: 'The first message was refused; another went instead',
  outage: 'A service was down or did not answer',
  planned: 'The workflow itself waits before it writes',
  hours: 'Held for the hours in which messages may go out, or a daily limit',
  late: 'Pine Bell took it up late',
  no_workflow: 'No workflow takes them up',
  no_consent: 'They did not agree to be written to',
  no_address: 'There was no number or address to write to',
  failed: 'What was sent was refused, and nobody wrote by hand',
  under_way: 'Its answer is still to come',
  silent: 'Their workflow sends nothing to them',
  unknown: 'It is not on record any more',
} as const;
export type WaitReason = keyof typeof WAIT_WORDS;

/** Those answered in one span, and how many of them booked. */
export interface BandCount extends Share {
  key: string;
}

export interface ShownBand {
  key: string;
  label: string;
  /** Under a bar. */
  short: string;
  n: number;
  booked: number;
  /** Of these who booked, with its range; null where there is nobody. */
  rate: { share: number; low: number; high: number } | null;
}

/** The spans with how many booked of each. `never` are those who have not been answered at all. */
export function shownBands(counts: readonly BandCount[], never: Share): ShownBand[] {
  const of = (key: string) => counts.find((one) => one.key === key) ?? { did: 0, of: 0 };
  const shown = (key: string, label: string, short: string, share: Share): ShownBand => {
    const range = wilson(share);
    return {
      ...{ key, label, short, n: share.of, booked: share.did },
      rate: range ? { share: share.did / share.of, ...range } : null,
    };
  };
  return [
    ...BANDS.map(({ key, label, short }) => shown(key, label, short, of(key))),
    shown('never', 'Never answered', 'never', never),
  ];
}

/** Whether those answered within five minutes book more often than those answered later, said so that nobody reads more into it than there is. */
export function doesFastPay(bands: readonly ShownBand[]): { says: string; proves: boolean } {
  const add = (some: readonly ShownBand[]): Share => ({
    did: some.reduce((sum, { booked }) => sum + booked, 0),
    of: some.reduce((sum, { n }) => sum + n, 0),
  });
  const fast = add(bands.slice(0, FAST_BANDS));
  const slow = add(bands.slice(FAST_BANDS, BANDS.length));
  if (fast.of === 0 || slow.of === 0)
    return {
      says: 'Everybody who was answered was answered about as fast as the others: there is nothing to compare with.',
      proves: false,
    };
  const percent = ({ did, of }: Share) => `${did} of ${of} (${Math.round((did * 100) / of)} %)`;
  const told = `Of those answered within 5 minutes ${percent(fast)} booked; of those answered later ${percent(slow)}.`;
  const { larger, p } = compareShares(fast, slow);
  if (larger === null && p < 0.05)
    return {
      says: `${told} These are too few to say anything: it does not prove that answering fast brings appointments.`,
      proves: false,
    };
  if (larger === null)
    return {
      says: `${told} A difference like that comes by chance ${chance(p)}: it does not prove that answering fast brings appointments.`,
      proves: false,
    };
  return {
    says:
      larger === 'a'
        ? `${told} That is more than chance. It fits with fast answers bringing appointments, yet does not prove it: who comes in at night and is answered in the morning may be others than who comes by day.`
        : `${told} That is more than chance, and the other way round than one would think: who is answered later may have come by better ways.`,
    proves: true,
  };
}

const chance = (p: number): string =>
  p > 0.5 ? 'more often than not' : `about once in ${Math.max(2, Math.round(1 / p))} times`;
