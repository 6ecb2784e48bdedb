import { randomUUID } from 'node:crypto';
import type { NetworkTemplate } from './world-state.ts';

/** How long a review takes. */
export const REVIEW_MS = 1200;
/** What makes a message one that wants to sell, whatever it calls itself. */
const SELLING = /\b(sale|discount|offer|% off|half price|buy now|free gift|voucher)\b/i;
const MOST = { heading: 60, text: 1024, closing: 60, button: 20, buttons: 3 };
export const FIELD = /\{\{([^{}|]+)\}\}/g;

export const fieldsOf = (text: string): string[] => [
  ...new Set([...text.matchAll(FIELD)].map(([, name]) => name!.trim())),
];

/** A template as it is handed in; why it cannot even be looked at, or null. */
export function readTemplate(body: Record<string, unknown>): NetworkTemplate | string {
  const text = (key: string) => (typeof body[key] === 'string' ? (body[key] as string).trim() : '');
  const buttons = Array.isArray(body.buttons) ? body.buttons.map(String) : [];
  const samples = (typeof body.samples === 'object' && body.samples ? body.samples : {}) as Record<string, string>;
  if (text('kind') !== 'promotion' && text('kind') !== 'service') return 'The kind is promotion or service.';
  if (text('text') === '') return 'A template needs a text.';
  for (const part of ['heading', 'text', 'closing'] as const)
    if (text(part).length > MOST[part]) return `The ${part} may have ${MOST[part]} characters.`;
  if (buttons.length > MOST.buttons || buttons.some((button) => button === '' || button.length > MOST.button))
    return `There may be ${MOST.buttons} buttons of ${MOST.button} characters.`;
  return {
    id: `tpl-${randomUUID().slice(0, 12)}`,
    name: text('name').slice(0, 200),
    kind: text('kind') as NetworkTemplate['kind'],
    ...{ heading: text('heading'), text: text('text'), closing: text('closing'), buttons, samples },
    form: body.form === true,
    state: 'waiting',
    reason: '',
    at: new Date().toISOString(),
  };
}

/** What the reviewer finds; empty when it is approved. */
export function reviewOf({ kind, heading, text, closing, samples }: NetworkTemplate): string {
  const missing = fieldsOf(text).find((name) => !samples[name]?.trim());
  if (missing) return `The field ${missing} has no sample.`;
  if (/^\s*\{\{/.test(text) || /\}\}\s*$/.test(text)) return 'The text begins or ends with a field.';
  if (kind === 'service' && SELLING.test(`${heading} ${text} ${closing}`))
    return 'It wants to sell something: hand it in as a promotion.';
  return '';
}
