import type { DescribedAccount } from '../gateways/described/described-caller.ts';
import { askService, hasCall } from './ask-service.ts';
import type { SourcePorts, Trouble } from './source-module.ts';

/** Where a service tells us of what happens, and what it signs it with. */
export interface Hook {
  address: string;
  secret: string;
}

/**
 * From now on the service pushes to the hook; `more` says of what. Where its description has no such call, somebody enters the address there by hand:
 * the source's page shows it.
 */
export async function subscribe(
  ports: SourcePorts,
  account: DescribedAccount,
  hook: Hook,
  more: Record<string, unknown> = {},
  call = 'subscribe',
): Promise<{ ok: true; byHand: boolean } | Trouble> {
  if (!hasCall(account, call)) return { ok: true, byHand: true };
  const made = await askService(ports, account, call, { url: hook.address, secret: hook.secret, ...more });
  return made.ok ? { ok: true, byHand: false } : made;
}
