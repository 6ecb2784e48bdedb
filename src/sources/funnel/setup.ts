import { z } from 'zod';
import type { ServiceAccount, ServiceCaller } from '../../gateways/service.ts';
import { type SourceSetup, trouble } from '../source-module.ts';
import { type Hook, subscribe } from '../subscribe.ts';
import { FUNNEL_EVENTS, type FunnelSettings } from './definition.ts';

const WHAT = 'The funnel host';
const Step = z.object({ id: z.string(), name: z.string(), address: z.string(), live: z.boolean() });
const Funnels = z.object({
  funnels: z.array(z.object({ id: z.string(), name: z.string(), steps: z.array(Step) })),
  next: z.string().nullable(),
});
const OneStep = Step.extend({ funnel: z.object({ id: z.string(), name: z.string() }) });

const Input = z.object({
  connectionId: z.uuid('Choose a connection'),
  /** A step's ID, or the address of its page. */
  step: z.string().trim().min(1, 'Choose a page, or paste its ID or address').max(2000),
  events: z.array(z.enum(FUNNEL_EVENTS)).min(1, 'Choose at least one of opt-in and purchase'),
});
type Input = z.infer<typeof Input>;

const GONE = trouble('This connection is not there any more. Choose another.');

/** The ID of a step out of what was pasted: the ID itself, or the address of its page, with or without anything after it. */
export function stepIdFrom(pasted: string): string | null {
  const text = pasted.trim();
  if (/^step-[\w-]{1,60}$/.test(text)) return text;
  const address = URL.canParse(text) ? text : URL.canParse(`https://${text}`) ? `https://${text}` : null;
  if (!address) return null;
  const parts = new URL(address).pathname.split('/');
  return parts.findLast((part) => /^step-[\w-]{1,60}$/.test(part)) ?? null;
}

/** Of every event: which of them count is decided here, so that a change of mind needs no new agreement. */
const listen = (services: ServiceCaller, account: ServiceAccount, stepId: string, hook: Hook) =>
  subscribe(services, WHAT, account, `/steps/${encodeURIComponent(stepId)}`, hook, { events: FUNNEL_EVENTS });

export const funnelSetup: SourceSetup<Input, FunnelSettings> = {
  input: Input,
  async choices(ports, ask) {
    const account = await ports.account(ask.connectionId);
    if (!account) return GONE;
    const query = new URLSearchParams({ search: ask.query, ...(ask.after === null ? {} : { after: ask.after }) });
    const page = await ports.services.ask(WHAT, account, 'GET', `/funnels?${query}`, undefined, (body) =>
      Funnels.parse(body),
    );
    if (!page.ok) return page;
    return {
      ok: true,
      next: page.value.next,
      choices: page.value.funnels.flatMap((funnel) =>
        funnel.steps.map((step) => ({ id: step.id, label: step.name, group: funnel.name, live: step.live })),
      ),
    };
  },
  async prepare(ports, input, hook) {
    const account = await ports.account(input.connectionId);
    if (!account) return GONE;
    const stepId = stepIdFrom(input.step);
    if (!stepId)
      return trouble('There is no page ID in what was pasted. It looks like step-0001 and stands in the page address.');
    const path = `/steps/${encodeURIComponent(stepId)}`;
    const step = await ports.services.ask(WHAT, account, 'GET', path, undefined, (body) => OneStep.parse(body));
    if (!step.ok) return step;
    const made = await listen(ports.services, account, stepId, hook);
    if (!made.ok) return made;
    const { name, funnel } = step.value;
    return {
      ok: true,
      name: `${funnel.name}: ${name}`.slice(0, 100),
      settings: {
        connectionId: input.connectionId,
        stepId,
        stepName: name,
        funnelName: funnel.name,
        events: input.events,
      },
    };
  },
  async repoint(ports, settings, hook) {
    const account = await ports.account(settings.connectionId);
    if (!account) return GONE;
    const made = await listen(ports.services, account, settings.stepId, hook);
    return made.ok ? { ok: true, settings } : made;
  },
};
