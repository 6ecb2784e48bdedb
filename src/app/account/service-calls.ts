import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import type { Description } from '../../core/described/description.ts';
import type { MadeRequest } from '../../core/described/request.ts';
import { shippedFor } from '../../core/described/shipped/registry.ts';
import { isDescribed } from '../../core/described/works.ts';
import { describedAccount } from '../../db/described-account.ts';
import { Connection } from '../../db/entities/connection.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';
import { type ConnectionView, viewOf } from './connections.ts';

export const TryCall = z.object({
  call: z.string().max(40),
  /** What the call is given, by name; lists and fields as JSON. */
  given: z.record(z.string().max(40), z.string().max(20_000)),
  /** Only shows what would be sent. */
  dry: z.boolean(),
});

/** What one call sent and got, secrets hidden. */
export interface TriedCall {
  sent: MadeRequest | null;
  reply: { status: number; headers: Record<string, string>; body: string } | null;
  /** What it means to us, in words. */
  outcome: string;
  read: Record<string, string>;
  items: Record<string, string>[];
  /** What the next page would be asked with. */
  next: Record<string, string> | null;
  ms: number;
}

const OUTCOMES = {
  accepted: 'Done',
  again: 'Not now: it would be tried again',
  refused: 'Refused for good',
  unsure: 'Nobody can tell whether it was done',
} as const;

/** Makes one call of a described service for whoever sets it up, or shows what it would send. */
export async function tryCall(use: Use, id: string, { call, given, dry }: z.infer<typeof TryCall>): Promise<TriedCall> {
  demand(use.actor, 'keys');
  const found = await use.em.findOne(Connection, { id, business: use.actor.businessId });
  if (!found) throw notHere('connection');
  const { kind, name, settings } = found;
  const secret = found.secret ? use.runtime.secrets.open(found.secret) : null;
  // As one that is not known yet: a try is never told that the service is left alone for a moment.
  const service = isDescribed(kind) ? describedAccount({ id: uuidv7(), kind, name, settings, secret }) : null;
  if (!service) throw new Refusal(409, 'not-described', 'Nothing says how this service is called.');
  const account = { ...service, grantOf: id };
  const whole = Object.fromEntries(Object.entries(given).map(([key, text]) => [key, listOrText(text)]));
  const { services } = use.runtime.outside;
  if (dry) {
    const made = services.dry(account, call, whole);
    if (!made.ok) throw new Refusal(422, 'request', made.problem);
    return {
      sent: made.sent,
      reply: null,
      outcome: 'Not sent: this is what would be.',
      read: {},
      items: [],
      next: null,
      ms: 0,
    };
  }
  const { sent, reply, answer, values, items, next, ms } = await services.show(account, call, whole);
  await use.write(async (tx) => tx.note('connection.call', id, { call }));
  const detail = answer.kind === 'accepted' ? '' : `: ${answer.detail}`;
  return {
    ...{ sent, reply, next, ms },
    outcome: `${OUTCOMES[answer.kind]}${detail}`,
    read: texts(values),
    items: items.slice(0, 20).map(({ raw: _, ...values }) => texts(values)),
  };
}

const listOrText = (text: string): unknown => {
  if (!/^\s*[[{]/.test(text)) return text;
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
};
const texts = (values: Record<string, unknown>): Record<string, string> =>
  Object.fromEntries(
    Object.entries(values).map(([name, value]) => [
      name,
      typeof value === 'string' ? value : JSON.stringify(value ?? ''),
    ]),
  );

/** How a service has done in the last day and since when. */
export interface ServiceHealthView {
  lastOkAt: string | null;
  troubleSince: string | null;
  problem: string;
  /** Of the last 24 hours. Milliseconds. */
  calls: number;
  failed: number;
  meanMs: number | null;
  mostMs: number | null;
}

export interface ServiceView extends ConnectionView {
  description: Description | null;
  /** It is the one that ships with Pine Bell. */
  shipped: boolean;
  health: ServiceHealthView | null;
}

/** One connection with how it is called and how it does. */
export async function getService(use: Use, id: string): Promise<ServiceView> {
  const found = await use.em.findOne(Connection, { id, business: use.actor.businessId });
  if (!found) throw notHere('connection');
  const { settings, kind } = found;
  const description = settings.description ?? (isDescribed(kind) ? shippedFor(kind) : null);
  const { rows } = await use.db.query<{
    last_ok_at: Date | null;
    trouble_since: Date | null;
    problem: string;
    calls: number;
    failed: number;
    mean: number | null;
    most: number | null;
  }>(
    `select h.last_ok_at, h.trouble_since, h.problem, coalesce(sum(o.calls), 0)::int as calls, coalesce(sum(o.failed), 0)::int as failed,
       (sum(o.ms_total) / nullif(sum(o.calls), 0))::int as mean, max(o.ms_most) as most
     from connection_health h left join connection_hour o on o.connection_id = h.connection_id and o.hour > now() - interval '1 day'
     where h.connection_id = $1 and h.business_id = $2 group by h.connection_id`,
    [id, use.actor.businessId],
  );
  const row = rows[0];
  return {
    ...viewOf(use, found),
    description,
    shipped: settings.description === undefined,
    health: row
      ? {
          lastOkAt: row.last_ok_at?.toISOString() ?? null,
          troubleSince: row.trouble_since?.toISOString() ?? null,
          problem: row.problem,
          calls: row.calls,
          failed: row.failed,
          meanMs: row.mean,
          mostMs: row.most,
        }
      : null,
  };
}
