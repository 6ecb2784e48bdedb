import { monitorEventLoopDelay } from 'node:perf_hooks';
import { log } from './log.ts';

/** How often the parent asks, and how long it waits for an answer: scripts/start.mjs. */
const SLOW_MS = 1000;

/**
 * Answers whoever started this process when it asks whether we are still there. It asks from outside, because a process that is stuck cannot tell of
 * itself; what was slow without being stuck is told in the log.
 */
export function answerParent(): void {
  if (!process.send) return;
  process.on('message', (message) => {
    if (message === 'there?') process.send?.('here');
  });
  // What is asked of us does not keep us alive.
  process.channel?.unref();
  const delay = monitorEventLoopDelay({ resolution: 20 });
  delay.enable();
  setInterval(() => {
    const most = delay.max / 1e6;
    if (most > SLOW_MS) log.warn({ scope: 'process', ms: Math.round(most) }, 'stood still');
    delay.reset();
  }, 10_000).unref();
}

/** Asks whoever started this process for the practice desk, or says that it is wanted no more. Nothing comes back: it answers at its address once it is up. */
export function askForPractice(wanted: boolean): void {
  process.send?.(wanted ? 'practice' : 'practice over');
}
