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

  /** The newest entry held and the cursor behind it. */
  newest: (services: ServiceCaller, account: ServiceAccount, formId: string) =>
    services.ask(WHAT, account, 'GET', `/forms/${encodeURIComponent(formId)}/entries?newest=1`, undefined, (body) =>
      Entries.parse(body),
    ),
};
