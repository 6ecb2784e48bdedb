/**
 * Whose word a statement about being written to is.
 * - `themselves`: their own act. They ticked it or left it unticked, wrote STOP, followed a way out, said it on the phone.
 * - `reported`: a row that somebody else typed or read in says it of them.
 * - `standing`: said once of everybody a source brings ("asked elsewhere").
 */
export const SAID_BY = ['themselves', 'reported', 'standing'] as const;
export type SaidBy = (typeof SAID_BY)[number];

/** `unticked` is a question that was there and was not answered with yes. It is no withdrawal: it takes back no earlier yes. */
export type ConsentState = 'given' | 'unticked' | 'withdrawn';

/** One thing said about one channel and purpose. */
export interface Statement {
  saidBy: SaidBy;
  state: ConsentState;
  /** When, milliseconds since 1970. */
  at: number;
}

/**
 * Which of all that was ever said about a channel and purpose counts; null when nothing was. In this order:
 *
 * 1. Their own word before one that is reported, and that before what a source says of everybody, whenever each was said.
 * 2. Of words of one standing, a yes or a no before a box left unticked.
 * 3. Then the newest; of two in the same millisecond the later in `said`.
 *
 * So a box they left unticked outweighs every list that claims their yes, and only their own yes undoes their own no.
 */
export function whatCounts<S extends Statement>(said: readonly S[]): S | null {
  const weight = (one: S) => [-SAID_BY.indexOf(one.saidBy), one.state === 'unticked' ? 0 : 1, one.at] as const;
  let best: S | null = null;
  for (const one of said) if (!best || atLeast(weight(one), weight(best))) best = one;
  return best;
}

/** Whether somebody may be written to by what was said: their yes, their no, or nobody knows. */
export const standsAs = (said: readonly Statement[]): 'given' | 'withdrawn' | 'unknown' => {
  const counts = whatCounts(said);
  return !counts || counts.state === 'unticked' ? 'unknown' : counts.state;
};

function atLeast(a: readonly number[], b: readonly number[]): boolean {
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return a[i]! > b[i]!;
  return true;
}
