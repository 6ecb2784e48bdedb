import { createHmac } from 'node:crypto';
import { filledFields, nested, type Value, xmlOf } from './body.ts';
import type { Call, Description, SignIn } from './description.ts';
import { type Filling, fill, fillEncoded } from './fill.ts';

/** A request as it leaves. */
export interface MadeRequest {
  method: Call['method'];
  address: string;
  /** Names in lower case. */
  headers: Record<string, string>;
  body: string | null;
  /** Form parts, for whoever puts multipart together; null for every other body. */
  parts: [name: string, value: string][] | null;
}
export type Made = { ok: true; request: MadeRequest } | { ok: false; problem: string };

/** What changes from one try to the next. `time` in milliseconds since 1970. */
export interface Moment {
  time: number;
  nonce: () => string;
  /** An access token, for sign-ins that fetch one. */
  token?: string | undefined;
}

const HEADER_NAME = /^[A-Za-z0-9!#$%&'*+.^_`|~-]{1,100}$/;
/** What a header cannot hold is taken out (RFC 9110 §5.5); what is not ASCII is sent as UTF-8. */
const headerValue = (text: string): string => {
  if (/^[\x21-\x7e]*$/.test(text)) return text;
  return Buffer.from(text.replace(/[\u0000-\u001F\u007F]+/g, ' ').trim(), 'utf8').toString('latin1');
};

/** One call as a request, signed in. `problem` is read by the coordinator. */
export function makeRequest(
  description: Pick<Description, 'address' | 'signIn'>,
  call: Call,
  filling: Filling,
  moment: Moment,
): Made {
  const problems: string[] = [];
  const text = (source: string): string => {
    const filled = fill(source, filling);
    if (!filled.ok) problems.push(filled.problem);
    return filled.ok ? filled.text : '';
  };
  const values = (fields: Value[]) =>
    fields.flatMap((one) => {
      if (one.ok) return [one];
      problems.push(one.problem);
      return [];
    });
  const path = fillEncoded(call.path, filling);
  if (!path.ok) problems.push(path.problem);
  let base = text(description.address).trim();
  while (base.endsWith('/')) base = base.slice(0, -1);
  const written = base + (path.ok ? path.text : '');
  const url = URL.canParse(written) ? new URL(written) : null;
  if (!url || (url.protocol !== 'https:' && url.protocol !== 'http:'))
    return {
      ok: false,
      problem: `“${written.slice(0, 100)}” is not a web address. Look at the address of this connection.`,
    };
  const { link } = filling.given;
  if (call.paging.way === 'link' && typeof link === 'string' && link !== '') {
    const next = URL.canParse(link, url) ? new URL(link, url) : null;
    // The key goes along: to the service it is for, and nowhere else.
    if (next?.origin !== url.origin)
      return { ok: false, problem: 'It says its next page is at another service, which is not asked.' };
    url.pathname = next.pathname;
    url.search = next.search;
  } else for (const one of values(filledFields(call.query, filling))) url.searchParams.append(one.name, one.text);
  const headers: Record<string, string> = { accept: 'application/json, application/xml;q=0.9, */*;q=0.1' };
  const put = (name: string, value: string) => {
    if (HEADER_NAME.test(name)) headers[name.toLowerCase()] = headerValue(value);
    else problems.push(`“${name.slice(0, 60)}” cannot be the name of a header.`);
  };
  const body = bodyOf(call, values(filledFields(call.body.fields, filling)));
  if (body.type) headers['content-type'] = body.type;
  for (const one of values(filledFields(call.headers, filling))) put(one.name, one.text);
  if (call.again === 'by-key' && call.keyHeader) put(call.keyHeader, String(filling.given.reference ?? ''));
  signIn(description.signIn, { url, headers, body: body.text, method: call.method, text, put, filling, moment });
  if (problems.length > 0) return { ok: false, problem: problems[0]! };
  return { ok: true, request: { method: call.method, address: url.href, headers, body: body.text, parts: body.parts } };
}

function bodyOf(
  call: Call,
  values: Extract<Value, { ok: true }>[],
): { type: string | null; text: string | null; parts: MadeRequest['parts'] } {
  const pairs = values.map(({ name, text }): [string, string] => [name, text]);
  switch (call.body.as) {
    case 'json':
      return { type: 'application/json', text: JSON.stringify(nested(values)), parts: null };
    case 'form':
      return { type: 'application/x-www-form-urlencoded', text: new URLSearchParams(pairs).toString(), parts: null };
    case 'xml':
      return { type: 'application/xml; charset=utf-8', text: xmlOf(call.body.root || 'request', values), parts: null };
    case 'multipart':
      return { type: null, text: null, parts: pairs };
    case 'none':
      return { type: null, text: null, parts: null };
  }
}

interface Signing {
  url: URL;
  headers: Record<string, string>;
  body: string | null;
  method: string;
  text: (source: string) => string;
  put: (name: string, value: string) => void;
  filling: Filling;
  moment: Moment;
}

function signIn(way: SignIn, { url, body, method, text, put, filling, moment }: Signing): void {
  switch (way.way) {
    case 'header':
      put(way.name, text(way.value));
      return;
    case 'query':
      url.searchParams.append(way.name, text(way.value));
      return;
    case 'basic': {
      const pair = `${text(way.user)}:${text(way.password)}`;
      put('authorization', `Basic ${Buffer.from(pair, 'utf8').toString('base64')}`);
      return;
    }
    case 'bearer': {
      const token = text(way.token);
      // A service that wants no key is asked without one.
      if (token !== '') put('authorization', `Bearer ${token}`);
      return;
    }
    case 'oauth2-client':
    case 'oauth2-code':
      put('authorization', `Bearer ${moment.token ?? ''}`);
      return;
    case 'hmac': {
      const time = timeAs(way.time, moment.time);
      const nonce = moment.nonce();
      const given = {
        ...filling.given,
        method,
        path: url.pathname + url.search,
        body: body ?? '',
        time,
        nonce,
      };
      const over = fill(way.over, { given, account: filling.account });
      const signature = createHmac(way.digest, text(way.key))
        .update(over.ok ? over.text : '', 'utf8')
        .digest(way.encoding);
      put(way.header, way.prefix + signature);
      if (way.timeHeader) put(way.timeHeader, time);
      if (way.nonceHeader) put(way.nonceHeader, nonce);
      return;
    }
    case 'none':
    case 'certificate':
      return;
  }
}

const timeAs = (way: 'seconds' | 'milliseconds' | 'iso', at: number): string =>
  way === 'iso' ? new Date(at).toISOString() : String(way === 'seconds' ? Math.floor(at / 1000) : at);

export const HIDDEN = '•••';

/** A request as people may see it: whatever is secret in it, in whichever form it went, is hidden. */
export function shownRequest(request: MadeRequest, secrets: readonly string[]): MadeRequest {
  const hide = hiding(secrets);
  return {
    method: request.method,
    address: hide(request.address),
    headers: Object.fromEntries(
      Object.entries(request.headers).map(([name, value]) => [
        name,
        /^(proxy-)?authorization$/.test(name) ? value.replace(/(?<=^\w+ ).*/, HIDDEN) : hide(value),
      ]),
    ),
    body: request.body === null ? null : hide(request.body),
    parts: request.parts?.map(([name, value]) => [name, hide(value)]) ?? null,
  };
}

/** Takes secrets out of a text: as they are, percent-encoded, as JSON and XML write them, and in base64. */
export function hiding(secrets: readonly string[]): (text: string) => string {
  const forms = secrets
    .filter((secret) => secret.length > 3)
    .flatMap((secret) => [
      secret,
      encodeURIComponent(secret),
      new URLSearchParams([['', secret]]).toString().slice(1),
      JSON.stringify(secret).slice(1, -1),
      secret.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;'),
      Buffer.from(secret, 'utf8').toString('base64'),
    ])
    .sort((a, b) => b.length - a.length);
  const all = [...new Set(forms)];
  return (text) => all.reduce((left, secret) => left.replaceAll(secret, HIDDEN), text);
}
