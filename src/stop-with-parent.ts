/**
 * Calls `stop` when the process that started this one is gone, however it went: its end of our standard input closes with it.
 * Only when it asked for that by PINEBELL_STOP_WITH_PARENT.
 */
export function stopWithParent(stop: () => void): void {
  if (process.env.PINEBELL_STOP_WITH_PARENT !== '1') return;
  process.stdin.on('end', stop);
  process.stdin.on('error', stop);
  process.stdin.resume();
}
