import { type Answer, noAnswer, sortHttpAnswer } from '../delivery/answer.ts';
import { retryAfterMs } from '../delivery/retry-after.ts';
import { storableText } from '../fields/field.ts';
import type { Call, OutcomeRule } from './description.ts';
import { valuesAt } from './paths.ts';
import { textAt } from './read.ts';
import type { Data, Reply } from './reply.ts';

/** Whether nothing comes of it when a call is done again: then what is not known is simply tried once more. */
export const mayRepeat = ({ again }: Pick<Call, 'again'>): boolean => again === 'by-key' || again === 'harmless';

/** Problems of the way there: nothing has reached the service, so nothing can be done twice. */
const NEVER_LEFT = new Set(['no-connection', 'no-such-host', 'connect-timeout', 'breaker', 'busy', 'token']);
/** What trying again does not mend. */
const FINAL = new Set(['address-refused', 'bad-address', 'request', 'key']);

/** A call that brought no answer. */
export function sortNoAnswer(
  call: Pick<Call, 'again'>,
  code: string,
  detail: string,
  afterMs: number | null = null,
): Answer {
  if (FINAL.has(code)) return { kind: 'refused', code, detail };
  if (NEVER_LEFT.has(code)) return { kind: 'again', code, detail, afterMs };
  return mayRepeat(call) ? noAnswer(code, detail) : { kind: 'unsure', code, detail };
}

const inRange = (status: number, written: string): boolean =>
  written.trim() === '' ||
  written.split(',').some((part) => {
    const [from = '', to = from] = part.split('-').map((one) => one.trim());
    return status >= Number(from) && status <= Number(to);
  });

function fits(rule: OutcomeRule, status: number, data: Data): boolean {
  if (!inRange(status, rule.status)) return false;
  if (rule.path === '') return true;
  if (!data.ok) return false;
  const found = valuesAt(rule.path, data.value).filter((one) => one !== null && one !== undefined && one !== '');
  return rule.is.length === 0 ? found.length > 0 : found.some((one) => rule.is.includes(String(one)));
}

/** What an answer means: the first of the call's rules that fits, and HTTP's own meaning where none does. `who`: "The carrier". `now` in milliseconds. */
export function sortReply(
  call: Call,
  reply: Pick<Reply, 'status' | 'headers'>,
  data: Data,
  who: string,
  now: number,
): Answer {
  const { status, headers } = reply;
  const said = data.ok ? call.reason.map((path) => textAt(path, data.value)).find((one) => one !== '') : undefined;
  const detail = said
    ? storableText(said).slice(0, 500)
    : `${who} answered ${status}${data.ok || status >= 300 ? '' : `. ${data.problem}`}`;
  const code = `http-${status}`;
  const rule = call.outcomes.find((one) => fits(one, status, data));
  const afterMs = retryAfterMs(headers['retry-after'] ?? null, now);
  // The meaning may stand in the body, and the body cannot be read: a yes is no yes yet.
  const inBody = call.outcomes.some(({ path }) => path !== '');
  const means = rule?.means ?? (status < 300 && !data.ok && inBody ? (mayRepeat(call) ? 'again' : 'unsure') : null);
  switch (means) {
    case 'done':
      return { kind: 'accepted', code, detail: `Accepted by ${small(who)}`, remoteId: idOf(call, data) };
    case 'again':
      return { kind: 'again', code: rule?.code || code, detail, afterMs };
    case 'final':
      return { kind: 'refused', code: rule?.code || code, detail };
    case 'unsure':
      return { kind: 'unsure', code: rule?.code || code, detail };
    case null:
      break;
  }
  if (status >= 200 && status < 300)
    return { kind: 'accepted', code, detail: `Accepted by ${small(who)}`, remoteId: idOf(call, data) };
  // A server that fails over a request may have done it before it failed: RFC 9110 §9.2.2.
  if (status >= 500 && status !== 503 && !mayRepeat(call)) return { kind: 'unsure', code, detail };
  return sortHttpAnswer(status, { detail, retryAfter: headers['retry-after'] ?? null }, now);
}

const idOf = (call: Call, data: Data): string | null => {
  const path = call.reads.id?.path;
  return (data.ok && path && textAt(path, data.value).slice(0, 300)) || null;
};
const small = (who: string) => who.charAt(0).toLowerCase() + who.slice(1);
