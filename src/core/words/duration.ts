/** A duration as the coordinator reads it: "640 ms", "1.4 s", "3 m 10 s", "2 h 5 m", "3 days". Input in milliseconds. */
export function durationWords(ms: number): string {
  if (ms < 950) return `${Math.max(1, Math.round(ms))} ms`;
  if (ms < 9950) return `${(ms / 1000).toFixed(1)} s`;
  const seconds = Math.round(ms / 1000);
  if (seconds < 60) return `${seconds} s`;
  const minutes = Math.floor(seconds / 60);
  if (minutes < 60) return seconds % 60 === 0 ? `${minutes} m` : `${minutes} m ${seconds % 60} s`;
  const hours = Math.floor(minutes / 60);
  if (hours < 48) return minutes % 60 === 0 ? `${hours} h` : `${hours} h ${minutes % 60} m`;
  return `${Math.round(hours / 24)} days`;
}

/** How good a first reply is: inside a minute, inside five, or later. The five minutes are common practice, no source. */
export function replySpeed(ms: number): 'good' | 'fair' | 'late' {
  return ms <= 60_000 ? 'good' : ms <= 5 * 60_000 ? 'fair' : 'late';
}
