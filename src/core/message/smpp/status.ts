import type { Answer } from '../../delivery/answer.ts';

/** What the command_status of an answer means (SMPP 3.4 §5.1.3), in words. */
const REFUSED: Record<number, string> = {
  1: 'The carrier finds the text too long.',
  10: 'The carrier does not accept this sender.',
  11: 'The carrier does not accept this number.',
  72: 'The carrier does not accept this kind of sender.',
  73: 'The carrier does not accept this kind of sender.',
  80: 'The carrier does not accept this kind of number.',
  81: 'The carrier does not accept this kind of number.',
  101: 'The carrier refuses it for good.',
  102: 'The carrier refuses this message.',
};
/** System error, queue full, throttled, temporary error at the receiver: after how many milliseconds to come again; null as ever. */
const AGAIN: Record<number, { detail: string; afterMs: number | null }> = {
  8: { detail: 'The carrier has an error of its own.', afterMs: null },
  20: { detail: 'The carrier’s queue is full.', afterMs: 5000 },
  69: { detail: 'The carrier could not take it.', afterMs: null },
  88: { detail: 'The carrier asks us to send more slowly.', afterMs: 2000 },
  100: { detail: 'The carrier asks us to try again.', afterMs: null },
};
const hex = (status: number) => `0x${status.toString(16).toUpperCase().padStart(8, '0')}`;

/** Sorts the answer to a text. What the standard leaves to each carrier (0x400 to 0x4FF) and what it does not know is final, and told by its number. */
export function sortSmppStatus(status: number, remoteId: string | null): Answer {
  const code = `smpp-${status}`;
  if (status === 0) return { kind: 'accepted', code, detail: 'Accepted by the carrier', remoteId };
  const again = AGAIN[status];
  if (again) return { kind: 'again', code, ...again };
  return { kind: 'refused', code, detail: `${REFUSED[status] ?? 'The carrier refused it.'} (${hex(status)})` };
}

/** What is wrong with a sign-in. `key`: not the right user or password, and trying again changes nothing. */
export interface BindTrouble {
  key: boolean;
  detail: string;
}
export function bindTrouble(status: number): BindTrouble {
  if (status === 0x0e) return { key: true, detail: 'The carrier does not accept the password.' };
  if (status === 0x0f) return { key: true, detail: 'The carrier does not know this user name.' };
  if (status === 0x05 || status === 0x0d)
    return {
      key: false,
      detail: `The carrier did not let us in (${hex(status)}). It may allow too few sessions at a time, or expect us from another address.`,
    };
  return { key: false, detail: `The carrier did not let us in (${hex(status)}).` };
}
