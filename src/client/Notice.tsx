import type { Told } from './use-action.ts';

/** What came of something: read out at once where it went wrong, when there is time where it went well. */
export function Notice({ told, className = '' }: { told: Pick<Told, 'text' | 'good'> | null; className?: string }) {
  if (!told) return null;
  return (
    <p className={`notice ${told.good ? 'good' : 'bad'} ${className}`} role={told.good ? 'status' : 'alert'}>
      {told.text}
    </p>
  );
}

/** The same in a line, beside the button it belongs to. */
export function ToldLine({ told, className = '' }: { told: Pick<Told, 'text' | 'good'> | null; className?: string }) {
  if (!told) return null;
  return (
    <p
      className={`text-note ${told.good ? 'text-success' : 'text-error'} ${className}`}
      role={told.good ? 'status' : 'alert'}
    >
      {told.text}
    </p>
  );
}
