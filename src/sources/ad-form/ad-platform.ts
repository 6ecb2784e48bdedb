import { z } from 'zod';
import type { ServiceAccount, ServiceCaller } from '../../gateways/service.ts';
import { type Hook, subscribe } from '../subscribe.ts';

const Forms = z.object({
  forms: z.array(
    z.object({
      id: z.string(),
      name: z.string(),
      page: z.object({ id: z.string(), name: z.string() }),
      live: z.boolean(),
    }),
  ),
});
export type PlatformForm = z.infer<typeof Forms>['forms'][number];
/** More than this counts as this many: it is only shown. */
const MOST_HELD = 1_000_000_000;
const Entries = z.object({
  entries: z.array(z.object({ id: z.string() }).loose()).max(1000),
  /** Where to go on; opaque. */
  cursor: z.string(),
  /** Everything held after the cursor that was asked with, what is given here included. */
  held: z.object({
    count: z
      .number()
      .int()
      .min(0)
      .transform((n) => Math.min(n, MOST_HELD)),
    firstExpiresAt: z.iso.datetime().nullable(),
  }),
});

const Costs = z.object({
  costs: z
    .array(
      z.object({
        day: z.iso.date(),
        campaign: z.string().max(500),
        adSet: z.string().max(500),
        ad: z.string().max(500),
        site: z.string().max(500).default(''),
        cost: z.number(),
        currency: z.string().max(10),
        impressions: z.number().nullable().default(null),
        clicks: z.number().nullable().default(null),
      }),
    )
    .max(5000),
  /** Where to go on; null at the end. */
  next: z.string().max(500).nullable(),
});

const WHAT = 'The ad platform';
const BATCH = 100;

/** An ad platform's API, written down in docs/gateways.md. */
export const adPlatform = {
  forms: (services: ServiceCaller, account: ServiceAccount) =>
    services.ask(WHAT, account, 'GET', '/forms', undefined, (body) => Forms.parse(body).forms),

  /** From now on every entry of the form, or of all the page's forms, is pushed to `hook.address`, signed with its secret. */
  subscribe: (services: ServiceCaller, account: ServiceAccount, to: { form: string } | { page: string }, hook: Hook) =>
    subscribe(
      services,
      WHAT,
      account,
      'form' in to ? `/forms/${encodeURIComponent(to.form)}` : `/pages/${encodeURIComponent(to.page)}`,
      hook,
    ),

  /** Entries held for a form after a cursor, oldest first; null begins with the oldest. */
  entries: (services: ServiceCaller, account: ServiceAccount, formId: string, after: string | null, limit = BATCH) =>
    services.ask(
      WHAT,
      account,
      'GET',
      `/forms/${encodeURIComponent(formId)}/entries?limit=${limit}${after === null ? '' : `&after=${encodeURIComponent(after)}`}`,
      undefined,
      (body) => Entries.parse(body),
    ),

  /** What the ads cost day by day, a page of it. Days are "YYYY-MM-DD", both counted. */
  costs: (
    services: ServiceCaller,
    account: ServiceAccount,
    { from, to, after }: { from: string; to: string; after: string | null },
  ) =>
    services.ask(
      WHAT,
      account,
      'GET',
      `/costs?from=${from}&to=${to}${after === null ? '' : `&after=${encodeURIComponent(after)}`}`,
      undefined,
      (body) => Costs.parse(body),
    ),

  /** The newest entry held and the cursor behind it. */
  newest: (services: ServiceCaller, account: ServiceAccount, formId: string) =>
    services.ask(WHAT, account, 'GET', `/forms/${encodeURIComponent(formId)}/entries?newest=1`, undefined, (body) =>
      Entries.parse(body),
    ),
};
