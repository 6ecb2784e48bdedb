import { readdirSync, writeFileSync } from 'node:fs';
import type { LookupFunction } from 'node:net';
import { expect } from 'chai';
import nodemailer from 'nodemailer';
import { type AddressGuard, addressGuard } from '../../src/gateways/address-guard.ts';
import { MailAccounts } from '../../src/gateways/mail-account.ts';
import { MailSender } from '../../src/gateways/mail-server.ts';
import { type Authority, authority } from '../stage/certificates.ts';
import type { Coordinator } from '../stage/flow.ts';
import { MAIL_USER, type MailHouse, openMailHouse } from '../stage/mail-house.ts';
import { independentService } from '../stage/sign-on-service.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

describe('mail servers nobody here wrote: Postfix takes what we send, Dovecot holds a mailbox that is listened to', function () {
  this.timeout(60_000);
  let house: MailHouse;
  let ours: Authority;
  const HOST = 'mail.wrenfield.example';
  /** The name leads to this machine, and is judged as any other. */
  const named = {
    ...addressGuard(true),
    lookup: ((_, options, callback) =>
      (options as { all?: boolean }).all
        ? (callback as unknown as (error: null, all: object[]) => void)(null, [{ address: '127.0.0.1', family: 4 }])
        : callback(null, '127.0.0.1', 4)) as LookupFunction,
    refuses: () => null,
  } as AddressGuard;
  const message = (subject: string) => ({
    from: { name: 'Oona at Wrenfield', address: 'hello@wrenfield.example' },
    to: MAIL_USER.address,
    toName: 'Enquiries',
    subject,
    text: 'Good afternoon',
    html: '<p>Good afternoon</p>',
    ...({ channel: 'email', audience: 'team', replyTo: null } as const),
  });
  /** A mail of somebody outside, brought in as any mail program does. */
  const write = async (
    of: { from: string; subject: string; text: string; messageId?: string },
    folderOf = MAIL_USER.address,
  ) => {
    const program = nodemailer.createTransport({
      ...{ host: '127.0.0.1', port: house.submissionPort, requireTLS: true, tls: { ca: [ours.pem] } },
      auth: { user: MAIL_USER.user, pass: MAIL_USER.password },
    });
    await program.sendMail({ to: folderOf, ...of });
    program.close();
  };
  const inFolder = () => {
    try {
      return readdirSync(`${house.folder}/new`).length + readdirSync(`${house.folder}/cur`).length;
    } catch {
      return 0;
    }
  };

  before(async () => {
    ours = await authority('Wrenfield own authority');
    house = await openMailHouse(await ours.issue([HOST, '127.0.0.1']));
  });
  after(() => house?.close());

  describe('what we send', () => {
    const sender = new MailSender(named);
    after(() => sender.close());
    const account = (more: object = {}) => ({
      address: `smtp://${HOST}:${house.submissionPort}`,
      ...{ user: MAIL_USER.user, password: MAIL_USER.password, authority: ours.pem, ...more },
    });

    it('goes by STARTTLS (RFC 3207) and AUTH (RFC 4954), and arrives', async () => {
      const answer = await sender.send(account(), message('By submission'), 'key-1');
      expect(answer).to.include({ kind: 'accepted', remoteId: '<key-1@wrenfield.example>' });
      await until('the mail to arrive', () => inFolder() === 1);
      expect(house.log()).to.match(/Anonymous TLS connection|sasl_method=/);
    });

    it('a wrong password is told as one, and nothing goes in the clear', async () => {
      const found = await sender.lookIn(account({ password: 'a loud word' }));
      expect(found).to.include({ ok: false, refused: true });
      const strange = await sender.lookIn(account({ authority: undefined }));
      expect(strange).to.deep.include({ ok: false, refused: false });
      expect((strange as { detail: string }).detail).to.include('signed by an authority nobody here knows');
      const other = await authority('Another');
      const answer = await sender.send(account({ authority: other.pem }), message('Never'), 'key-2');
      expect(answer).to.include({ kind: 'again', code: 'encryption' });
      expect(inFolder()).to.equal(1);
    });
  });

  describe('a mailbox', () => {
    const boxes = new MailAccounts(named);
    const account = (more: object = {}) => ({
      address: `imap://${HOST}:${house.imapPort}`,
      ...{ user: MAIL_USER.user, password: MAIL_USER.password, authority: ours.pem, ...more },
    });
    const wanted = (more: object = {}) => ({ folder: 'INBOX', sender: '', subject: '', text: '', ...more });
    const look = { most: 2, mostBytes: 1_000_000, now: Date.now() };

    it('is reached by STARTTLS or TLS; another authority, another password and a folder that is gone are told', async () => {
      const folders = await boxes.folders(account());
      expect(folders).to.deep.equal({ ok: true, value: [{ path: 'INBOX', mails: 1 }] });
      expect((await new MailAccounts(addressGuard(true)).folders(account({ address: house.imaps }))).ok).to.equal(true);
      const problem = async (of: object, folder = 'INBOX') => {
        const found = await boxes.end(account(of), folder, 0);
        return found.ok ? 'none' : `${found.refused}: ${found.problem}`;
      };
      expect(await problem({ password: 'a loud word' })).to.equal(
        'true: The mail server does not accept this user and password.',
      );
      expect(await problem({ authority: undefined })).to.include('false: The mail server’s certificate is signed by');
      expect(await problem({}, 'Gone')).to.equal('true: There is no folder of this name any more. Choose another.');
      expect(await problem({ address: `imap://${HOST}:1` })).to.equal('false: The mail server does not answer.');
      const shut = new MailAccounts(addressGuard(false));
      for (const address of [
        house.imap,
        house.imap.replace('127.0.0.1', 'localhost'),
        house.imap.replace('127.0.0.1', '[::1]'),
      ])
        expect(await shut.folders(account({ address })), address).to.include({ ok: false, refused: true });
    });

    it('gives what is wanted and new, page by page, and leaves what it has read as it was', async () => {
      const start = await boxes.end(account(), 'INBOX', look.now);
      if (!start.ok) throw new Error(start.problem);
      for (const [n, from] of [
        'Ana <ana@example.com>',
        'Zoë <zoe@example.org>',
        'Ana <ana@example.com>',
        'Ana <ana@example.com>',
      ].entries())
        await write({ from, subject: `Lesson Nº ${n}`, text: n === 3 ? 'About the harp' : 'About the cello' });
      await until('four more', () => inFolder() === 5);
      const first = await boxes.mails(account(), wanted(), start.value, look);
      if (!first.ok) throw new Error(first.problem);
      expect(first.value.mails.map(({ bytes }) => /^Subject: (.*)\r$/m.exec(bytes.toString())![1])).to.have.length(2);
      expect(first.value.more).to.equal(true);
      const second = await boxes.mails(account(), wanted(), first.value.place, look);
      if (!second.ok) throw new Error(second.problem);
      expect([second.value.mails.length, second.value.more]).to.deep.equal([2, false]);
      const none = await boxes.mails(account(), wanted(), second.value.place, look);
      expect(none.ok && none.value.mails).to.deep.equal([]);
      // The server picks: what is not wanted never leaves it, and is not looked at again.
      const ana = await boxes.mails(account(), wanted({ sender: 'ANA@example.com', text: 'cello' }), start.value, {
        ...look,
        most: 10,
      });
      expect(ana.ok && ana.value.mails.length).to.equal(2);
      const zoe = await boxes.mails(account(), wanted({ subject: 'nº 1' }), start.value, look);
      expect(zoe.ok && zoe.value.mails.length).to.equal(1);
      const harp = await boxes.newest(account(), wanted({ text: 'harp' }), 200);
      expect(harp.ok && harp.value?.bytes.length).to.equal(200);
      // Read only: nothing there is marked as read.
      expect(readdirSync(`${house.folder}/cur`).filter((name) => /:2,.*S/.test(name))).to.deep.equal([]);
    });

    it('that was made anew is looked at from the day before on', async () => {
      const end = await boxes.end(account(), 'INBOX', look.now);
      if (!end.ok) throw new Error(end.problem);
      const anew = { ...end.value, validity: '1', uid: 1_000_000 };
      const all = await boxes.mails(account(), wanted(), anew, { ...look, most: 10 });
      expect(all.ok && all.value.mails.length).to.equal(5);
      const later = await boxes.mails(account(), wanted(), { ...anew, day: '2100-01-01' }, look);
      expect(later.ok && later.value.mails.length).to.equal(0);
      expect(later.ok && later.value.place.uid).to.equal(end.value.uid);
    });

    it('marks mails as read and moves them, where that is asked for, and doing it twice changes nothing', async () => {
      const end = await boxes.end(account(), 'INBOX', look.now);
      if (!end.ok) throw new Error(end.problem);
      const { validity, uid } = end.value;
      for (const _ of [1, 2]) {
        expect(await boxes.tidy(account(), 'INBOX', validity, [uid], { read: true })).to.deep.include({ ok: true });
        const moved = await boxes.tidy(account(), 'INBOX', validity, [uid - 1], { moveTo: 'Come in' });
        expect(moved).to.deep.include({ ok: true });
      }
      const folders = await boxes.folders(account());
      expect(folders.ok && folders.value).to.have.deep.members([
        { path: 'INBOX', mails: 4 },
        { path: 'Come in', mails: 1 },
      ]);
      // Of a folder that was made anew, numbers mean other mails: none is touched.
      await boxes.tidy(account(), 'INBOX', '1', [uid], { moveTo: 'Come in' });
      const after = await boxes.folders(account());
      expect(after.ok && after.value).to.deep.include({ path: 'INBOX', mails: 4 });
    });
  });

  describe('as a source, in real processes', () => {
    let stage: Stage;
    let oona: Coordinator;
    let source: string;
    before(async () => {
      stage = await openStage();
      oona = await signedIn(stage);
    });
    after(() => stage?.close());
    const came = async () =>
      (
        await stage.db.query<{ email: string | null; state: string; problem: string | null }>(
          'select l.email, a.state, a.problem from arrival a left join lead l on l.id = a.lead_id where a.source_id = $1 order by a.received_at, l.email',
          [source],
        )
      ).rows;
    const mailsIn = async (folder: string) => {
      const account = { address: house.imaps, user: MAIL_USER.user, password: MAIL_USER.password, authority: ours.pem };
      const folders = await new MailAccounts(addressGuard(true)).folders(account);
      if (!folders.ok) throw new Error(folders.problem);
      return folders.value.find(({ path }) => path === folder)?.mails ?? 0;
    };
    const look = () => stage.db.query('update pull set next_at = now() where source_id = $1', [source]);
    const leads = async () => (await came()).flatMap(({ email }) => (email ? [email] : []));

    it('brings in what comes from now on, within moments, as the server says so', async () => {
      const made = await oona.call<{ id: string; found: string; detail: string }>('POST', '/api/connections', {
        ...{ kind: 'mail_account', name: 'Enquiries', address: house.imap, user: MAIL_USER.user },
        ...{ secret: MAIL_USER.password, untried: true },
      });
      expect(made.status, made.body.detail).to.equal(200);
      await oona.call('PUT', `/api/connections/${made.body.id}/care`, { keyUntil: '', authority: ours.pem });
      const tried = await oona.call<{ found: string }>('POST', `/api/connections/${made.body.id}/try`);
      expect(tried.body.found).to.match(/^It lets us in as enquiries: (one folder|2 folders)\.$/);
      const input = { kind: 'mail-account', connectionId: made.body.id, folder: 'INBOX', subject: 'lesson' };
      const same = await oona.call<{ detail: string }>('POST', '/api/sources', {
        ...input,
        afterwards: 'move',
        moveTo: 'INBOX',
      });
      expect(same.body.detail).to.include('another folder');
      const added = await oona.call<{ id: string; detail: string }>('POST', '/api/sources', {
        ...{ ...input, afterwards: 'move', moveTo: 'Come in' },
      });
      expect(added.status, added.body.detail).to.equal(200);
      source = added.body.id;
      await oona.call('PUT', `/api/sources/${source}/card`, {
        fields: { first_name: 'from_name', email: 'from_email' },
        consent: { kind: 'not_asked' },
      });
      const before = { box: await mailsIn('INBOX'), moved: await mailsIn('Come in') };
      await until('the mailbox to be watched', () => /Login: user=<enquiries>/.test(house.log()));
      await write({ from: 'Bo <bo@example.net>', subject: 'A lesson please', text: 'Hello' });
      await write({ from: 'Bank <bank@example.net>', subject: 'Your statement', text: 'Private' });
      await until('Bo', async () => (await leads()).length === 1);
      expect(await leads()).to.deep.equal(['bo@example.net']);
      await until('the mail to be moved', async () => (await mailsIn('Come in')) === before.moved + 1);
      // The statement of the bank stays where it is: nothing that is not wanted is touched.
      expect(await mailsIn('INBOX')).to.equal(before.box + 1);
    });

    it('with the mail server away for a moment nothing is lost, and nothing comes twice', async () => {
      await house.stopImap();
      writeFileSync(
        `${house.folder}/new/1.cy`,
        'From: Cy <cy@example.net>\r\nTo: enquiries@wrenfield.example\r\nSubject: Lesson\r\nMessage-ID: <cy@example.net>\r\n\r\nWhile it was away\r\n',
      );
      await look();
      await until('the trouble to be seen', async () => {
        const { rows } = await stage.db.query('select problem from pull where source_id = $1', [source]);
        return rows[0].problem === 'The mail server does not answer.';
      });
      await house.startImap();
      await write({
        from: 'Di <di@example.net>',
        subject: 'Lesson',
        text: 'Again there',
        messageId: '<di@example.net>',
      });
      await write({
        from: 'Di <di@example.net>',
        subject: 'Lesson',
        text: 'Again there',
        messageId: '<di@example.net>',
      });
      await look();
      await until('Di', async () => (await leads()).includes('di@example.net'));
      expect(await leads()).to.have.members(['bo@example.net', 'cy@example.net', 'di@example.net']);
    });

    it('a mail of Pine Bell’s own is put aside: nobody is told of what was told', async () => {
      const sender = new MailSender(named);
      const account = {
        address: `smtp://${HOST}:${house.submissionPort}`,
        user: MAIL_USER.user,
        password: MAIL_USER.password,
      };
      await sender.send({ ...account, authority: ours.pem }, message('A lesson was asked for'), 'told-1');
      sender.close();
      await until('the mail to arrive', () => house.log().includes('<told-1@wrenfield.example>') && inFolder() > 0);
      await look();
      await until('it to be put aside', async () =>
        (await came()).some(({ problem }) => problem === 'Pine Bell sent this itself.'),
      );
      expect(await leads()).to.not.include('hello@wrenfield.example');
    });

    it('both are signed in to by access somebody has allowed (OAuth 2, RFC 7628), which the mailbox asks an independent provider about', async () => {
      const subject = { now: { sub: MAIL_USER.user, email: MAIL_USER.address } };
      const provider = await independentService(`${stage.url}/allowed`, subject, 6);
      const tokens = await openMailHouse(await ours.issue(['127.0.0.1']), `${provider.issuer}/me`);
      const access = {
        ...{ authorizeAddress: `${provider.issuer}/auth`, tokenAddress: `${provider.issuer}/token`, shows: 'basic' },
        ...{ clientId: 'pine-bell', scope: 'openid email profile' },
      };
      const found: string[] = [];
      for (const of of [
        { kind: 'mail_account', address: tokens.imap },
        { kind: 'mail_server', address: tokens.submission, fromName: 'Oona', fromAddress: 'hello@wrenfield.example' },
      ]) {
        const made = await oona.call<{ id: string; found: string; detail: string }>('POST', '/api/connections', {
          ...{ ...of, name: 'By access', user: MAIL_USER.user, secret: 'a secret of theirs', access },
        });
        expect(made.body.found, made.body.detail).to.equal(
          'Kept. Now open this connection, and allow access to it there.',
        );
        const { id } = made.body;
        await oona.call('PUT', `/api/connections/${id}/care`, { keyUntil: '', authority: ours.pem });
        const begun = await oona.call<{ address: string; detail: string }>('POST', `/api/connections/${id}/access`);
        expect(begun.status, begun.body.detail).to.equal(200);
        let to = await provider.follow(begun.body.address);
        for (let n = 0; n < 3; n++) {
          const answer = await fetch(to, { redirect: 'manual', headers: { cookie: oona.cookie } });
          const next = answer.headers.get('location');
          if (next) to = new URL(next, to);
        }
        expect(to.pathname).to.equal(`/connections/${id}`);
        const tried = async () => {
          const { body } = await oona.call<{ found: string; detail: string }>('POST', `/api/connections/${id}/try`);
          return body.found ?? body.detail;
        };
        found.push(await tried());
        // Its token has run out by then: it is renewed by itself.
        await new Promise((wait) => setTimeout(wait, 6000));
        found.push(await tried());
      }
      expect(found).to.deep.equal([
        ...['It lets us in as enquiries: one folder.', 'It lets us in as enquiries: one folder.'],
        ...['It lets us in as enquiries.', 'It lets us in as enquiries.'],
      ]);
      expect(tokens.log()).to.match(/Login: user=<enquiries>, method=(XOAUTH2|OAUTHBEARER)/);
      await Promise.all([tokens.close(), provider.close()]);
    });
  });
});
