import type { ReadValues } from '../../core/described/read.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';

/**
 * Has the business's chat network do something, by the name of the call.
 *
 * @throws Refusal 409 `no-network` when none is connected, 502 `network` when it does not do it
 */
export async function askNetwork(use: Use, call: string, given: Record<string, unknown>): Promise<ReadValues> {
  const { catalogue, accounts } = await use.runtime.settingsCache.provisionsOf(use.actor.businessId);
  const found = catalogue.chat ? accounts.get(catalogue.chat.connectionId) : undefined;
  if (found?.kind !== 'chat')
    throw new Refusal(409, 'no-network', 'No chat network is connected yet. Connect one under Connections.');
  const { answer, values } = await use.runtime.outside.services.call(found.service, call, given);
  if (answer.kind !== 'accepted')
    throw new Refusal(502, 'network', /[.!?]$/.test(answer.detail) ? answer.detail : `${answer.detail}.`);
  return values;
}

/** The same, for what the network gives a name of its own. */
export async function handIn(use: Use, call: string, given: Record<string, unknown>): Promise<string> {
  const { id } = await askNetwork(use, call, given);
  if (typeof id !== 'string' || id === '' || id.length > 200)
    throw new Refusal(502, 'network', 'The chat network took it and gave it no name, so it cannot be used.');
  return id;
}
