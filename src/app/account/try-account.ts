import { z } from 'zod';
import type { ConnectionKind, ConnectionSettings } from '../../db/entities/connection.ts';
import { Refusal } from '../refusal.ts';
import type { Use } from '../use.ts';

/** How each kind of service is spoken of. */
const WHAT: Record<ConnectionKind, string> = {
  text_carrier: 'The carrier',
  mail_server: 'The mail server',
  ad_platform: 'The ad platform',
  funnel_host: 'The funnel host',
  shop: 'The shop',
  booking_calendar: 'The booking calendar',
  company_directory: 'The company directory',
  chat_network: 'The chat network',
};

/** `GET {address}/account` of docs/gateways.md: whose account the key opens, and what is in it. */
const Account = z.object({
  account: z.object({ name: z.string().max(200), holds: z.string().max(200).default('') }),
});

/**
 * Goes to a service with its key before anything is built on it.
 *
 * @returns what was found there, in words: "It lets us in: Wrenfield Music School, 4 forms."
 * @throws Refusal 422 `key` when the key is not accepted; 502 `not-tried` when that cannot be told just now.
 */
export async function tryAccount(
  use: Use,
  kind: ConnectionKind,
  settings: ConnectionSettings,
  secret: string | null,
): Promise<string> {
  const what = WHAT[kind];
  const refused = (problem: string) =>
    new Refusal(422, 'key', `${problem} Look at the address and the key, and try again.`);
  const untried = (problem: string) => new Refusal(502, 'not-tried', problem);
  if (kind === 'mail_server') {
    const { address, user } = settings;
    const answer = await use.runtime.outside.mail.lookIn({ address, user: user ?? null, password: secret });
    if (answer.ok) return `It lets us in${user ? ` as ${user}` : ' without a password'}.`;
    throw answer.refused
      ? refused(`${what} says no: ${answer.detail}.`)
      : untried(`${what} cannot be reached: ${answer.detail}.`);
  }
  const { services } = use.runtime.sourcePorts.of(use.actor.businessId, use.actor.businessName);
  const account = { address: settings.address, token: secret };
  const found = await services.ask(what, account, 'GET', '/account', undefined, (body) => Account.parse(body).account);
  if (found.ok) return `It lets us in: ${[found.value.name, found.value.holds].filter(Boolean).join(', ')}.`;
  if (found.why === 'key') throw refused(`${what} does not accept this key.`);
  if (found.why === 'not_there')
    throw untried(`${what} answers, but has no account at this address. Look at the address once more.`);
  throw untried(found.problem);
}
