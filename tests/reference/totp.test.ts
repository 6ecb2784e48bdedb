import { expect } from 'chai';
import { newTotpSecret, totpAddress, totpStep } from '../../src/core/signing/totp.ts';

/** RFC 6238 appendix B, SHA-1: the secret is "12345678901234567890" in ASCII; codes of 8 digits, of which one of 6 digits is the end (RFC 4226 §5.3). */
const SECRET = 'GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ';
const VECTORS = [
  [59, '94287082'],
  [1111111109, '07081804'],
  [1111111111, '14050471'],
  [1234567890, '89005924'],
  [2000000000, '69279037'],
  [20000000000, '65353130'],
] as const;

describe('codes of a phone against RFC 6238, appendix B', () => {
  for (const [seconds, code] of VECTORS)
    it(`at ${seconds} s`, () => {
      const step = Math.floor(seconds / 30);
      expect(totpStep(SECRET, code.slice(-6), seconds * 1000, 0)).to.equal(step);
      // Clocks drift: half a minute early or late is taken, a whole one and more is not (§5.2, §6).
      expect(totpStep(SECRET, code.slice(-6), seconds * 1000 - 30_000, 0)).to.equal(step);
      expect(totpStep(SECRET, code.slice(-6), seconds * 1000 + 30_000, 0)).to.equal(step);
      for (const off of [-90, 90, 3600])
        expect(totpStep(SECRET, code.slice(-6), (seconds + off) * 1000, 0)).to.equal(null);
      // Each is good once (§5.2).
      expect(totpStep(SECRET, code.slice(-6), seconds * 1000, step)).to.equal(null);
    });

  it('takes what people type: with spaces, and nothing that is no code', () => {
    expect(totpStep(SECRET, ' 287 082 ', 59_000, 0)).to.equal(1);
    for (const none of ['', '28708', '2870820', 'abcdef', '２８７０８２', '287082; drop'])
      expect(totpStep(SECRET, none, 59_000, 0), none).to.equal(null);
  });

  it('gives out secrets of 160 bits, in an address authenticator programs read', () => {
    const secret = newTotpSecret();
    expect(secret).to.match(/^[A-Z2-7]{32}$/);
    expect(newTotpSecret()).not.to.equal(secret);
    const address = new URL(totpAddress(secret, 'nadia@wrenfield.example'));
    expect([address.protocol, address.host, decodeURIComponent(address.pathname)]).to.deep.equal([
      ...['otpauth:', 'totp', '/Pine Bell:nadia@wrenfield.example'],
    ]);
    expect(address.searchParams.get('secret')).to.equal(secret);
    expect(address.searchParams.get('issuer')).to.equal('Pine Bell');
  });
});
