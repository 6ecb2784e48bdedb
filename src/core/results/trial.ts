import { compareShares, type Share } from '../statistics/two-shares.ts';

export type Verdict = { is: 'under_way'; left: number } | { is: 'decided'; better: 'a' | 'b' | null; p: number };

/**
 * What a trial has come to. `a` and `b` are the first `perHalf` messages of each whose days are over. Nothing is said before both are complete, and then
 * once: looking in between, and stopping when it looks good, finds differences where there are none.
 */
export function verdictOf(a: Share, b: Share, perHalf: number): Verdict {
  const left = Math.max(0, perHalf - a.of) + Math.max(0, perHalf - b.of);
  if (left > 0) return { is: 'under_way', left };
  const { p, larger } = compareShares(a, b);
  return { is: 'decided', better: larger, p };
}

/** A verdict, as the coordinator reads it. */
export function verdictWords(verdict: Verdict, a: Share, b: Share, goal: string): string {
  if (verdict.is === 'under_way')
    return `Not decided yet: ${verdict.left} messages are still to go, or have had too little time. Until then the figures mean nothing.`;
  const percent = ({ did, of }: Share) => `${((did * 100) / of).toFixed(1)} %`;
  const told = `Of A ${percent(a)}, of B ${percent(b)}: ${goal}.`;
  return verdict.better === null
    ? `Decided: no difference beyond chance. ${told}`
    : `Decided: version ${verdict.better.toUpperCase()} is better. ${told} By chance that comes ${verdict.p < 0.001 ? 'less than once in 1,000 times' : `about once in ${Math.round(1 / verdict.p)} times`}.`;
}
