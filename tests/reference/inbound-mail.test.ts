import { readdirSync, readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { expect } from 'chai';
import { type SimpleParserOptions, simpleParser } from 'mailparser';
import { automaticMail } from '../../src/core/mail/automatic-mail.ts';
import { readBounceWording } from '../../src/core/mail/bounce-wording.ts';
import { readDeliveryStatus } from '../../src/core/mail/delivery-status.ts';
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

/** Source: the same mails of baunsu 0.2.3, read as people read them: their part for machines is left out. */
describe('reports read by their words', () => {
  const wordingOf = async (file: string) => {
    const mail = await simpleParser(readFileSync(join(folder, file)), {
      keepDeliveryStatus: true,
    } as SimpleParserOptions);
    return readBounceWording(`${mail.subject ?? ''}\n${mail.text ?? ''}`);
  };
  // The status each report gives machines, or the class of it where the words say more than the code ("5.0.0").
  for (const [file, status] of [
    ['bounce_aol.txt', '5.1.1'],
    ['bounce_charter.txt', '5.1.1'],
    ['bounce_gmail.txt', '5.1.1'],
    ['bounce_me.txt', '5.1.1'],
    ['bounce_postfix.txt', '5.1.1'],
    ['bounce_att.txt', '5.7.1'],
    ['bounce_cox.txt', '5.1.1'],
    ['bounce_earthlink.txt', '5.1.1'],
    ['bounce_exchange.txt', '5.1.1'],
    ['bounce_hotmail.txt', '5.1.1'],
    ['bounce_yahoo.txt', '5.0.0'],
  ] as const)
    it(`${file}: failed, ${status}`, async () =>
      expect(await wordingOf(file)).to.include({ action: 'failed', status }));
  for (const file of ['ordinary_gmail.txt', 'auto_earthlink.txt', 'encoded_spam.txt'])
    it(`${file} says nothing of the kind`, async () => expect(await wordingOf(file)).to.equal(null));

  // Wordings of other servers, from memory.
  for (const [name, text, expected] of [
    [
      'qmail',
      "Hi. This is the qmail-send program at mx.example.\nI'm afraid I wasn't able to deliver your message to the following addresses.\nThis is a permanent error; I've given up. Sorry it didn't work out.\n\n<ada@example.org>:\nSorry, no mailbox here by that name. (#5.1.1)\n",
      { action: 'failed', status: '5.1.1' },
    ],
    [
      'Exim',
      'This message was created automatically by mail delivery software.\n\nA message that you sent could not be delivered to one or more of its recipients. This is a permanent error.\n\n  ada@example.org\n    Unrouteable address\n',
      { action: 'failed', status: '5.1.1' },
    ],
    [
      'Postfix, a full mailbox',
      '<ada@example.org>: host mx.example[192.0.2.1] said: 552 5.2.2 Mailbox full (in reply to end of DATA command)',
      { action: 'failed', status: '5.2.2' },
    ],
    [
      'Postfix, a warning',
      '# THIS IS A WARNING ONLY.  YOU DO NOT NEED TO RESEND YOUR MESSAGE. #\n\nYour message could not be delivered for more than 4 hour(s).\nIt will be retried until it is 5 day(s) old.',
      { action: 'delayed' },
    ],
    [
      'Exchange',
      "Delivery has failed to these recipients or groups:\n\nada@example.org\nThe e-mail address you entered couldn't be found. Please check the recipient's e-mail address.",
      { action: 'failed', status: '5.1.1' },
    ],
  ] as const)
    it(name, () => expect(readBounceWording(text)).to.include(expected));
  it('RFC 5322 §3.2.2: a comment in a field is no part of its value', () => {
    const [read] = readDeliveryStatus(
      'Reporting-MTA: dns; mx.example\n\nFinal-Recipient: rfc822; ada@example.org\nAction: failed (after 5 days)\nStatus: 5.1.1 (bad destination mailbox address)\n',
    );
    expect(read).to.deep.include({ action: 'failed', status: '5.1.1', recipient: 'ada@example.org' });
  });
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
