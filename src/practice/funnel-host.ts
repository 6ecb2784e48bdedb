import { randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { hasKey, readJson, reply } from './http.ts';
import type { Subscribers } from './subscribers.ts';
import type { World } from './world.ts';
import type { Push } from './world-state.ts';

export interface FunnelStep {
  id: string;
  name: string;
  /** Where visitors see it. */
  address: string;
  live: boolean;
}
export interface Funnel {
  id: string;
  name: string;
  steps: FunnelStep[];
}

const THEMES = ['Scales', 'Sight reading', 'Rhythm', 'Recital', 'Chamber', 'Choir', 'Ear training', 'Harmony'];
const FORMS = ['guide', 'checklist', 'mini course', 'planner', 'masterclass', 'worksheet', 'challenge', 'sampler'];
const SEASONS = ['spring', 'summer', 'autumn', 'winter', 'new year', 'school start', 'exam'];

const number = (n: number) => String(n).padStart(4, '0');
const steps = (slug: string, first: number, names: string[], live: boolean): FunnelStep[] =>
  names.map((name, i) => {
    const id = `step-${number(first + i)}`;
    return { id, name, address: `https://pages.wrenfield.example/${slug}/${id}`, live };
  });

/** 400 funnels, as a host has them after some years: one in use, the rest drafts and old campaigns. */
export const FUNNELS: Funnel[] = [
  {
    id: 'funnel-0001',
    name: 'Practice planner',
    steps: steps('practice-planner', 1, ['Opt-in page', 'Thank-you page', 'Starter kit offer'], true),
  },
  ...Array.from({ length: 399 }, (_, i) => {
    const theme = THEMES[i % THEMES.length]!;
    const form = FORMS[Math.floor(i / THEMES.length) % FORMS.length]!;
    const season = SEASONS[Math.floor(i / 64) % SEASONS.length]!;
    const slug = `${theme}-${form}-${season}`.toLowerCase().replaceAll(' ', '-');
    return {
      id: `funnel-${number(i + 2)}`,
      name: `${theme} ${form}, ${season}`,
      steps: steps(slug, 4 + i * 2, ['Opt-in page', 'Thank-you page'], i % 5 === 0),
    };
  }),
];

const PAGE = 40;

/** The funnel host: pages where visitors opt in and buy. Its API is in docs/gateways.md. */
export class FunnelDesk {
  constructor(
    private readonly world: World,
    private readonly subscribers: Subscribers,
    private readonly token: string,
  ) {}

  async take(path: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (this.world.state.trouble.funnelsDown) {
      request.socket.destroy();
      return;
    }
    if (!hasKey(request, response, this.token)) return;
    const url = new URL(path, 'http://desk');
    if (url.pathname === '/steps' && request.method === 'GET') {
      const search = (url.searchParams.get('search') ?? '').toLowerCase();
      const found = FUNNELS.filter((funnel) => funnel.name.toLowerCase().includes(search));
      const from = Number(url.searchParams.get('after') ?? 0);
      return reply(response, 200, {
        steps: found
          .slice(from, from + PAGE)
          .flatMap(({ id, name, steps }) => steps.map((step) => ({ ...step, funnel: { id, name } }))),
        next: from + PAGE < found.length ? String(from + PAGE) : null,
      });
    }
    const match = /^\/steps\/([\w-]+)(\/subscriptions)?$/.exec(url.pathname);
    const found = match && stepById(match[1]!);
    if (!found) return reply(response, 404, { code: 'not-here', detail: 'There is no such step.' });
    if (!match[2])
      return reply(response, 200, { ...found.step, funnel: { id: found.funnel.id, name: found.funnel.name } });
    const body = await readJson(request);
    const made = this.subscribers.add('funnels', [`step:${found.step.id}`], body.events, body.url, body.secret);
    if (!made) return reply(response, 422, { code: 'shape', detail: 'A url and a secret are needed.' });
    reply(response, 201, { id: made.id });
  }

  /** A visitor leaves their details on a page, or buys there. */
  visit(stepId: string, person: Record<string, string>, buys: boolean): Promise<Push[]> {
    const { step, funnel } = stepById(stepId)!;
    const event = buys ? 'purchase' : 'opt-in';
    const id = randomUUID();
    const lines = [
      { product: 'Starter kit: planner, metronome and pencil', quantity: 1, price: '24.00' },
      { product: 'Extra planner pad', quantity: 2, price: '6.50' },
    ];
    return this.subscribers.tell({
      service: 'funnels',
      topics: [`step:${step.id}`],
      event,
      eventId: id,
      subject: `${funnel.name}, ${event}`,
      value: {
        type: `funnel.${event}`,
        id,
        at: new Date().toISOString(),
        funnel: { id: funnel.id, name: funnel.name },
        step: { id: step.id, name: step.name },
        visit: {
          address: `${step.address}?utm_source=newsletter&utm_medium=email&utm_campaign=practice-planner`,
          referrer: 'https://news.wrenfield.example/october',
        },
        person,
        ...(buys ? { order: { id: `fo-${id.slice(0, 8)}`, currency: 'GBP', total: '37.00', lines } } : {}),
      },
    });
  }
}

function stepById(id: string): { funnel: Funnel; step: FunnelStep } | null {
  for (const funnel of FUNNELS) {
    const step = funnel.steps.find((step) => step.id === id);
    if (step) return { funnel, step };
  }
  return null;
}
