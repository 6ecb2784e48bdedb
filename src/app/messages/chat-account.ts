import type { ServiceAccount } from '../../gateways/service.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';

/** The business's account at its chat network. */
export async function chatAccount(use: Use): Promise<ServiceAccount> {
  const { catalogue, accounts } = await use.runtime.settingsCache.provisionsOf(use.actor.businessId);
  const found = catalogue.chat ? accounts.get(catalogue.chat.connectionId) : undefined;
  if (!found || found.kind === 'email')
    throw new Refusal(409, 'no-network', 'No chat network is connected yet. Connect one under Connections.');
  return found;
}
