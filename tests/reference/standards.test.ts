import { expect } from 'chai';
import isemail from 'isemail';
import namecase from 'namecase';
import { httpDate, retryAfterMs } from '../../src/core/delivery/retry-after.ts';
import { readEmail } from '../../src/core/message/email-address.ts';
import { isCallable, properName, splitName } from '../../src/core/people/name.ts';
import { renderTemplate, type TemplateScope } from '../../src/core/template/template.ts';
import { isPublicAddress } from '../../src/gateways/address-guard.ts';
import { isOpenToAll, isThrowAway } from '../../src/gateways/mail-domains.ts';
import { scopeOf } from '../stage/sheets.ts';

describe('email addresses against RFC 5321 and 5322, with isemail as judge', () => {
  const local64 = `${'a'.repeat(64)}@example.com`;
  const accepted = ['john.doe+spring@example.com', "o'brien@example.com", 'josé@example.com', local64];
  const refused = [
    'john..doe@example.com',
    '.john@example.com',
    'john.@example.com',
    `a${local64}`,
    'a@@example.com',
    'john,doe@example.com',
    'a@b.co\r\nBcc: x@y.z',
    'a@-example.com',
    `a@${'b'.repeat(64)}.com`,
    'no-at.example.com',
    '',
  ];
  for (const address of accepted)
    it(`takes ${address.slice(0, 40)}`, () =>
      expect([readEmail(address).ok, isemail.validate(address)]).to.deep.equal([true, true]));
  for (const address of refused)
    it(`refuses ${JSON.stringify(address.slice(0, 40))}`, () =>
      expect([readEmail(address).ok, isemail.validate(address)]).to.deep.equal([false, false]));
  it('is narrower by choice where no lead form means it: one-label domains and address literals', () => {
    for (const address of ['john@localhost', 'john@[192.0.2.1]'])
      expect([readEmail(address).ok, isemail.validate(address)], address).to.deep.equal([false, true]);
  });
});

describe('Retry-After and HTTP dates against RFC 9110 §10.2.3 and §5.6.7', () => {
  const now = Date.UTC(2015, 9, 21, 7, 27, 0);
  it('reads all three forms of a date', () => {
    // The examples of §5.6.7, which are one instant.
    for (const text of ['Sun, 06 Nov 1994 08:49:37 GMT', 'Sunday, 06-Nov-94 08:49:37 GMT', 'Sun Nov  6 08:49:37 1994'])
      expect(httpDate(text, now), text).to.equal(Date.UTC(1994, 10, 6, 8, 49, 37));
    expect(httpDate('Fri, 31 Dec 1999 23:59:59 GMT', now)).to.equal(946_684_799_000);
  });
  it('seconds, a date ahead, a date past, and nonsense', () => {
    expect([
      retryAfterMs('120', now),
      retryAfterMs('Wed, 21 Oct 2015 07:28:00 GMT', now),
      retryAfterMs('Fri, 31 Dec 1999 23:59:59 GMT', now),
    ]).to.deep.equal([120_000, 60_000, 0]);
    // More digits than a number holds are still seconds (delay-seconds = 1*DIGIT).
    expect(retryAfterMs('9'.repeat(400), now)).to.equal(1e13);
    for (const text of ['-1', '1.5', 'soon', '', null]) expect(retryAfterMs(text, now), String(text)).to.equal(null);
  });
});

describe('names with the npm package namecase 1.1.2 as judge (no standard)', () => {
  for (const [typed, proper] of [
    ['MCDONALD', 'McDonald'],
    ["o'brien", "O'Brien"],
    ['ludwig van der berg', 'Ludwig van der Berg'],
    ['MARY-JANE', 'Mary-Jane'],
    ['john smith iii', 'John Smith III'],
  ] as const)
    it(`${typed} is ${proper}`, () => expect([properName(typed), namecase(typed)]).to.deep.equal([proper, proper]));
  it('goes its own way where the judge is wrong: björk, curly apostrophes, names already in mixed case', () => {
    expect([properName('björk'), properName('o’connor'), properName('deShawn McAllister')]).to.deep.equal([
      'Björk',
      'O’Connor',
      'deShawn McAllister',
    ]);
  });
  it('splits as humanparser, parse-full-name and python3-nameparser agreed (values from shared notes)', () => {
    expect(splitName('Ludwig van Beethoven')).to.deep.equal({ first: 'Ludwig', last: 'van Beethoven' });
    expect(splitName('de la Vega, Juan')).to.deep.equal({ first: 'Juan', last: 'de la Vega' });
    expect(splitName('Mr. John Q. Smith Jr.')).to.deep.equal({ first: 'John Q.', last: 'Smith' });
    // Common practice, no source.
    for (const [typed, first, last] of [
      ['Mr. & Mrs. Smith', '', 'Smith'],
      ['Mr and Mrs John Smith', 'John', 'Smith'],
      ['Mr. Smith', '', 'Smith'],
      ['Frau Berg', '', 'Berg'],
      ['Smith, John, Jr.', 'John', 'Smith'],
      ['John Smith, Jr.', 'John', 'Smith'],
      ['Ann & Bob Smith', 'Ann & Bob', 'Smith'],
      ['Minh Le', 'Minh', 'Le'],
      ['J.K. Rowe', 'J.K.', 'Rowe'],
      ['Y Nguyen', 'Y', 'Nguyen'],
      ['&', '', ''],
    ] as const)
      expect(splitName(typed), typed).to.deep.equal({ first, last });
    for (const [typed, proper] of [
      ['J.K.', 'J.K.'],
      ['j.k. rowe', 'J.K. Rowe'],
      ['MINH LE', 'Minh Le'],
      ['KAREEM AL', 'Kareem Al'],
      ['LE', 'Le'],
    ] as const)
      expect([properName(typed), properName(typed, 'last')], typed).to.deep.equal([proper, proper]);
    expect(['&', 'Mr.', '-', 'and', '', 'Ann & Bob', 'J.K.', '小明'].map(isCallable)).to.deep.equal([
      ...[false, false, false, false, false],
      ...[true, true, true],
    ]);
    expect(splitName('Madonna')).to.deep.equal({ first: 'Madonna', last: '' });
  });
});

describe('templates against the original Liquid (ruby-liquid 5.4.0, values it gave)', () => {
  const scope: TemplateScope = scopeOf({
    lead: { first_name: 'Nadia', empty: '' },
    answers: { n: '0', 'contact.city': 'Bath' },
  });
  for (const [source, text] of [
    ['Hi {{ lead.first_name }}', 'Hi Nadia'],
    ['[{{ lead.missing }}]', '[]'],
    ["{{ lead.empty | default: 'you' }}", 'you'],
    ["{{ lead.missing | default: 'you' }}", 'you'],
    ["{{ answers.n | default: 'x' }}", '0'],
    ["{{ 'mARy ann' | capitalize }}", 'Mary ann'],
    ["{{ 'abcdefghijkl' | truncate: 8 }}", 'abcde...'],
    ['{{ answers["contact.city"] | upcase }}', 'BATH'],
    ["{{ '<b>' }}", '<b>'],
  ] as const)
    it(`${source} is ${JSON.stringify(text)}`, () =>
      expect(renderTemplate(source, scope)).to.deep.equal({ ok: true, text }));
  it('refuses what is not ours: tags, unknown filters, broken brackets', () => {
    for (const source of [
      '{% for i in (1..100000000) %}x{% endfor %}',
      '{{ lead.first_name | no_such }}',
      '{{ lead.first_name',
      '{% include "/etc/passwd" %}',
    ])
      expect(renderTemplate(source, scope).ok, source).to.equal(false);
  });
  it('reads no properties but its own fields', () => {
    for (const source of ['{{ lead.constructor }}', '{{ lead.__proto__ }}', '{{ lead.toString }}'])
      expect(renderTemplate(source, scope), source).to.deep.equal({ ok: true, text: '' });
  });
});

describe('addresses that must not be called, against RFC 1918, 6598, 6890 and 4193', () => {
  it('lets public addresses through', () => {
    for (const address of ['172.15.255.255', '172.32.0.0', '8.8.8.8', '2001:4860:4860::8888'])
      expect(isPublicAddress(address), address).to.equal(true);
  });
  it('refuses everything set aside', () => {
    for (const address of [
      '172.16.0.0',
      '172.31.255.255',
      '10.0.0.1',
      '192.168.1.1',
      '127.0.0.1',
      '100.64.0.1',
      '169.254.1.1',
      '198.18.0.1',
      '192.0.2.1',
      '0.0.0.0',
      '::1',
      'fe80::1',
      'fc00::1',
      '::ffff:127.0.0.1',
      '::ffff:10.0.0.1',
      'name.example',
    ])
      expect(isPublicAddress(address), address).to.equal(false);
  });
  it('the URL parser turns every spelling of 127.0.0.1 into it (WHATWG URL)', () => {
    for (const host of ['0x7f.1', '2130706433', '017700000001', '127.1', '①②⑦.⓪.⓪.①'])
      expect(new URL(`http://${host}/`).hostname, host).to.equal('127.0.0.1');
  });
});

/** Source: the lists of the packages email-providers 2.26.0 and mailchecker 6.0.21; which are open to everybody is common knowledge, from memory. */
describe('domains anybody can have an address at', () => {
  const OPEN =
    'gmail.com GMX.de web.de t-online.de orange.fr laposte.net sfr.fr libero.it tiscali.it seznam.cz wp.pl mail.ru qq.com naver.com bigpond.com btinternet.com talktalk.net ziggo.nl telenet.be skynet.be bluewin.ch sapo.pt uol.com.br hotmail.co.uk proton.me tutanota.com hey.com xtra.co.nz sympatico.ca';
  it('those of many countries are known', () => {
    expect(OPEN.split(' ').filter((domain) => !isOpenToAll(domain))).to.deep.equal([]);
  });
  it('those made to be thrown away are known, in any case and with whatever stands before them', () => {
    for (const domain of [
      'mailinator.com',
      'Sub.Mailinator.com',
      'yopmail.com',
      'guerrillamail.com',
      '10minutemail.com',
    ])
      expect([isThrowAway(domain), isOpenToAll(domain)], domain).to.deep.equal([true, true]);
    for (const domain of ['gmail.com', 'btinternet.com', 'bücher.example', 'wrenfield.example', 'com', ''])
      expect(isThrowAway(domain), domain).to.equal(false);
  });
  it('a firm’s own is its own', () => {
    for (const domain of ['harrow-mills.example', 'ietf.org', 'postgresql.org'])
      expect(isOpenToAll(domain), domain).to.equal(false);
  });
});
