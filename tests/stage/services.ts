import { SHIPPED } from '../../src/core/described/shipped/registry.ts';
import { WHO } from '../../src/core/described/who.ts';
import { type DescribedAccount, DescribedCaller } from '../../src/gateways/described/described-caller.ts';
import type { HttpCaller, HttpOutcome } from '../../src/gateways/http.ts';

/** A text carrier as it ships, at an address. */
export const carrierAt = (address: string, key = ''): DescribedAccount => ({
  connectionId: 'carrier',
  who: WHO.text_carrier,
  description: SHIPPED.text_carrier,
  values: { address, key },
});

/** Services whose calls come to a function instead of the network. */
export const servicesBy = (call: HttpCaller['call'], now = () => 0): DescribedCaller =>
  new DescribedCaller({ http: { call }, now });

export const replied = (status: number, body: string, headers: Record<string, string> = {}): HttpOutcome => ({
  ok: true,
  reply: { status, retryAfter: headers['retry-after'] ?? null, headers, body, bytes: Buffer.from(body), cut: false },
});
