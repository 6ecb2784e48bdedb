import { createHmac } from 'node:crypto';
import { readdirSync, readFileSync } from 'node:fs';
import { expect } from 'chai';
import fc from 'fast-check';
import { nested } from '../../src/core/described/body.ts';
import { readDescription } from '../../src/core/described/check.ts';
import { Description, type DescriptionFile } from '../../src/core/described/description.ts';
import { hear } from '../../src/core/described/heard.ts';
import { sortNoAnswer, sortReply } from '../../src/core/described/outcome.ts';
import { pathProblem, valuesAt } from '../../src/core/described/paths.ts';
import { instantOf, moneyOf, readValues } from '../../src/core/described/read.ts';
import { readReply } from '../../src/core/described/reply.ts';
import { HIDDEN, makeRequest, shownRequest } from '../../src/core/described/request.ts';
import { SHIPPED } from '../../src/core/described/shipped/registry.ts';
import { DESCRIBED_KINDS, type DescribedKind } from '../../src/core/described/works.ts';

const examples = readdirSync('docs/connect/examples').map((name) => ({
  name,
  file: JSON.parse(readFileSync(`docs/connect/examples/${name}`, 'utf8')) as unknown,
}));
const NOW = Date.parse('2026-12-02T10:00:00Z');
const moment = { time: NOW, nonce: () => 'nonce' };

/** A description with one call, and what is said of it. */
const described = (call: NonNullable<DescriptionFile['calls']>[string], more: Partial<DescriptionFile> = {}) =>
  Description.parse({
    format: 'pine-bell-connection',
    version: 1,
    name: 'Rooms',
    asks: [{ key: 'key', label: 'Key', secret: true }],
    address: 'https://rooms.example/api',
    calls: { go: call },
    ...more,
  });
const made = (description: Description, given: Record<string, unknown> = {}, account: Record<string, string> = {}) => {
  const out = makeRequest(description, description.calls.go!, { given, account }, moment);
  if (!out.ok) throw new Error(out.problem);
  return out.request;
};
const bytes = (text: string) => Buffer.from(text, 'utf8');

describe('a connection description', () => {
  it('ships for each kind of service that has an API of ours, and the examples of the docs are good ones', () => {
    for (const kind of DESCRIBED_KINDS)
      if (kind !== 'service') expect(readDescription(SHIPPED[kind], kind), kind).to.include({ ok: true });
    const kinds: Record<string, DescribedKind> = {
      ...{ 'penny-post-texts': 'text_carrier', 'tern-bookings': 'booking_calendar', 'halyard-shop': 'shop' },
      'beacon-forms': 'ad_platform',
    };
    for (const { name, file } of examples)
      expect(readDescription(file, kinds[name.replace(/\.json$/, '')] ?? 'service'), name).to.include({ ok: true });
    expect(readDescription(SHIPPED.shop, 'booking_calendar')).to.deep.include({ ok: false });
  });

  it('says everything that is wrong with it, in sentences', () => {
    const bad = readDescription(
      {
        ...described({
          path: '/x/{{ given.nobody }}',
          headers: [{ name: 'x', value: '{{ account.missing }}' }],
          body: { as: 'json', fields: [{ name: 'a', value: '{{ lead.email }}' }] },
          again: 'by-key',
          reads: { id: { path: '$.a[' } },
        }),
        records: [
          { key: 'r', label: 'Card', takes: [{ key: 'email', label: 'Email' }], create: 'go', update: 'nothing' },
        ],
      },
      'text_carrier',
    );
    const problems = bad.ok ? [] : bad.problems;
    for (const words of [
      'given.nobody, which is never given',
      'account.missing, which nobody is asked for',
      'lead.email: a description knows given',
      'sends no key',
      'cannot be read: unclosed',
      'Card: there is no call “nothing”',
      'It has no call “send” (Send a text)',
    ])
      expect(
        problems.some((one) => one.includes(words)),
        words,
      ).to.equal(true);
  });

  it('reads anything at all without falling over', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        const read = readDescription(value);
        expect(read.ok ? [] : read.problems).to.be.an('array');
      }),
      { numRuns: 300 },
    );
  });
});

describe('what is sent', () => {
  it('is JSON nested by its names, with numbers, yes and no, whole values, and nothing where it is left out', () => {
    const request = made(
      described({
        path: '/people/{{ given.id }}',
        query: [{ name: 'page', value: '{{ given.page }}', ifEmpty: 'leave-out' }],
        body: {
          as: 'json',
          fields: [
            { name: 'person.emails[0].address', value: '{{ given.email }}' },
            { name: 'person.age', value: '{{ given.age }}', as: 'number' },
            { name: 'person.agrees', value: '{{ given.agrees }}', as: 'yes-no' },
            { name: 'tags', value: '{{ given.tags }}', as: 'whole' },
            { name: 'note', value: '{{ given.note }}', ifEmpty: 'leave-out' },
            { name: 'greeting', value: 'Hi {{ given.name | upcase }}!' },
          ],
        },
      }),
      { id: 'a/b?c', email: 'n@example.com', age: '41', agrees: 'Yes', tags: ['a', { b: 1 }], name: 'Nadia' },
    );
    expect(request.address).to.equal('https://rooms.example/api/people/a%2Fb%3Fc');
    expect(JSON.parse(request.body!)).to.deep.equal({
      person: { emails: [{ address: 'n@example.com' }], age: 41, agrees: true },
      tags: ['a', { b: 1 }],
      greeting: 'Hi NADIA!',
    });
  });

  it('is XML, form fields or parts of the same fields', () => {
    const fields = [
      { name: '@id', value: '7' },
      { name: 'who.name', value: 'Ann & <Bob>\u0001' },
    ];
    expect(made(described({ body: { as: 'xml', root: 'seen', fields } })).body).to.equal(
      '<?xml version="1.0" encoding="UTF-8"?>\n<seen id="7"><who><name>Ann &amp; &lt;Bob&gt;</name></who></seen>',
    );
    expect(made(described({ body: { as: 'form', fields } })).body).to.equal('%40id=7&who.name=Ann+%26+%3CBob%3E%01');
    expect(made(described({ body: { as: 'multipart', fields } })).parts).to.have.length(2);
  });

  it('never reaches into objects of ours, whatever names a description has', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.tuple(
            fc.constantFrom('a', '__proto__', 'constructor', 'prototype', 'length'),
            fc.constantFrom('', '[0]', '.__proto__', '.x', '[1].constructor.prototype'),
          ),
        ),
        (names) => {
          nested(names.map(([a, b]) => ({ name: a + b, value: 'polluted' })));
          expect(({} as Record<string, unknown>).x).to.equal(undefined);
          expect(([] as unknown as Record<string, unknown>).x).to.equal(undefined);
          expect(Object.keys(Array.prototype)).to.deep.equal([]);
        },
      ),
    );
  });

  it('is no request where a number is none, or the address leads nowhere', () => {
    const number = described({ body: { as: 'json', fields: [{ name: 'n', value: 'twelve', as: 'number' }] } });
    expect(makeRequest(number, number.calls.go!, { given: {}, account: {} }, moment)).to.deep.equal({
      ok: false,
      problem: '“n” must be a number, and is “twelve”.',
    });
    const nowhere = described({}, { address: '{{ account.key }}' });
    expect(makeRequest(nowhere, nowhere.calls.go!, { given: {}, account: { key: 'javascript:x' } }, moment)).to.include(
      { ok: false },
    );
  });

  it('is signed in each of the ways, and a header takes nothing that would begin another', () => {
    const way = (signIn: DescriptionFile['signIn'], account = { key: 'k3y\r\nx-evil: 1' }) =>
      made(described({ method: 'GET' }, { signIn }), {}, account);
    expect(way({ way: 'header', name: 'X-Key', value: 'Token {{ account.key }}' }).headers['x-key']).to.equal(
      'Token k3y x-evil: 1',
    );
    expect(
      new URL(way({ way: 'query', name: 'key', value: '{{ account.key }}' }).address).searchParams.get('key'),
    ).to.equal('k3y\r\nx-evil: 1');
    // RFC 7617 §2: the pair of its own example.
    expect(way({ way: 'basic', user: 'Aladdin', password: 'open sesame' }).headers.authorization).to.equal(
      'Basic QWxhZGRpbjpvcGVuIHNlc2FtZQ==',
    );
    const signed = made(
      described(
        { path: '/x', body: { as: 'json', fields: [{ name: 'a', value: '1' }] } },
        {
          signIn: {
            way: 'hmac',
            key: '{{ account.key }}',
            over: '{{ given.method }}\n{{ given.path }}\n{{ given.time }}\n{{ given.body }}',
            header: 'x-signature',
            prefix: 'v1=',
            timeHeader: 'x-time',
          },
        },
      ),
      {},
      { key: 'secret' },
    );
    const time = String(NOW / 1000);
    const right = createHmac('sha256', 'secret').update(`POST\n/api/x\n${time}\n{"a":"1"}`).digest('hex');
    expect(signed.headers).to.include({ 'x-signature': `v1=${right}`, 'x-time': time });
  });

  it('is shown without what is secret, in whichever form it went', () => {
    const request = made(
      described(
        {
          query: [{ name: 'q', value: '{{ account.key }}' }],
          body: { as: 'json', fields: [{ name: 'k', value: 'x{{ account.key }}' }] },
        },
        { signIn: { way: 'basic', user: 'u', password: '{{ account.key }}' } },
      ),
      {},
      { key: 'so "secret" & more' },
    );
    const shown = JSON.stringify(shownRequest(request, ['so "secret" & more']));
    expect(shown).to.include(HIDDEN);
    for (const word of ['secret', Buffer.from('u:so "secret" & more').toString('base64')])
      expect(shown).not.to.include(word);
  });
});

describe('what comes back', () => {
  const call = described({
    again: 'twice',
    outcomes: [
      { path: '$.result', is: ['queued'], means: 'done' },
      { path: '$.result', is: ['later'], means: 'again' },
      { path: '$.error.code', means: 'final', code: 'no' },
    ],
    reason: ['$.error.text'],
    reads: { id: { path: '$.ticket' } },
  }).calls.go!;
  const sorted = (
    status: number,
    body: string,
    of = call,
    headers: Record<string, string> = { 'content-type': 'application/json' },
  ) => sortReply(of, { status, headers }, readReply({ headers, bytes: bytes(body), cut: false }), 'The carrier', NOW);

  it('means what the description says it means, with 200 and an error inside', () => {
    expect(sorted(200, '{"result":"queued","ticket":12345678901234567890}')).to.include({
      kind: 'accepted',
      remoteId: '12345678901234567890',
    });
    expect(sorted(200, '{"result":"later"}', call, { 'retry-after': '3' })).to.include({
      kind: 'again',
      afterMs: 3000,
    });
    expect(sorted(200, '{"error":{"code":0,"text":"No credit"}}')).to.include({
      kind: 'refused',
      code: 'no',
      detail: 'No credit',
    });
  });

  it('is unsure where it could be done twice, and tried again where it could not', () => {
    const safe = { ...call, again: 'harmless' as const };
    for (const [status, body] of [
      [500, '{}'],
      [504, ''],
      [200, '<html>oh</html>'],
      [200, '{"half":'],
    ] as const) {
      expect(sorted(status, body).kind, `${status} ${body}`).to.equal('unsure');
      expect(sorted(status, body, safe).kind, `${status} ${body}`).to.equal('again');
    }
    expect(sorted(503, '').kind).to.equal('again');
    expect(sorted(429, '').kind).to.equal('again');
    expect(sortNoAnswer(call, 'timeout', '').kind).to.equal('unsure');
    expect(sortNoAnswer(call, 'no-connection', '').kind).to.equal('again');
    expect(sortNoAnswer(call, 'address-refused', '').kind).to.equal('refused');
    expect(sortNoAnswer(safe, 'timeout', '').kind).to.equal('again');
  });

  it('is a reason, whatever is made of it: wrong types, wrong charset, HTML, rubbish', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 100, max: 599 }),
        fc.oneof(
          fc.uint8Array({ maxLength: 200 }),
          fc.jsonValue().map((value) => bytes(JSON.stringify(value) ?? '')),
        ),
        fc.constantFrom(
          'application/json',
          'text/xml',
          'text/html',
          'application/json; charset=utf-16',
          'application/x-www-form-urlencoded',
          '',
        ),
        fc.boolean(),
        (status, body, type, cut) => {
          const headers = { 'content-type': type };
          const data = readReply({ headers, bytes: body, cut });
          const answer = sortReply(call, { status, headers }, data, 'The carrier', NOW);
          expect(answer.detail).to.be.a('string').and.not.equal('');
          if (data.ok)
            expect(
              readValues({ a: { path: '$..a', as: 'text' }, m: { path: '$.m', as: 'money' } }, data.value).a,
            ).to.be.a('string');
        },
      ),
      { numRuns: 500 },
    );
  });

  it('gives dates, amounts, lists and nested values as texts', () => {
    expect(instantOf('1700000000')).to.equal('2023-11-14T22:13:20.000Z');
    expect(instantOf('1700000000123')).to.equal('2023-11-14T22:13:20.123Z');
    expect(instantOf('2026-12-01T10:00:00+02:00')).to.equal('2026-12-01T08:00:00.000Z');
    expect(instantOf('2026-12-01 10:00')).to.equal('2026-12-01T10:00:00.000Z');
    expect(instantOf('Tue, 01 Dec 2026 10:00:00 GMT')).to.equal('2026-12-01T10:00:00.000Z');
    for (const none of ['01/02/2026', 'soon', '', '99999999999999999']) expect(instantOf(none), none).to.equal('');
    for (const [text, amount] of [
      ['£1,250.50', '1250.50'],
      ['1.250,50 €', '1250.50'],
      ['1 250,5 kr', '1250.5'],
      ['-12', '-12'],
      ['1,250', '1250'],
      ['12.345', '12.345'],
      ["CHF 1'000.00", '1000.00'],
      ['free', ''],
    ] as const)
      expect(moneyOf(text), text).to.equal(amount);
    expect(
      readValues(
        { all: { path: '$.a[*].b', as: 'text' }, whole: { path: '$.a', as: 'whole' } },
        { a: [{ b: 1 }, { b: [2, 3] }] },
      ),
    ).to.deep.equal({
      all: '1, 2, 3',
      whole: [{ b: 1 }, { b: [2, 3] }],
    });
  });
});

describe('a path into an answer', () => {
  it('of names alone gives what an independent reading of RFC 9535 gives, on whatever answer', () => {
    const key = fc.constantFrom('a', 'b', 'length', 'constructor', '__proto__', 'x1');
    const { value } = fc.letrec((tie) => ({
      value: fc.oneof(
        { maxDepth: 4 },
        fc.constantFrom(null, 0, '', 'a', true),
        fc.array(tie('value'), { maxLength: 3 }),
        fc.dictionary(key, tie('value'), { maxKeys: 4 }),
      ),
    }));
    fc.assert(
      fc.property(fc.array(key, { minLength: 1, maxLength: 4 }), value, (names, answer) => {
        const own = JSON.parse(JSON.stringify(answer));
        // Written otherwise it goes by the library: what they find is the same.
        const brackets = `$${names.map((name) => `['${name}']`).join('')}`;
        expect(valuesAt(`$.${names.join('.')}`, own)).to.deep.equal(valuesAt(brackets, own));
      }),
      { numRuns: 500 },
    );
  });
  it('is refused where it could run for ever', () => {
    for (const path of [
      "$[?match(@.a, '(a+)+b')]",
      "$[?search(@.a, 'x')]",
      '$..a..b',
      '$[?@.a == $.b]',
      '$[?@[?@.a]]',
      '$.a[',
    ])
      expect(pathProblem(path), path).to.be.a('string');
    for (const path of ['$', '$.a.b', '$..a', "$['a b'][0]", '$[?@.kind == "home"].number', '$.a[-1]'])
      expect(pathProblem(path), path).to.equal(null);
    expect(valuesAt("$[?match(@.a, '(a+)+b')]", [{ a: 'aaab' }])).to.deep.equal([]);
    const deep = JSON.parse(`${'['.repeat(95)}${']'.repeat(95)}`);
    expect(valuesAt('$..a', deep)).to.deep.equal([]);
  });
});

describe('what a service tells us', () => {
  const { hears } = Description.parse(examples.find(({ name }) => name.startsWith('marlow'))!.file);
  const body =
    '{"events":[{"topic":"contact.created","event_id":"e1","resource":{"attributes":{"name":{"given":"Zoë"}}}},{"topic":"other"}]}';
  const account = { secret: 'whsec_x', values: { signing: 'shh' } };
  const signed = (time: number, text = body, key = 'shh') => ({
    'content-type': 'application/json',
    'x-marlow-time': String(time),
    'x-marlow-signature': `v0=${createHmac('sha256', key).update(`${time}.${text}`).digest('hex')}`,
  });
  const heard = (headers: Record<string, string>, sent = body, query: Record<string, string> = {}, method = 'POST') =>
    hear(hears!, { method, headers, body: bytes(sent), query }, account, NOW);

  it('is taken when its HMAC fits time and body, and each event is read', () => {
    const came = heard(signed(NOW / 1000));
    expect(
      came.is === 'events' && came.events.map(({ means, id, values }) => ({ means, id, first: values.first_name })),
    ).to.deep.equal([
      { means: 'event', id: 'e1', first: 'Zoë' },
      { means: null, id: '', first: undefined },
    ]);
  });

  it('is refused with another key, an old time, a changed body or no signature', () => {
    expect(heard(signed(NOW / 1000, body, 'other'))).to.include({ is: 'refused', status: 401 });
    expect(heard(signed(NOW / 1000 - 400))).to.include({ is: 'refused', status: 401 });
    expect(heard(signed(NOW / 1000), `${body} `)).to.include({ is: 'refused', status: 401 });
    expect(heard({ 'content-type': 'application/json' })).to.include({ is: 'refused', status: 401 });
    expect(heard(signed(NOW / 1000, 'nonsense'), 'nonsense')).to.include({ is: 'refused', status: 400 });
    expect(
      hear(
        hears!,
        { method: 'POST', headers: signed(NOW / 1000, body, ''), body: bytes(body), query: {} },
        { secret: '', values: {} },
        NOW,
      ),
    ).to.include({ is: 'refused' });
  });

  it('answers a first handshake with the challenge, and with nothing a browser would run', () => {
    expect(heard({}, '', { challenge: 'abc.123-x' }, 'GET')).to.deep.equal({ is: 'handshake', text: 'abc.123-x' });
    expect(heard({}, '', { challenge: '<script>' }, 'GET')).to.include({ is: 'refused', status: 405 });
  });
});
