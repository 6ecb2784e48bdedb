import type { ReadValues } from '../core/described/read.ts';
import type { DescribedAccount } from '../gateways/described/described-caller.ts';
import { type SourcePorts, type Trouble, trouble } from './source-module.ts';

/** What a described service gave. */
export interface Given {
  ok: true;
  values: ReadValues;
  items: ReadValues[];
  /** Of the whole answer, beside the list. */
  besides: ReadValues;
  /** What the next page is asked with; null at the end. */
  next: Record<string, string> | null;
}

const sentence = (text: string): string => (/[.!?]$/.test(text) ? text : `${text}.`);

/** Asks a service by its description, and says what went wrong in the words of whoever sets a source up. */
export async function askService(
  ports: SourcePorts,
  account: DescribedAccount,
  call: string,
  given: Record<string, unknown>,
): Promise<Given | Trouble> {
  const { answer, values, items, besides, next, data } = await ports.described.call(account, call, given);
  const { who } = account;
  if (answer.kind !== 'accepted') {
    const { code, detail } = answer;
    const wait = answer.kind === 'again' ? answer.afterMs : null;
    if (['http-401', 'http-403', 'key'].includes(code))
      return trouble(`${who} does not accept the key of this connection. Put a new one in under Connections.`);
    if (code === 'http-404') return trouble(`${who} does not know this any more: it has been removed there.`);
    if (code === 'http-429') return { ...trouble(`${who} asks us to come back later.`), retryAfterMs: wait };
    const reached = code.startsWith('http-') || detail.startsWith(who) || code === 'no-call' || code === 'request';
    return {
      ...trouble(reached ? sentence(detail) : `${who} cannot be reached. ${sentence(detail)}`),
      retryAfterMs: wait,
    };
  }
  if (data && !data.ok) return trouble(`${who} answered something that is not understood.`);
  return { ok: true, values, items, besides, next };
}

/** Whether a description has a call of that name. */
export const hasCall = ({ description }: DescribedAccount, call: string): boolean =>
  Object.hasOwn(description.calls, call);
