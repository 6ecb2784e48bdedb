import { durationWords, replySpeed } from '../core/words/duration.ts';

/** What a run's state means to the person. */
export function stateWords(
  state: string,
  outcome: string,
): { text: string; tone: '' | 'good' | 'warn' | 'bad' | 'slate' } {
  switch (state) {
    case 'needs_you':
      return { text: 'Needs you', tone: 'warn' };
    case 'done':
      return { text: 'Done', tone: 'good' };
    case 'active':
      return {
        text: /waiting for a reply$/i.test(outcome)
          ? 'Waiting for reply'
          : /waiting for/i.test(outcome)
            ? 'Waiting'
            : / is held/.test(outcome)
              ? 'Held'
              : outcome === ''
                ? 'Under way'
                : 'Trying again',
        tone: 'slate',
      };
    case 'known':
      return { text: 'Known, not repeated', tone: '' };
    case 'stopped':
      return { text: outcome || 'Stopped', tone: '' };
    default:
      return { text: 'Handled', tone: '' };
  }
}

export function StatePill({ state, outcome }: { state: string; outcome: string }) {
  const { text, tone } = stateWords(state, outcome);
  return (
    <span className={`pill block max-w-[60%] shrink-0 truncate ${tone}`} title={text}>
      {text}
    </span>
  );
}

const TONES = { good: 'text-success', fair: 'text-warning', late: 'text-error' };

/** Time to first reply, always with its unit. */
export function ReplyTime({ ms, className = '' }: { ms: number | null; className?: string }) {
  if (ms === null) return null;
  return <span className={`${TONES[replySpeed(ms)]} ${className}`}>{durationWords(ms)}</span>;
}
