import { retryAfterMs } from '../../core/delivery/retry-after.ts';
import { storableText } from '../../core/fields/field.ts';
import { writeReference } from '../../core/template/field-reference.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { ServiceRequest } from './definition.ts';

/** The value at a path of a JSON answer, as text; empty when there is none. */
function valueAt(body: unknown, path: string): string {
  let at = body;
  for (const part of path.split('.')) {
    if (typeof at !== 'object' || at === null || !Object.hasOwn(at, part)) return '';
    at = (at as Record<string, unknown>)[part];
  }
  return storableText(typeof at === 'string' ? at : at === null || at === undefined ? '' : JSON.stringify(at)).slice(
    0,
    20_000,
  );
}

export const serviceCall: StepPerformer = {
  async call(outside, what, { key }) {
    const request = what as ServiceRequest;
    const outcome = await outside.http.call(
      request.method,
      request.address,
      { 'idempotency-key': key, ...request.headers },
      request.body ?? undefined,
    );
    if (!outcome.ok)
      return /inside|refused|bad-address/.test(outcome.code)
        ? { kind: 'refused', code: outcome.code, detail: outcome.detail }
        : { kind: 'again', code: outcome.code, detail: outcome.detail, afterMs: null };
    const { reply } = outcome;
    const said = `Answered ${reply.status}`;
    if (reply.status === 408 || reply.status === 425 || reply.status === 429 || reply.status >= 500)
      return {
        kind: 'again',
        code: String(reply.status),
        detail: said,
        afterMs: retryAfterMs(reply.retryAfter, outside.now()),
      };
    if (reply.status >= 300)
      return {
        kind: 'refused',
        code: String(reply.status),
        detail: `${said}: ${storableText(reply.body).slice(0, 200)}`,
      };
    let body: unknown = null;
    try {
      body = JSON.parse(reply.body);
    } catch {
      if (request.keep.length > 0)
        return {
          kind: 'refused',
          code: 'not-json',
          detail: `${said}, but the answer is not JSON: nothing can be kept of it.`,
        };
    }
    return {
      kind: 'accepted',
      code: String(reply.status),
      detail: said,
      told: storableText(reply.body).slice(0, 500),
      results: request.keep.map(({ reference, path }) => ({
        reference: writeReference({ group: 'found', key: reference }),
        value: valueAt(body, path),
      })),
    };
  },
};
