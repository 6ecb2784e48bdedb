import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { expect } from 'chai';
import { automaticMail } from '../../src/core/mail/automatic-mail.ts';
import { signBody, verifyBodyHmac } from '../../src/core/signing/body-hmac.ts';
import { mailbox } from '../../src/sources/mailbox/definition.ts';

const folder = join(dirname(createRequire(import.meta.url).resolve('baunsu/package.json')), 'tests/emails');
const settings = { sender: '', subject: '', text: '' };

async function asideOf(file: string): Promise<string | undefined> {
  const body = readFileSync(join(folder, file));
  const read = await mailbox.read({ headers: {}, contentType: 'message/rfc822', body }, settings);
  if (!read.ok) throw new Error(`${file}: ${read.problem}`);
  return read.entries[0]!.aside;
}

/** Source: baunsu 0.2.3, twelve real bounces of different providers, an automatic reply and an ordinary mail. */
describe('bounces and automatic replies against real ones', () => {
  const bounces = readdirSync(folder).filter((file) => file.startsWith('bounce_'));
  it('has the whole set', () => expect(bounces).to.have.length(12));
  for (const file of bounces) it(`${file} is a bounce`, async () => expect(await asideOf(file)).to.match(/^A bounce/));
  it('an ordinary mail is let in', async () => expect(await asideOf('ordinary_gmail.txt')).to.equal(undefined));
  it('an automatic reply is kept out', async () =>
    expect(await asideOf('auto_earthlink.txt')).to.match(/^An automatic reply|^A bounce/));
});

describe('what the standards say of automatic mail', () => {
  const signs = {
    headers: {} as Record<string, string>,
    envelopeFrom: 'a@example.org',
    fromAddress: 'a@example.org',
    subject: 'Hello',
  };
  it('RFC 3834 §5: auto-replied is kept out, auto-generated and no are let in', () => {
    const by = (value: string) => automaticMail({ ...signs, headers: { 'auto-submitted': value } });
    expect(['auto-replied', 'Auto-Replied; x=y', 'auto-generated', 'no'].map(by)).to.deep.equal([
      'auto-reply',
      'auto-reply',
      null,
      null,
    ]);
  });
  it('RFC 3464 §2: a delivery report; RFC 5321 §4.5.5: the null reverse-path', () => {
    const headers = { 'content-type': 'multipart/report; report-type=delivery-status; boundary=x' };
    expect(automaticMail({ ...signs, headers })).to.equal('bounce');
    expect(automaticMail({ ...signs, envelopeFrom: '' })).to.equal('auto-reply');
    expect(automaticMail({ ...signs, envelopeFrom: '', subject: 'Undelivered Mail Returned to Sender' })).to.equal(
      'bounce',
    );
  });
});

/** Source: RFC 4231 §4.2 and §4.3, test cases 1 and 2, in base64 instead of hex. */
describe('the shop’s signature against RFC 4231', () => {
  const base64 = (hex: string) => Buffer.from(hex, 'hex').toString('base64');
  it('case 2, whose key is text', () => {
    const expected = base64('5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843');
    expect(signBody('Jefe', Buffer.from('what do ya want for nothing?'))).to.equal(expected);
    expect(verifyBodyHmac('Jefe', expected, Buffer.from('what do ya want for nothing?'))).to.equal(null);
    expect(verifyBodyHmac('Jefe', expected, Buffer.from('what do ya want for something?'))).to.equal('wrong');
    expect(verifyBodyHmac('Jefe', null, Buffer.from(''))).to.equal('missing');
    expect(verifyBodyHmac('Jefe', expected.replace(/=+$/, ''), Buffer.from('what do ya want for nothing?'))).to.equal(
      'wrong',
    );
  });
  it('case 1, whose key of 0x0b is text too', () => {
    expect(signBody('\x0b'.repeat(20), Buffer.from('Hi There'))).to.equal(
      base64('b0344c61d8db38535ca8afceaf0bf12b881dc200c9833da726e9376c2e32cff7'),
    );
  });
});
