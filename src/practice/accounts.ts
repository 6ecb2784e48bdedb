import type { IncomingMessage, ServerResponse } from 'node:http';
import { CALENDARS } from './booking-calendar.ts';
import { COMPANIES } from './company-directory.ts';
import { FUNNELS } from './funnel-host.ts';
import { reply } from './http.ts';
import { GOODS } from './shop.ts';
import type { World } from './world.ts';

const SCHOOL = 'Wrenfield Music School';

/** What each service says of an account, by the first part of its address. */
const HOLDS: Record<string, (world: World, key: string) => { name: string; holds: string; down?: boolean }> = {
  carrier: ({ state }) => ({ name: SCHOOL, holds: 'sends to phones', down: state.trouble.carrierDown }),
  chat: ({ state }) => ({
    name: SCHOOL,
    holds: `${state.chatTemplates.length} templates`,
    down: state.trouble.chatDown,
  }),
  ads: ({ state }, key) => {
    const account = key.endsWith('-adults') ? 'adults' : 'school';
    return {
      name: account === 'adults' ? `${SCHOOL}, evenings` : SCHOOL,
      holds: `${state.forms.filter((form) => form.account === account).length} forms`,
      down: state.trouble.adsDown,
    };
  },
  funnels: ({ state }) => ({
    name: SCHOOL,
    holds: `${FUNNELS.length} funnels`,
    down: state.trouble.funnelsDown,
  }),
  shop: () => ({ name: 'Wrenfield instruments', holds: `${GOODS.length} goods` }),
  calendar: () => ({ name: SCHOOL, holds: `${CALENDARS.length} calendars` }),
  directory: ({ state }) => ({
    name: SCHOOL,
    holds: `${COMPANIES.length} companies can be asked for`,
    down: state.trouble.directoryDown,
  }),
};

/** GET /SERVICE/account: whose account a key opens, and what is in it. False when the path is another. */
export function tellAccount(
  world: World,
  token: string,
  path: string,
  request: IncomingMessage,
  response: ServerResponse,
): boolean {
  const service = /^\/(\w+)\/account$/.exec(path)?.[1] ?? '';
  const holds = HOLDS[service];
  if (!holds || request.method !== 'GET') return false;
  const key = /^Bearer (.*)$/.exec(request.headers.authorization ?? '')?.[1] ?? '';
  const { down, ...account } = holds(world, key);
  if (down) request.socket.destroy();
  else if (key !== token && !(service === 'ads' && key === `${token}-adults`))
    reply(response, 401, { code: 'key', detail: 'The key of this account is not right.' });
  else reply(response, 200, { account });
  return true;
}
