import { generateKeyPairSync } from 'node:crypto';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import { dkimVerify } from 'mailauth/lib/dkim/verify.js';
import { SMTPServer } from 'smtp-server';
import {
  dkimName,
  dkimRecord,
  domainFindings,
  type PublishedRecords,
  type SigningKey,
  tagsOf,
} from '../../src/core/mail/sending-domain.ts';
import type { EmailMessage } from '../../src/core/workflow/plan.ts';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { MailSender } from '../../src/gateways/mail-server.ts';

const pair = generateKeyPairSync('rsa', {
  modulusLength: 2048,
  publicKeyEncoding: { type: 'spki', format: 'der' },
  privateKeyEncoding: { type: 'pkcs8', format: 'pem' },
});
const key: SigningKey = {
  domain: 'wrenfield.example',
  selector: 'pinebell1',
  publicKey: pair.publicKey.toString('base64'),
};

/** Judge: the package "mailauth", which shares no code with what signs. Source: RFC 6376. */
describe('emails signed for the business’s own domain', () => {
  const received: Buffer[] = [];
  let server: SMTPServer;
  const sender = new MailSender(addressGuard(true));
  before((done) => {
    server = new SMTPServer({
      authOptional: true,
      disabledCommands: ['AUTH', 'STARTTLS'],
      onData(stream, _session, callback) {
        const chunks: Buffer[] = [];
        stream.on('data', (chunk: Buffer) => chunks.push(chunk));
        stream.on('end', () => {
          received.push(Buffer.concat(chunks));
          callback();
        });
      },
    });
    server.listen(0, '127.0.0.1', done);
  });
  after((done) => {
    sender.close();
    server.close(done);
  });
  const send = async (from: string): Promise<Buffer> => {
    const message: EmailMessage = {
      channel: 'email',
      audience: 'lead',
      to: 'zoe@example.org',
      toName: 'Zoë',
      from: { name: 'Oona', address: from },
      replyTo: null,
      subject: 'Your trial lesson, Zoë: 25 €',
      text: 'Dear Zoë,\n.\nbring pencils.\n',
      html: '<p>Dear Zoë, bring pencils.</p>',
    };
    const account = {
      address: `smtp://127.0.0.1:${(server.server.address() as AddressInfo).port}`,
      user: null,
      password: null,
      signing: { domain: key.domain, selector: key.selector, key: pair.privateKey },
      returnPath: (id: string) => `bounce-${id}@in.wrenfield.example`,
    };
    expect((await sender.send(account, message, 'key-1')).kind).to.equal('accepted');
    return received.at(-1)!;
  };
  const judged = async (mail: Buffer, records: Record<string, string>) => {
    const { results } = await dkimVerify(mail, {
      resolver: async (name: string) => {
        if (records[name] === undefined) throw Object.assign(new Error('nothing there'), { code: 'ENOTFOUND' });
        return [[records[name]]];
      },
    });
    return results.map(({ status, signingDomain }: { status: { result: string }; signingDomain: string }) => [
      signingDomain,
      status.result,
    ]);
  };

  it('are good by the record that is to be published, and by no other', async () => {
    const mail = await send('hello@wrenfield.example');
    expect(await judged(mail, { [dkimName(key)]: dkimRecord(key) })).to.deep.equal([['wrenfield.example', 'pass']]);
    const other = generateKeyPairSync('rsa', {
      modulusLength: 2048,
      publicKeyEncoding: { type: 'spki', format: 'der' },
      privateKeyEncoding: { type: 'pkcs8', format: 'pem' },
    });
    const wrong = dkimRecord({ ...key, publicKey: other.publicKey.toString('base64') });
    expect((await judged(mail, { [dkimName(key)]: wrong }))[0]![1]).not.to.equal('pass');
    const changed = Buffer.from(
      mail.toString('latin1').replace('trial lesson', 'trial lessen').replace('bring pencils', 'bring money'),
      'latin1',
    );
    expect((await judged(changed, { [dkimName(key)]: dkimRecord(key) }))[0]![1]).not.to.equal('pass');
  });

  it('carry no signature when they are from another domain, for which it would not count', async () => {
    const mail = await send('oona@other.example');
    expect(mail.toString('latin1')).not.to.match(/^DKIM-Signature:/im);
  });

  it('what is published is told with what to do: DKIM (RFC 6376), SPF (RFC 7208), DMARC (RFC 7489)', () => {
    const states = (published: PublishedRecords) => domainFindings(key, published).map(({ state }) => state);
    const good = {
      dkim: [dkimRecord(key)],
      spf: ['v=spf1 include:mail.example -all', 'site-check=1'],
      dmarc: ['v=DMARC1; p=reject; rua=mailto:a@b.example'],
    };
    expect(states(good)).to.deep.equal(['good', 'good', 'good']);
    expect(states({ dkim: [], spf: [], dmarc: [] })).to.deep.equal(['missing', 'missing', 'missing']);
    expect(states({ dkim: null, spf: null, dmarc: null })).to.deep.equal(['unknown', 'unknown', 'unknown']);
    // Of its own examples: RFC 7208 §3.2 (two records are an error), §8.1 (+all lets anybody through).
    expect(
      states({ dkim: ['v=DKIM1; p=AAAA'], spf: ['v=spf1 a -all', 'v=spf1 mx -all'], dmarc: ['v=DMARC1; pct=10'] }),
    ).to.deep.equal(['wrong', 'wrong', 'wrong']);
    expect(states({ ...good, spf: ['v=spf1 +all'] })[1]).to.equal('wrong');
    expect(domainFindings(key, { dkim: [], spf: [], dmarc: [] }).map(({ publish }) => publish?.name)).to.deep.equal([
      'pinebell1._domainkey.wrenfield.example',
      'wrenfield.example',
      '_dmarc.wrenfield.example',
    ]);
    // Split over several strings and with blanks, as DNS pages write long keys.
    expect(tagsOf(`v=DKIM1; k=rsa; p=${key.publicKey.slice(0, 100)} ${key.publicKey.slice(100)}`).get('p')).to.equal(
      key.publicKey,
    );
  });
});
