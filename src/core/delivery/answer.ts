import { retryAfterMs } from './retry-after.ts';

/** What the outside world answered, sorted by the protocol's own rules. Times in milliseconds. */
export type Answer =
  | {
      kind: 'accepted';
      code: string;
      detail: string;
      remoteId: string | null;
      /** What the other side calls each part, where it was handed over in parts it reports on. */
      remoteIds?: string[];
    }
  | { kind: 'again'; code: string; detail: string; afterMs: number | null }
  | { kind: 'refused'; code: string; detail: string }
  /** It may have been done or not, and doing it again might do it twice: a person decides, or whoever can be asked. */
  | { kind: 'unsure'; code: string; detail: string };

/**
 * Sorts an HTTP answer (RFC 9110 §15): 2xx accepted; 408, 425, 429 and 5xx may be tried again, with Retry-After (§10.2.3)
 * where it is given; everything else is final. `now` in milliseconds since 1970.
 */
export function sortHttpAnswer(
  status: number,
  told: { detail: string; remoteId?: string | null; retryAfter?: string | null },
  now: number,
): Answer {
  const code = `http-${status}`;
  if (status >= 200 && status < 300)
    return { kind: 'accepted', code, detail: told.detail, remoteId: told.remoteId ?? null };
  if (status === 408 || status === 425 || status === 429 || status >= 500)
    return { kind: 'again', code, detail: told.detail, afterMs: retryAfterMs(told.retryAfter ?? null, now) };
  return { kind: 'refused', code, detail: told.detail };
}

/** Sorts an SMTP reply code (RFC 5321 §4.2.1): 2yz accepted, 4yz try again, 5yz final. */
export function sortSmtpReply(replyCode: number, detail: string): Answer {
  const code = `smtp-${replyCode}`;
  if (replyCode >= 200 && replyCode < 300) return { kind: 'accepted', code, detail, remoteId: null };
  if (replyCode >= 500 && replyCode < 600) return { kind: 'refused', code, detail };
  return { kind: 'again', code, detail, afterMs: null };
}

/** A connection that broke, never opened or took too long says nothing about the message: try again. */
export const noAnswer = (code: string, detail: string): Answer => ({ kind: 'again', code, detail, afterMs: null });
