import { z } from 'zod';
import type { ServiceAccount, ServiceCaller } from '../gateways/service.ts';

/** Where a service tells us of what happens, and what it signs it with. */
export interface Hook {
  address: string;
  secret: string;
}

/** From now on the service (`what`, as it is told of) pushes to the hook; `path` and `more` say what. Gives the id of the agreement. */
export const subscribe = (
  services: ServiceCaller,
  what: string,
  account: ServiceAccount,
  path: string,
  hook: Hook,
  more: object = {},
) =>
  services.ask(
    what,
    account,
    'POST',
    `${path}/subscriptions`,
    { url: hook.address, secret: hook.secret, ...more },
    (body) => z.object({ id: z.string() }).parse(body).id,
  );
