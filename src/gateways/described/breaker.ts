/** Failures in a row after which a service is left alone. Common practice, no source. */
const AFTER = 5;
/** How long it is left alone, milliseconds: twice as long each time it fails again, so long at most that a lead still hears back soon after. */
const FIRST_MS = 1000;
const LONGEST_MS = 15_000;

interface Circuit {
  failures: number;
  openUntil: number;
  /** One call goes through to see whether it is back. */
  trying: boolean;
}

/**
 * Leaves a service alone for a while that does not answer: a dead one would otherwise hold whoever calls it for as long as a call may take, each
 * time. One for each connection, in each process.
 */
export class Breaker {
  private readonly circuits = new Map<string, Circuit>();

  constructor(private readonly now: () => number) {}

  /** How long to leave it alone, in milliseconds; null when it may be called. Whoever may must `tell` what came of it. */
  shutFor(key: string): number | null {
    const circuit = this.circuits.get(key);
    if (!circuit || circuit.failures < AFTER) return null;
    const left = circuit.openUntil - this.now();
    if (left > 0) return left;
    if (circuit.trying) return FIRST_MS;
    circuit.trying = true;
    return null;
  }

  /** Whether it answered; what it answered is no matter. */
  tell(key: string, answered: boolean): void {
    if (answered) {
      this.circuits.delete(key);
      return;
    }
    const circuit = this.circuits.get(key) ?? { failures: 0, openUntil: 0, trying: false };
    circuit.failures += 1;
    circuit.trying = false;
    if (circuit.failures >= AFTER)
      circuit.openUntil = this.now() + Math.min(LONGEST_MS, FIRST_MS * 2 ** Math.min(10, circuit.failures - AFTER));
    this.circuits.set(key, circuit);
  }
}
