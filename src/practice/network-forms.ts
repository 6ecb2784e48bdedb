import { randomUUID } from 'node:crypto';
import type { NetworkForm } from './world-state.ts';

const MOST = { open: 20, heading: 60, screens: 6, fields: 8, thanks: 300 };
const KINDS = ['short', 'email', 'phone', 'choice', 'date', 'tick'];

const text = (value: unknown) => (typeof value === 'string' ? value.trim() : '');
const list = (value: unknown) => (Array.isArray(value) ? value : []) as Record<string, unknown>[];

/** A form as it is handed in; why it is not taken, or null. */
export function readForm(body: Record<string, unknown>): NetworkForm | string {
  const screens = list(body.screens).map((screen) => ({
    title: text(screen.title),
    fields: list(screen.fields).map((field) => ({
      key: text(field.key),
      label: text(field.label),
      kind: text(field.kind) as NetworkForm['screens'][number]['fields'][number]['kind'],
      required: field.required === true,
      help: text(field.help),
      choices: list(field.choices).map(String),
    })),
  }));
  const consent = body.consent as { text?: unknown; required?: unknown } | null | undefined;
  for (const part of ['open', 'heading', 'thanks'] as const) {
    if (text(body[part]) === '') return `A form needs "${part}".`;
    if (text(body[part]).length > MOST[part]) return `"${part}" may have ${MOST[part]} characters.`;
  }
  if (screens.length === 0 || screens.length > MOST.screens) return `A form has 1 to ${MOST.screens} screens.`;
  for (const { fields } of screens) {
    if (fields.length === 0 || fields.length > MOST.fields) return `A screen has 1 to ${MOST.fields} fields.`;
    for (const field of fields) {
      if (!/^[a-z][a-z0-9_]*$/.test(field.key) || field.label === '') return 'A field needs a key and a label.';
      if (!KINDS.includes(field.kind)) return `There are no fields of the kind "${field.kind}".`;
      if (field.kind === 'choice' && field.choices.length === 0) return `"${field.label}" has nothing to choose from.`;
    }
  }
  return {
    id: `form-${randomUUID().slice(0, 12)}`,
    name: text(body.name).slice(0, 200),
    heading: text(body.heading),
    open: text(body.open),
    thanks: text(body.thanks),
    screens,
    consent: consent ? { text: text(consent.text), required: consent.required === true } : null,
  };
}
