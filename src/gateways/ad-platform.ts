import { z } from 'zod';
import type { HttpCaller } from './http.ts';

export interface AdAccount {
  address: string;
  token: string | null;
}

const Forms = z.object({
  forms: z.array(z.object({ id: z.string(), name: z.string(), page: z.string(), live: z.boolean() })),
});
export type AdFormEntry = z.infer<typeof Forms>['forms'][number];
const Subscription = z.object({ id: z.string() });

export type AdPlatformResult<T> = { ok: true; value: T } | { ok: false; problem: string };

/** Asks an ad platform for its forms and to push a form's entries to us; its API is written down in docs/gateways.md. */
export class AdPlatform {
  constructor(private readonly http: HttpCaller) {}

  listForms(account: AdAccount): Promise<AdPlatformResult<AdFormEntry[]>> {
    return this.ask(account, 'GET', '/forms', undefined, (body) => Forms.parse(body).forms);
  }

  /** The platform will push each entry of the form to `url`, signed with `secret`. Gives the subscription's id. */
  subscribe(account: AdAccount, formId: string, url: string, secret: string): Promise<AdPlatformResult<string>> {
    return this.ask(
      account,
      'POST',
      `/forms/${encodeURIComponent(formId)}/subscriptions`,
      { url, secret },
      (body) => Subscription.parse(body).id,
    );
  }

  private async ask<T>(
    account: AdAccount,
    method: 'GET' | 'POST',
    path: string,
    body: unknown,
    read: (body: unknown) => T,
  ): Promise<AdPlatformResult<T>> {
    const headers: Record<string, string> = { accept: 'application/json', 'content-type': 'application/json' };
    if (account.token) headers.authorization = `Bearer ${account.token}`;
    const outcome = await this.http.call(
      method,
      account.address.replace(/\/$/, '') + path,
      headers,
      body === undefined ? undefined : JSON.stringify(body),
    );
    if (!outcome.ok) return { ok: false, problem: outcome.detail };
    if (outcome.reply.status === 401 || outcome.reply.status === 403)
      return { ok: false, problem: 'The ad platform does not accept the key of this connection.' };
    if (outcome.reply.status >= 300) return { ok: false, problem: `The ad platform answered ${outcome.reply.status}.` };
    try {
      return { ok: true, value: read(JSON.parse(outcome.reply.body)) };
    } catch {
      return { ok: false, problem: 'The ad platform answered something that is not understood.' };
    }
  }
}
