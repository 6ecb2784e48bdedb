import type { IncomingMessage, ServerResponse } from 'node:http';
import { hasKey, reply } from './http.ts';
import type { World } from './world.ts';

/** Firms whose choirs rent a room and a leader at Wrenfield; all invented, on domains set aside for examples. */
export const COMPANIES = [
  {
    domain: 'harrow-mills.example',
    name: 'Harrow Mills',
    sector: 'Textiles',
    town: 'Bath',
    country: 'GB',
    employees: 140,
  },
  {
    domain: 'northquay.example',
    name: 'Northquay Insurance',
    sector: 'Insurance',
    town: 'Bristol',
    country: 'GB',
    employees: 620,
  },
  {
    domain: 'brindle-fox.example',
    name: 'Brindle & Fox',
    sector: 'Architecture',
    town: 'Frome',
    country: 'GB',
    employees: 35,
  },
  {
    domain: 'saltmarsh-energy.example',
    name: 'Saltmarsh Energy',
    sector: 'Energy',
    town: 'Cardiff',
    country: 'GB',
    employees: 2100,
  },
];

/** The company directory: who is behind a mail domain. Its API is in docs/gateways.md. */
export class DirectoryDesk {
  constructor(
    private readonly world: World,
    private readonly token: string,
  ) {}

  async take(address: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (!hasKey(request, response, this.token)) return;
    if (this.world.state.trouble.directoryDown)
      return reply(
        response,
        503,
        { code: 'down', detail: 'The directory is being looked after.' },
        { 'retry-after': '30' },
      );
    const url = new URL(address, 'http://directory');
    if (url.pathname !== '/companies' || request.method !== 'GET')
      return reply(response, 404, { code: 'not-here', detail: 'There is nothing here.' });
    const domain = url.searchParams.get('domain')?.toLowerCase() ?? '';
    reply(response, 200, { company: COMPANIES.find((company) => company.domain === domain) ?? null });
  }
}
