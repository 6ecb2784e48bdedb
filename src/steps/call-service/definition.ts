import { z } from 'zod';
import { renderTemplate, templatePieces } from '../../core/template/template.ts';
import { machineScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';
import { wordOf } from '../kept-key.ts';

const Pair = z.object({ name: z.string().max(100), value: z.string().max(5000) });
const Settings = z.object({
  /** By which its answer is known to later steps. */
  name: z.string().max(40),
  /** What its fields are called by: made once and kept when the name changes. Empty in sheets of old, where the name says it. */
  key: z.string().max(60).default(''),
  method: z.enum(['GET', 'POST', 'PUT', 'DELETE']),
  address: z.string().max(2000),
  headers: z.array(Pair).max(20),
  body: z.enum(['none', 'json', 'form']),
  fields: z.array(Pair).max(60),
  /** What of a JSON answer is kept: a path like "company.name". */
  keep: z
    .array(z.object({ name: z.string().max(60), key: z.string().max(60).default(''), path: z.string().max(200) }))
    .max(20),
});
export type CallServiceSettings = z.infer<typeof Settings>;
export interface ServiceRequest {
  method: CallServiceSettings['method'];
  address: string;
  headers: Record<string, string>;
  body: string | null;
  keep: { reference: string; path: string }[];
}

/** What a field of the answer is called by. */
const keyOf = ({ key, name }: { key: string; name: string }) => key || wordOf(name) || 'answer';

/** A field's value as a JSON value: a number stays text, so that a phone number keeps its zero and its plus. */
const nested = (fields: { name: string; value: string }[]) => {
  const out: Record<string, unknown> = Object.create(null);
  for (const { name, value } of fields) {
    const path = name.split('.');
    let at = out;
    for (const part of path.slice(0, -1)) {
      if (typeof at[part] !== 'object') at[part] = Object.create(null);
      at = at[part] as Record<string, unknown>;
    }
    at[path.at(-1)!] = value;
  }
  return out;
};

const ofTheLead = (value: string) => (value.includes('{{') ? value : '');
/** An address without a sign-in, and of its query what comes from the lead. */
function openAddress(address: string): string {
  const [place = '', ...query] = address.replace(/\/\/[^/@{}]*@/, '//').split('?');
  const pairs = query
    .join('?')
    .split('&')
    .map((pair) => {
      const [name = '', ...value] = pair.split('=');
      return value.length === 0 || value.join('=').includes('{{') ? pair : `${name}=`;
    });
  return query.length === 0 ? place : `${place}?${pairs.join('&')}`;
}
const openHeader = ({ name, value }: { name: string; value: string }) =>
  /^(accept|accept-language|content-type)$/i.test(name.trim()) ? value : '';

/** An HTTP request to any service; what it answers can be used by later steps. */
export const callService: StepKind<CallServiceSettings> = {
  kind: 'call-service',
  label: 'Call a service',
  icon: 'globe',
  places: ['first', 'record', 'team'],
  settings: Settings,
  blank: () => ({ name: '', key: '', method: 'POST', address: '', headers: [], body: 'json', fields: [], keep: [] }),
  card: ({ name, method, address }) => ({
    title: name || 'Call a service',
    line: address ? `${method} ${address}` : '',
  }),
  aloud: ({ name, address }) => `call ${name || (URL.canParse(address) ? new URL(address).host : 'a service')}`,
  check: ({ address, keep, name }) => {
    const out: ReturnType<StepKind['check']> = [];
    if (!/^https?:\/\/[^\s{}]+/i.test(address.trim()))
      out.push({
        weight: 'must',
        code: 'address',
        text: 'Call a service: give its address, beginning with https://',
        field: 'address',
      });
    if (keep.length > 0 && name.trim() === '')
      out.push({ weight: 'must', code: 'empty', text: 'Call a service: give what it answers a name.', field: 'name' });
    return out;
  },
  templates: ({ address, headers, fields }) => [
    { field: 'address', source: address },
    ...headers.map((header, i) => ({ field: `headers.${i}`, source: header.value })),
    ...fields.map((field, i) => ({ field: `fields.${i}`, source: field.value })),
  ],
  // A key may stand in the address, in a header, in a field: only what comes from the lead goes along, and words nobody keeps to themselves.
  shared: (settings) => ({
    ...settings,
    address: openAddress(settings.address),
    headers: settings.headers.map((header) => ({ ...header, value: ofTheLead(header.value) || openHeader(header) })),
    fields: settings.fields.map((field) => ({
      ...field,
      value: /key|token|secret|pass|auth|sign/i.test(field.name) ? ofTheLead(field.value) : field.value,
    })),
  }),
  gives: (settings) =>
    settings.keep
      .filter((one) => one.name.trim() !== '')
      .map((one) => ({
        key: `${keyOf(settings)}.${keyOf(one)}`,
        label: `${settings.name || 'Answer'}: ${one.name}`,
      })),
  plan: (settings, { context, now }) => {
    const { method, address, headers, body, fields, keep } = settings;
    const scope = machineScope(context, now);
    let problem: string | null = null;
    const fill = (source: string) => {
      const rendered = renderTemplate(source, scope);
      if (!rendered.ok) problem = rendered.problem.text;
      return rendered.ok ? rendered.text : '';
    };
    // Values are put into an address percent-encoded, so that nothing a lead typed changes where it goes (WHATWG URL).
    const encoded = templatePieces(address.trim())
      .map((piece) => (piece.kind === 'text' ? piece.text : encodeURIComponent(fill(piece.source))))
      .join('');
    const sent = Object.fromEntries(
      headers
        .filter((header) => /^[A-Za-z0-9-]{1,100}$/.test(header.name))
        .map((header) => [header.name.toLowerCase(), fill(header.value).replace(/[\r\n]+/g, ' ')]),
    );
    const filled = fields
      .filter((field) => field.name !== '')
      .map((field) => ({ name: field.name, value: fill(field.value) }));
    if (problem !== null) return { does: 'ask', why: { code: 'template', text: problem } };
    if (!URL.canParse(encoded))
      return { does: 'ask', why: { code: 'bad_address', text: 'The address is not a web address' } };
    const bodied = method === 'GET' || method === 'DELETE' ? 'none' : body;
    const what: ServiceRequest = {
      method,
      address: encoded,
      headers: {
        ...(bodied === 'json' ? { 'content-type': 'application/json' } : {}),
        ...(bodied === 'form' ? { 'content-type': 'application/x-www-form-urlencoded' } : {}),
        ...sent,
      },
      body:
        bodied === 'none'
          ? null
          : bodied === 'json'
            ? JSON.stringify(nested(filled))
            : new URLSearchParams(filled.map((one) => [one.name, one.value])).toString(),
      keep: keep
        .filter((one) => one.name.trim() !== '' && one.path.trim() !== '')
        .map((one) => ({ reference: `${keyOf(settings)}.${keyOf(one)}`, path: one.path.trim() })),
    };
    return { does: 'call', words: `${method} ${encoded}${what.body ? `: ${what.body.slice(0, 300)}` : ''}`, what };
  },
};
