import { expect } from 'chai';
import { automaticMail, type MailSigns } from '../../src/core/mail/automatic-mail.ts';
import { readBounceWording } from '../../src/core/mail/bounce-wording.ts';
import { isLasting, readDeliveryStatus } from '../../src/core/mail/delivery-status.ts';
import { headersByName } from '../../src/core/mail/header-lines.ts';
import { labelledLines } from '../../src/core/mail/labelled-lines.ts';
import { visibleReply } from '../../src/core/mail/visible-reply.ts';
import { type Command, type CommandLanguage, commandAnswer, commandOf } from '../../src/core/message/command-words.ts';

describe('whether a machine answered', () => {
  const of = (headers: Record<string, string>, more: Partial<MailSigns> = {}) =>
    automaticMail({
      headers,
      envelopeFrom: 'a@example.org',
      fromAddress: 'ada@example.org',
      subject: 'Hello',
      ...more,
    });
  const report = 'Multipart/Report; Report-Type = "delivery-status"; boundary=x';
  const cases: [string, () => ReturnType<typeof of>, 'bounce' | 'auto-reply' | null][] = [
    ['an ordinary mail', () => of({}), null],
    ['a delivery report', () => of({ 'content-type': report }), 'bounce'],
    [
      'a report of another kind',
      () => of({ 'content-type': 'multipart/report; report-type=disposition-notification' }),
      null,
    ],
    [
      'a mail about reports',
      () => of({ 'content-type': 'text/plain; x="multipart/report"; report-type=delivery-status' }),
      null,
    ],
    ['recipients that failed', () => of({ 'x-failed-recipients': 'a@b.example' }), 'bounce'],
    ['from the mailer', () => of({}, { fromAddress: 'MAILER-DAEMON@mx.example' }), 'bounce'],
    ['from the postmaster', () => of({}, { fromAddress: 'postmaster@mx.example' }), 'bounce'],
    ['from mail delivery', () => of({}, { fromAddress: 'mail.delivery@mx.example' }), 'bounce'],
    ['from one whose name has it in it', () => of({}, { fromAddress: 'notpostmaster@mx.example' }), null],
    ['without any address', () => of({}, { fromAddress: '' }), null],
    ['auto-replied', () => of({ 'auto-submitted': ' Auto-Replied (vacation)' }), 'auto-reply'],
    ['the null path in the mail itself', () => of({ 'return-path': ' <> ' }, { envelopeFrom: null }), 'auto-reply'],
    [
      'the null path and a subject of failure',
      () => of({ 'return-path': '<>' }, { subject: 'Returned mail: see inside' }),
      'bounce',
    ],
    ['a path', () => of({ 'return-path': '<a@b.example>' }), null],
    ['precedence', () => of({ precedence: ' Auto_Reply ' }), 'auto-reply'],
    ['precedence of a list', () => of({ precedence: 'bulk' }), null],
    ['precedence of no such kind', () => of({ precedence: 'not-auto-reply' }), null],
    ['x-autoreply', () => of({ 'x-autoreply': 'yes' }), 'auto-reply'],
    ['x-autorespond', () => of({ 'x-autorespond': '' }), 'auto-reply'],
    ['x-autoresponder', () => of({ 'x-autoresponder': 'v1' }), 'auto-reply'],
    ['x-autoresponse', () => of({ 'x-autoresponse': 'no way' }), 'auto-reply'],
    ['x-autoreply that says no', () => of({ 'x-autoreply': ' No ' }), null],
    ['x-autoreply that says false', () => of({ 'x-autoreply': 'false' }), null],
  ];
  for (const [what, found, expected] of cases)
    it(`${what}: ${expected ?? 'a person'}`, () => expect(found()).to.equal(expected));

  const subjects: [string, 'bounce' | 'auto-reply' | null][] = [
    ['Undeliverable: Hello', 'bounce'],
    ['Undelivered Mail Returned to Sender', 'bounce'],
    ['Mail delivery failed: returning message', 'bounce'],
    ['Mail Delivery Subsystem', 'bounce'],
    ['Delivery Status Notification (Failure)', 'bounce'],
    ['Delivery has failed', 'bounce'],
    ['failure notice', 'bounce'],
    ['Message undeliverable', 'bounce'],
    ['Out of the office until Monday', 'auto-reply'],
    ['Out of office', 'auto-reply'],
    ['Automatic reply: Hello', 'auto-reply'],
    ['Automatically generated reply', 'auto-reply'],
    ['Auto-Reply', 'auto-reply'],
    ['Autoresponse', 'auto-reply'],
    ['Abwesenheitsnotiz', 'auto-reply'],
    ['Réponse automatique', 'auto-reply'],
    ['Risposta automatica: ciao', 'auto-reply'],
    ['Auto repair and lessons', null],
    ['Re: Out of office', null],
    ['About my delivery', null],
  ];
  for (const [subject, expected] of subjects)
    it(`“${subject}”: ${expected ?? 'a person'}`, () => expect(of({}, { subject })).to.equal(expected));
});

describe('a report of delivery', () => {
  it('RFC 3464 §2.3: a group for each recipient, folded, in any case; groups without an action are passed over', () => {
    const read = readDeliveryStatus(
      'Reporting-MTA: dns; mx.example\r\n\r\nFinal-Recipient: rfc822; a@example.org\r\nACTION: Failed\r\nStatus: 5.1.1 (no such; user)\r\nDiagnostic-Code: smtp; 550\r\n\t5.1.1 nobody\r\nAction: relayed\r\n\r\n\r\nOriginal-Recipient: rfc822;b@example.org\r\nAction: delayed; later\r\n\r\nFinal-Recipient: rfc822; c@example.org\r\nAction: eaten\r\n',
    );
    expect(read).to.deep.equal([
      { recipient: 'a@example.org', action: 'failed', status: '5.1.1', diagnostic: '550 5.1.1 nobody' },
      { recipient: 'b@example.org', action: 'delayed', status: '', diagnostic: '' },
    ]);
    for (const action of ['failed', 'delayed', 'delivered', 'relayed', 'expanded'])
      expect(readDeliveryStatus(`Action: ${action}`)[0]).to.include({ action, recipient: '' });
    expect(readDeliveryStatus(`Action: failed\nDiagnostic-Code: ${'x'.repeat(600)}`)[0]!.diagnostic).to.have.length(
      500,
    );
  });
  it('RFC 3463: class 5 is for good; a full mailbox, a delay and a failure of class 4 are not', () => {
    const lasting = (action: 'failed' | 'delayed', status: string) =>
      isLasting({ recipient: '', action, status, diagnostic: '' });
    expect([lasting('failed', '5.1.1'), lasting('failed', ''), lasting('failed', '5.2.20')]).to.deep.equal([
      true,
      true,
      true,
    ]);
    expect([lasting('delayed', '5.1.1'), lasting('failed', '4.4.7'), lasting('failed', '5.2.2')]).to.deep.equal([
      false,
      false,
      false,
    ]);
  });
  const wordings: [string, object | null][] = [
    [
      '550 5.1.1 <a@example.org>: Recipient address rejected',
      { action: 'failed', status: '5.1.1', diagnostic: '550 5.1.1 <a@example.org>: Recipient address rejected' },
    ],
    [
      'said: 452-4.2.2 The mailbox is over quota\nmore',
      { action: 'delayed', status: '4.2.2', diagnostic: '452-4.2.2 The mailbox is over quota' },
    ],
    ['It will be retried.\n550 5.7.1 blocked', { action: 'failed', status: '5.7.1', diagnostic: '550 5.7.1 blocked' }],
    [
      'Delivery has been delayed by us',
      { action: 'delayed', status: '4.0.0', diagnostic: 'Delivery has been delayed by us' },
    ],
    ['Undeliverable: domain not found', { action: 'failed', status: '5.1.2', diagnostic: 'domain not found' }],
    ['550 Quota exceeded', { action: 'failed', status: '5.2.2', diagnostic: '550 Quota exceeded' }],
    ['Undeliverable\n554 Sorry', { action: 'failed', status: '5.0.0', diagnostic: '554 Sorry' }],
    ['I have 550 records', null],
    ['User unknown to me', null],
    ['Your spam filter', null],
    ['Could not be delivered', null],
  ];
  for (const [said, found] of wordings)
    it(`“${said.slice(0, 40)}”: ${found ? 'told' : 'nothing'}`, () =>
      expect(readBounceWording(said)).to.deep.equal(found));
  it('looks no further than where the mail that was sent begins', () => {
    expect(readBounceWording(`${'x '.repeat(10_000)}550 5.1.1 gone`)).to.equal(null);
  });
});

describe('the text of a mail', () => {
  it('RFC 5322 §2.2.3: headers are unfolded, and the first of a name counts', () => {
    expect(
      headersByName([
        { key: 'subject', line: 'Subject:  a\r\n\t b: c ' },
        { key: 'subject', line: 'Subject: d' },
      ]),
    ).to.deep.equal({ subject: 'a b: c' });
  });
  it('“Label: value” lines are fields; a label alone takes the lines below it', () => {
    const read = labelledLines(
      'New lead\n\n- **First name**: Nadia \nMessage:\n\n > no\nHello\nthere\n\nnot this\nFirst name: Other\nhttps://a.example\nDear: you\nWeb://a.example\nPhone： 07700 900123\n> Email: x\n1st: no',
    );
    expect(read.map(({ label, value }) => `${label}=${value}`)).to.deep.equal([
      'First name=Nadia',
      'Message=> no\nHello\nthere',
      'Phone=07700 900123',
    ]);
    expect(labelledLines('Note:\none\n> two\nthree')[0]!.value, 'what is quoted ends it').to.equal('one');
    expect(labelledLines(Array.from({ length: 70 }, (_, i) => `Field ${i}: x`).join('\n'))).to.have.length(60);
    expect(labelledLines(`Note:\n${'x'.repeat(25_000)}`)[0]!.value).to.have.length(20_000);
  });
  it('an answer is what stands above what it quotes', () => {
    expect(visibleReply('Yes please\r\n\r\n\r\n\r\n\r\nOn Mon, 2 Nov 2026, Wrenfield wrote:\r\n> Shall we?')).to.equal(
      'Yes please',
    );
    expect(visibleReply('> only this'), 'nothing else: all of it').to.equal('> only this');
    expect(visibleReply('a\r\rb')).to.equal('a\n\nb');
  });
});

describe('a word that asks for something', () => {
  const words: [string, Command | null, CommandLanguage?][] = [
    ['STOP', 'stop', 'en'],
    [' stop. ', 'stop', 'en'],
    ['Please stop it', 'stop', 'en'],
    ['S.T.O.P', 'stop', 'en'],
    ['opt out thanks', 'stop', 'en'],
    ['Bitte abmelden', 'stop', 'de'],
    ['Arrêtez svp', 'stop', 'fr'],
    ['baja por favor', 'stop', 'es'],
    ['basta grazie', 'stop', 'it'],
    ['START', 'start', 'en'],
    ['riprendi', 'start', 'it'],
    ['help', 'help', 'en'],
    ['Hilfe!', 'help', 'de'],
    ['aiuto', 'help', 'it'],
    ['stop by on Monday', null],
    ['', null],
    ['please', null],
    [`stop${' '.repeat(997)}`, null],
  ];
  for (const [text, command, language] of words)
    it(`“${text.slice(0, 20).trim()}”: ${command ?? 'nothing'}`, () =>
      expect(commandOf(text)).to.deep.equal(command && { command, language }));
  it('is answered in its own language, by the business’s name, with the way back', () => {
    for (const language of ['en', 'de', 'fr', 'es', 'it', 'pt', 'nl'] as const) {
      const answers = (['stop', 'start', 'help'] as const).map((command) =>
        commandAnswer(command, language, 'Wrenfield'),
      );
      for (const answer of answers) expect(answer).to.contain('Wrenfield');
      expect(answers[0]).to.contain('START');
      expect(answers[1]).to.contain('STOP');
      expect(answers[2]).to.contain('STOP');
      expect(new Set(answers).size).to.equal(3);
    }
  });
});
