import { z } from 'zod';
import { askService, hasCall } from '../ask-service.ts';
import { pageAsk, pageNext, type SourceSetup, trouble } from '../source-module.ts';
import { subscribe } from '../subscribe.ts';
import { FUNNEL_EVENTS, type FunnelSettings } from './definition.ts';

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

/** The name of a page as its host has it, out of what was pasted or chosen: of an address, the part that names it. */
const pageFrom = (pasted: string): string => {
  const id = stepIdFrom(pasted);
  if (id !== null) return id;
  const text = pasted.trim();
  if (URL.canParse(text)) return new URL(text).pathname.split('/').findLast(Boolean) ?? '';
  return /\s/.test(text) ? '' : text;
};

export const funnelSetup: SourceSetup<Input, FunnelSettings> = {
  input: Input,
  async choices(ports, ask) {
    const account = await ports.describedAccount(ask.connectionId);
    if (!account) return GONE;
    if (!hasCall(account, 'pages')) return { ok: true, next: null, choices: [] };
    const got = await askService(ports, account, 'pages', { search: ask.query, ...pageAsk(ask.after) });
    if (!got.ok) return got;
    return {
      ok: true,
      next: pageNext(got),
      choices: got.items.map(({ id, name, group, live }) => ({
        ...{ id: String(id), label: String(name || id), live: live !== 'false' },
        ...(group ? { group: String(group) } : {}),
      })),
    };
  },
  async prepare(ports, input, hook) {
    const account = await ports.describedAccount(input.connectionId);
    if (!account) return GONE;
    const page = pageFrom(input.step);
    if (page === '')
      return trouble('There is no page ID in what was pasted. It looks like step-0001 and stands in the page address.');
    const found = hasCall(account, 'page') ? await askService(ports, account, 'page', { page }) : null;
    if (found && !found.ok) return found;
    const made = await subscribe(ports, account, hook, { page, events: FUNNEL_EVENTS });
    if (!made.ok) return made;
    const stepName = String(found?.values.name || page);
    const funnelName = String(found?.values.group || account.who);
    return {
      ok: true,
      name: `${funnelName}: ${stepName}`.slice(0, 100),
      settings: {
        ...{ connectionId: input.connectionId, stepId: String(found?.values.id || page), stepName, funnelName },
        ...{ events: input.events, byHand: made.byHand },
      },
    };
  },
  async repoint(ports, settings, hook) {
    const account = await ports.describedAccount(settings.connectionId);
    if (!account) return GONE;
    const made = await subscribe(ports, account, hook, { page: settings.stepId, events: FUNNEL_EVENTS });
    return made.ok ? { ok: true, settings: { ...settings, byHand: made.byHand } } : made;
  },
};
