import { expect } from 'chai';
import { Webhook } from 'standardwebhooks';
import { signatureTrouble } from '../../src/core/described/heard.ts';
import { SHIPPED } from '../../src/core/described/shipped/registry.ts';
import { hmacSha256 } from '../../src/core/signing/hmac-sha256.ts';
import { signWebhook, verifyWebhook } from '../../src/core/signing/standard-webhooks.ts';

describe('HMAC-SHA256 against RFC 4231', () => {
  const hex = (text: string) => Buffer.from(text, 'hex');
  const cases: [string, Buffer, Buffer, string][] = [
    [
      'test case 1',
      Buffer.alloc(20, 0x0b),
      Buffer.from('Hi There'),
      'b0344c61d8db38535ca8afceaf0bf12b881dc200c9833da726e9376c2e32cff7',
    ],
    [
      'test case 2',
      Buffer.from('Jefe'),
      Buffer.from('what do ya want for nothing?'),
      '5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843',
    ],
    [
      'test case 3',
      Buffer.alloc(20, 0xaa),
      Buffer.alloc(50, 0xdd),
      '773ea91e36800e46854db8ebd09181a72959098b3ef8c122d9635514ced565fe',
    ],
    [
      'test case 6',
      Buffer.alloc(131, 0xaa),
      Buffer.from('Test Using Larger Than Block-Size Key - Hash Key First'),
      '60e431591ee0b67f0d8a26aacbf5b77f8e0bc6213728c5140546040f0ee37f54',
    ],
  ];
  for (const [name, key, data, mac] of cases) it(name, () => expect(hmacSha256(key, data)).to.deep.equal(hex(mac)));
});

/** Source: RFC 4231 §4.2 and §4.3, test cases 1 and 2, in base64 instead of hex. */
describe('what a shop signs, against RFC 4231', () => {
  const base64 = (hex: string) => Buffer.from(hex, 'hex').toString('base64');
  const told = (secret: string, signature: string | null, body: string) =>
    signatureTrouble(
      SHIPPED.shop.hears!,
      { headers: signature === null ? {} : { 'shop-signature': signature }, body: Buffer.from(body) },
      { secret, values: {} },
      0,
    )?.code ?? null;
  it('case 2, whose key is text', () => {
    const right = base64('5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843');
    expect(told('Jefe', right, 'what do ya want for nothing?')).to.equal(null);
    expect(told('Jefe', right, 'what do ya want for something?')).to.equal('wrong');
    expect(told('Jefe', null, '')).to.equal('missing');
    // Base64 spelt otherwise is not taken.
    expect(told('Jefe', right.replace(/=+$/, ''), 'what do ya want for nothing?')).to.equal('wrong');
  });
  it('case 1, whose key of 0x0b is text too', () => {
    const right = base64('b0344c61d8db38535ca8afceaf0bf12b881dc200c9833da726e9376c2e32cff7');
    expect(told('\x0b'.repeat(20), right, 'Hi There')).to.equal(null);
  });
});

describe('signatures against the Standard Webhooks reference library (standardwebhooks 1.1.1)', () => {
  const secret = 'whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw';
  const now = Math.floor(Date.now() / 1000);

  it('gives the signatures of the published example and of a body of ours', () => {
    expect(signWebhook(secret, 'msg_p5jXN8AQM9LWM0D4loKWxJek', 1614265330, '{"test": 2432232314}')).to.equal(
      'v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE=',
    );
    expect(
      signWebhook(
        secret,
        'msg_pinebell_0001',
        1735689600,
        '{"type":"lead.created","data":{"email":"ann@example.com"}}',
      ),
    ).to.equal('v1,elzcAYvXe8DPWbqnqa2NzVhQ+2jIAybAJRoyDcMoesw=');
  });

  it('what the library signs we accept, and what we sign it accepts, any characters in it', () => {
    const body = '{"name":"Zoë 😀","note":"a\\u0000b"}';
    const theirs = new Webhook(secret).sign('m1', new Date(now * 1000), body);
    expect(
      verifyWebhook(secret, { id: 'm1', timestamp: String(now), signature: theirs }, Buffer.from(body), now * 1000),
    ).to.equal(null);
    const ours = signWebhook(secret, 'm1', now, body);
    expect(
      new Webhook(secret).verify(body, {
        'webhook-id': 'm1',
        'webhook-timestamp': String(now),
        'webhook-signature': ours,
      }),
    ).to.have.property('name', 'Zoë 😀');
  });

  const body = Buffer.from('{"a":1}');
  type Headers = { id: string | null; timestamp: string | null; signature: string | null };
  const at = (seconds: number): Partial<Headers> => ({
    timestamp: String(seconds),
    signature: signWebhook(secret, 'm2', seconds, body),
  });
  // Each is made when it is checked, because the library looks at the real clock.
  const verdicts: [string, (now: number, good: string) => Partial<Headers>, string | null][] = [
    ['299 seconds old', (now) => at(now - 299), null],
    ['301 seconds old', (now) => at(now - 301), 'too-old'],
    ['302 seconds ahead', (now) => at(now + 302), 'too-new'],
    ['one good among several', (_, good) => ({ signature: `v1,AAAA v1a,zzzz ${good}` }), null],
    ['another version only', (_, good) => ({ signature: good.replace('v1,', 'v1a,') }), 'wrong'],
    ['no signature', () => ({ signature: null }), 'missing'],
    ['another id', () => ({ id: 'm3' }), 'wrong'],
    ['a time that is no number', () => ({ timestamp: 'yesterday' }), 'timestamp'],
  ];
  for (const [name, change, verdict] of verdicts)
    it(`${name}: ${verdict ?? 'accepted'}`, () => {
      const seconds = Math.floor(Date.now() / 1000);
      const good = signWebhook(secret, 'm2', seconds, body);
      const all: Headers = { id: 'm2', timestamp: String(seconds), signature: good, ...change(seconds, good) };
      expect(verifyWebhook(secret, all, body, seconds * 1000)).to.equal(verdict);
      const library = () =>
        new Webhook(secret).verify(body.toString(), {
          'webhook-id': all.id ?? '',
          'webhook-timestamp': all.timestamp ?? '',
          'webhook-signature': all.signature ?? '',
        });
      if (verdict === null) expect(library).not.to.throw();
      else expect(library).to.throw();
    });
});
