import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import PostalMime from 'postal-mime';
import { SMTPServer } from 'smtp-server';
import { emailHtml, headerText } from '../../src/core/template/email-html.ts';
import type { EmailMessage } from '../../src/core/workflow/plan.ts';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { MailSender, messageId } from '../../src/gateways/mail-server.ts';

/** Judge: postal-mime, a mail parser that shares no code with what writes our mail. Sources: RFC 5322, RFC 2047, RFC 5321. */
describe('emails read back by an independent parser', () => {
  const received: { raw: string; from: string; to: string[] }[] = [];
  let server: SMTPServer;
  let answer: { code: number; text: string } | null = null;
  const sender = new MailSender(addressGuard(true));
  before((done) => {
    server = new SMTPServer({
      authOptional: true,
      disabledCommands: ['AUTH', 'STARTTLS'],
      onRcptTo(_address, _session, callback) {
        callback(answer ? Object.assign(new Error(answer.text), { responseCode: answer.code }) : null);
      },
      onData(stream, session, callback) {
        const envelope = session.envelope;
        const [from, to] = [
          envelope.mailFrom ? envelope.mailFrom.address : '',
          envelope.rcptTo.map((address) => address.address),
        ];
        let raw = '';
        stream.setEncoding('latin1').on('data', (chunk: string) => {
          raw += chunk;
        });
        stream.on('end', () => {
          received.push({ raw, from, to });
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
  const account = () => ({
    address: `smtp://127.0.0.1:${(server.server.address() as AddressInfo).port}`,
    user: null,
    password: null,
  });
  const message = (more: Partial<EmailMessage> = {}): EmailMessage => ({
    channel: 'email',
    audience: 'lead',
    to: 'zoë.venn@example.org',
    toName: 'Zoë Venn',
    from: { name: 'Oona at Wrenfield', address: 'hello@wrenfield.example' },
    replyTo: null,
    subject: 'Your trial lesson, Zoë: 25 €',
    text: 'Dear Zoë,\n\nbring <two> pencils & "care".\n',
    html: emailHtml('Dear Zoë,\n\nbring <two> pencils & "care".\n'),
    ...more,
  });
  const parse = (raw: string) => PostalMime.parse(Buffer.from(raw, 'latin1'));

  it('Message-ID, addresses, subject, text and HTML come back as they were meant', async () => {
    const sent = await sender.send(
      account(),
      message({ to: 'zoe.venn@example.org' }),
      '0198f2a0-0000-7000-8000-000000000001',
    );
    expect(sent).to.include({ kind: 'accepted', remoteId: '<0198f2a0-0000-7000-8000-000000000001@wrenfield.example>' });
    const { raw, from, to } = received.at(-1)!;
    expect({ from, to }).to.deep.equal({ from: 'hello@wrenfield.example', to: ['zoe.venn@example.org'] });
    const mail = await parse(raw);
    expect(mail.messageId).to.equal(messageId('0198f2a0-0000-7000-8000-000000000001', 'hello@wrenfield.example'));
    expect(mail.subject).to.equal('Your trial lesson, Zoë: 25 €');
    expect(mail.from).to.deep.include({ name: 'Oona at Wrenfield', address: 'hello@wrenfield.example' });
    expect(mail.to).to.deep.equal([{ name: 'Zoë Venn', address: 'zoe.venn@example.org' }]);
    expect(mail.text?.trim()).to.equal('Dear Zoë,\n\nbring <two> pencils & "care".');
    expect(mail.html).to.contain('bring &lt;two&gt; pencils &amp; &quot;care&quot;.');
    expect(Number.isNaN(Date.parse(mail.date ?? ''))).to.equal(false);
    for (const line of raw.split('\r\n'))
      expect(line.length, 'RFC 5322 §2.1.1: at most 998 characters a line').to.be.at.most(998);
  });

  it('what is attached comes back byte for byte, with its name and kind', async () => {
    const content = Buffer.from([0, 255, 13, 10, 46, 13, 10, 128]);
    await sender.send(account(), message({ to: 'att@example.org' }), 'k-att', [
      { name: 'Übung №1.pdf', type: 'application/pdf', content },
    ]);
    const mail = await parse(received.at(-1)!.raw);
    expect(mail.attachments.map((attachment) => [attachment.filename, attachment.mimeType])).to.deep.equal([
      ['Übung №1.pdf', 'application/pdf'],
    ]);
    expect(Buffer.from(mail.attachments[0]!.content as ArrayBuffer).equals(content)).to.equal(true);
    expect(mail.text?.trim()).to.equal('Dear Zoë,\n\nbring <two> pencils & "care".');
  });

  it('nothing in a name or subject makes another header or recipient', async () => {
    await sender.send(
      account(),
      message({
        to: 'b@example.org',
        toName: 'Eve\r\nBcc: evil@example.net',
        subject: headerText('Hello\r\nBcc: evil@example.net\r\n\r\nbody'),
      }),
      'k2',
    );
    const { raw, to } = received.at(-1)!;
    expect(to).to.deep.equal(['b@example.org']);
    const mail = await parse(raw);
    expect(mail.headers.map((header) => header.key)).not.to.include('bcc');
    expect(mail.subject).to.equal('Hello Bcc: evil@example.net body');
  });

  const sorted: [number, string, string][] = [
    [450, 'busy mailbox', 'again'],
    [451, 'greylisted', 'again'],
    [421, 'closing', 'again'],
    [550, 'no such user', 'refused'],
    [552, 'mailbox full', 'refused'],
    [554, 'refused', 'refused'],
  ];
  for (const [code, text, kind] of sorted)
    it(`RFC 5321 §4.2.1: ${code} ${text} is ${kind}`, async () => {
      answer = { code, text };
      const result = await sender.send(account(), message({ to: 'c@example.org' }), `k-${code}`);
      answer = null;
      expect(result).to.include({ kind, code: `smtp-${code}` });
    });

  it('a server that is not there is tried again later', async () => {
    expect(
      await sender.send({ address: 'smtp://127.0.0.1:1', user: null, password: null }, message(), 'k3'),
    ).to.include({ kind: 'again', code: 'no-connection' });
  });
});
