import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';

/** A request as an invented service saw it. */
export interface Seen {
  method: string;
  url: URL;
  headers: IncomingMessage['headers'];
  body: string;
}
export interface Said {
  status?: number;
  headers?: Record<string, string>;
  body: string | Buffer;
}
type Answering = (seen: Seen) => Said | 'never' | 'breaks off' | Promise<Said | 'never' | 'breaks off'>;

/** A small service on loopback that answers as a function says, or not at all. */
export interface Invented {
  address: string;
  seen: Seen[];
  /** Answers the next request instead of the service itself: how it behaves when it behaves badly. */
  once(answer: Answering): void;
  close(): Promise<void>;
}

export async function invented(answer: Answering): Promise<Invented> {
  const seen: Seen[] = [];
  const instead: Answering[] = [];
  const server: Server = createServer((request: IncomingMessage, response: ServerResponse) => {
    const chunks: Buffer[] = [];
    request.on('data', (chunk: Buffer) => chunks.push(chunk));
    request.on('end', async () => {
      const one: Seen = {
        method: request.method ?? '',
        url: new URL(request.url ?? '/', 'http://invented'),
        headers: request.headers,
        body: Buffer.concat(chunks).toString('utf8'),
      };
      seen.push(one);
      const said = await (instead.shift() ?? answer)(one);
      if (said === 'never') return;
      if (said === 'breaks off') return void request.socket.destroy();
      response.writeHead(said.status ?? 200, said.headers ?? { 'content-type': 'application/json' });
      response.end(said.body);
    });
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    address: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    seen,
    once: (one) => instead.push(one),
    close: async () => {
      server.closeAllConnections();
      await new Promise((resolve) => server.close(resolve));
    },
  };
}

const json = (value: unknown, status = 200): Said => ({ status, body: JSON.stringify(value) });

/** Penny Post Texts: form fields, 200 whatever happens, no key of ours known. docs/connect/examples/penny-post-texts.json */
export function pennyPost() {
  const texts: { ticket: string; ref: string; dest: string; body: string; reportTo: string }[] = [];
  const service = invented(({ method, url, body }) => {
    if (url.searchParams.get('apikey') !== 'penny-key') return json({ result: 'denied', why: 'No such key' });
    if (url.pathname === '/7781/balance')
      return json({ result: 'ok', holder: 'Wrenfield Music School', credits: '412 texts' });
    if (url.pathname === '/7781/taken') {
      const page = Number(url.searchParams.get('page') ?? 1);
      const found = texts.filter(({ ref }) => ref === url.searchParams.get('ref'));
      return json({ texts: found.slice((page - 1) * 2, page * 2).map(({ ticket }) => ({ ticket })) });
    }
    if (url.pathname === '/7781/send' && method === 'POST') {
      const form = new URLSearchParams(body);
      const dest = form.get('dest') ?? '';
      if (!/^\+\d+$/.test(dest)) return json({ result: 'error', why: 'dest is no number' });
      const ticket = `PP${texts.length + 1}`;
      texts.push({
        ticket,
        ref: form.get('ref') ?? '',
        dest,
        body: form.get('body') ?? '',
        reportTo: form.get('dlr_url') ?? '',
      });
      return json({ result: 'queued', ticket });
    }
    return json({ result: 'error', why: 'unknown' });
  });
  return { service, texts };
}

/** Marlow Records: nested JSON, tokens that run out. docs/connect/examples/marlow-records.json */
export function marlow() {
  interface Contact {
    id: string;
    attributes: { name: { given: string; family: string }; emails: { address: string }[]; budget?: number };
  }
  const contacts: Contact[] = [];
  const tokens = new Set<string>();
  let count = 0;
  const problem = (status: number, detail: string) =>
    json({ errors: [{ code: String(status), title: 'No', detail }] }, status);
  const answer = ({ method, url, headers, body }: Seen): Said => {
    if (url.pathname === '/oauth/token') {
      const pair = Buffer.from((headers.authorization ?? '').replace('Basic ', ''), 'base64').toString();
      // Form-encoded before it is put together (RFC 6749 §2.3.1).
      if (decodeURIComponent(pair) !== 'wren:hush-hush') return json({ error: 'invalid_client' }, 401);
      const token = `token-${++count}`;
      tokens.add(token);
      return json({ access_token: token, token_type: 'Bearer', expires_in: 3600 });
    }
    if (!tokens.has((headers.authorization ?? '').replace('Bearer ', ''))) return problem(401, 'The token has run out');
    if (url.pathname === '/v2/me')
      return json({ data: { attributes: { organisation: 'Wrenfield' } }, meta: { plan: 'Small' } });
    if (url.pathname === '/v2/organisations')
      return json({
        data:
          url.searchParams.get('filter[domain]') === 'harrow-mills.example'
            ? [
                {
                  id: 'o1',
                  attributes: { title: 'Harrow Mills', headcount: 40, customer_since: 1700000000, spent: '£1,250.50' },
                },
              ]
            : [],
      });
    if (url.pathname === '/v2/contacts' && method === 'GET') {
      const wanted = url.searchParams.get('filter[email]');
      return json({ data: contacts.filter(({ attributes }) => attributes.emails[0]?.address === wanted) });
    }
    if (url.pathname === '/v2/contacts' && method === 'POST') {
      const { attributes } = JSON.parse(body).data;
      const made = { id: `c-${contacts.length + 1}`, attributes };
      contacts.push(made);
      return json({ data: made }, 201);
    }
    const contact = contacts.find(({ id }) => url.pathname === `/v2/contacts/${id}`);
    if (!contact) return problem(404, 'No such contact');
    if (method === 'PATCH') Object.assign(contact.attributes, JSON.parse(body).data.attributes);
    return json({ data: contact });
  };
  return { service: invented(answer), answer, contacts, tokens };
}

/** Lantern Enquiries: XML, basic sign-in, asked for what is new. docs/connect/examples/lantern-enquiries.json */
export function lantern() {
  const enquiries = [
    {
      number: 998,
      forename: 'Ada',
      surname: 'Hollis',
      mail: 'ada@example.com',
      telephone: '07700 900101',
      words: 'Piano & <voice>?',
    },
  ];
  const xml = (body: string, status = 200): Said => ({
    status,
    headers: { 'content-type': 'application/xml; charset=utf-8' },
    body: `<?xml version="1.0" encoding="UTF-8"?>${body}`,
  });
  const safe = (text: string) => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;');
  const service = invented(({ url, headers }) => {
    const pair = Buffer.from((headers.authorization ?? '').replace('Basic ', ''), 'base64').toString();
    if (pair !== 'wren:Grün & blau')
      return xml('<fault><code>DENIED</code><message>Who are you?</message></fault>', 401);
    if (url.pathname === '/office') return xml('<office><name>Wrenfield</name><town>Harrow</town></office>');
    if (url.pathname === '/enquiries/seen') return xml('<done/>');
    const after = Number(url.searchParams.get('after') ?? 0);
    const fresh = enquiries.filter(({ number }) => number > after);
    return xml(
      `<enquiries>${fresh
        .map(
          (one) =>
            `<enquiry><number>${one.number}</number><person><forename>${one.forename}</forename><surname>${one.surname}</surname><mail>${one.mail}</mail><telephone>${one.telephone}</telephone></person><words>${safe(one.words)}</words><received>2026-12-01T10:00:00</received></enquiry>`,
        )
        .join('')}</enquiries>`,
    );
  });
  return { service, enquiries };
}
