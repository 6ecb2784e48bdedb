import { type AddressInfo, connect } from 'node:net';
import { createServer } from 'node:tls';
import { expect } from 'chai';
import type { Answer } from '../../src/core/delivery/answer.ts';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { type Heard, type SmppAccount, SmppSessions } from '../../src/gateways/smpp/sessions.ts';
import { type Centre, openCentre, type Told } from '../stage/carrier/centre.ts';
import { authority } from '../stage/certificates.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

const hexOf = (text: string) => Buffer.from(text, 'latin1').toString('hex');
const ucs2 = (text: string) => Buffer.from(text, 'utf16le').swap16().toString('hex');
/** The first parts of a text in the 7-bit alphabet read without its letters but those it shares with ASCII. */
const plain = ({ hex = '' }: Told, header = 0) => Buffer.from(hex, 'hex').subarray(header).toString('latin1');

describe('texts by SMPP 3.4, against a message centre nobody here wrote (Net::SMPP)', function () {
  this.timeout(60_000);
  let centre: Centre;
  before(async () => {
    centre = await openCentre();
  });
  after(() => centre?.stop());

  describe('one session', () => {
    let sessions: SmppSessions;
    let heard: (Heard & { connectionId: string })[];
    let refuse: boolean;
    beforeEach(() => {
      heard = [];
      refuse = false;
      centre.rules({ next: [], sessions: 5, hex: 0, hold: 0 });
      sessions = new SmppSessions({ guard: addressGuard(true), now: Date.now, seen: () => {} });
      sessions.listen(async (connectionId, one) => {
        if (refuse) throw new Error('the database is away');
        heard.push({ connectionId, ...one });
      });
    });
    afterEach(() => sessions.close());
    /** For a centre that is not going to answer. */
    const impatient = async (work: (own: SmppSessions) => Promise<void>) => {
      const own = new SmppSessions({ guard: addressGuard(true), now: Date.now, seen: () => {}, answerMs: 1500 });
      await work(own).finally(() => own.close());
    };
    const account = (more: Partial<SmppAccount> = {}): SmppAccount => ({
      ...{ connectionId: 'one', address: centre.address, user: centre.user, password: centre.password },
      ...{ letters: 'gsm', perSecond: 0, window: 10, ...more },
    });
    const send = (text: string, more: Partial<SmppAccount> = {}, from = '+447700900151') =>
      sessions.send(account(more), { to: '+447700900142', from, text });
    /** What the centre saw of a text, which it tells of by a way of its own. */
    const seen = async (text: string, more: Partial<SmppAccount> = {}, from = '+447700900151') => {
      const before = centre.texts().length;
      const answer = await send(text, more, from);
      await until('the centre to tell', () => centre.texts().length > before);
      return { ...centre.texts().at(-1)!, answer };
    };

    it('a text goes in the alphabet of phones, with the kinds of its numbers (3GPP TS 23.038 §6.2.1, SMPP 3.4 §5.2.5)', async () => {
      const one = await seen('Ünder €5 @ noon [yes]');
      expect(one.answer).to.deep.include({ kind: 'accepted', remoteId: one.id });
      expect(one).to.deep.include({ from: '447700900151', fromTon: 1, to: '447700900142', toTon: 1, toNpi: 1 });
      expect(one).to.deep.include({ coding: 0, esm: 0, receipt: 1 });
      // From the table of the standard: Ü is 5E, € is 1B 65, @ is 00, [ is 1B 3C, ] is 1B 3E.
      expect(one.hex).to.equal(`5e${hexOf('nder ')}1b65${hexOf('5 ')}00${hexOf(' noon ')}1b3c${hexOf('yes')}1b3e`);
      expect(await seen('Hi', {}, 'Wrenfield')).to.deep.include({ from: 'Wrenfield', fromTon: 5 });
      expect(await seen('Hi', {}, '60777')).to.deep.include({ from: '60777', fromTon: 3 });
    });

    it('letters phones have no place for go as UCS-2, and a carrier that wants others gets them', async () => {
      expect(await seen('Grüße 🎺')).to.deep.include({ coding: 8, hex: ucs2('Grüße 🎺') });
      expect(await seen('Grüße', { letters: 'latin1' })).to.deep.include({ coding: 3, hex: hexOf('Grüße') });
      expect(await seen('Żółw', { letters: 'latin1' })).to.deep.include({ coding: 8, hex: ucs2('Żółw') });
      expect(await seen('Hi', { letters: 'unicode' })).to.deep.include({ coding: 8, hex: ucs2('Hi') });
    });

    it('a longer one goes in parts that name each other (3GPP TS 23.040 §9.2.3.24.1), and no character is cut in two', async () => {
      const before = centre.texts().length;
      const text = `${'a'.repeat(152)}€${'b'.repeat(160)}`;
      const answer = await send(text);
      await until('the centre to tell of three', () => centre.texts().length === before + 3);
      const parts = centre.texts().slice(before);
      expect(answer).to.deep.include({ kind: 'accepted', remoteIds: parts.map(({ id }) => id) });
      expect(parts).to.have.length(3);
      const headers = parts.map(({ hex }) => hex!.slice(0, 12));
      expect(headers[0]).to.match(/^050003..0301$/);
      expect(headers.map((header) => header.slice(0, 8))).to.deep.equal(Array(3).fill(headers[0]!.slice(0, 8)));
      expect(headers.map((header) => header.slice(8))).to.deep.equal(['0301', '0302', '0303']);
      expect(parts.every(({ esm }) => esm === 0x40)).to.equal(true);
      // The sign of two septets does not fit behind 152.
      expect(parts.map((part) => plain(part, 6)).join('')).to.equal(`${'a'.repeat(152)}\x1be${'b'.repeat(160)}`);
      expect(plain(parts[0]!, 6)).to.equal('a'.repeat(152));
    });

    it('what the centre answers is told apart: again, refused, taken or not nobody knows', async () => {
      const answered = async (next: number | 'silent' | 'breaks'): Promise<Answer> => {
        centre.rules({ next: [next] });
        return send('Hi');
      };
      expect(await answered(0x58)).to.deep.include({ kind: 'again', code: 'smpp-88', afterMs: 2000 });
      expect(await answered(0x14)).to.deep.include({ kind: 'again', code: 'smpp-20' });
      expect(await answered(0x0b)).to.deep.include({ kind: 'refused', code: 'smpp-11' });
      expect(await answered(0x0404)).to.deep.include({
        kind: 'refused',
        detail: 'The carrier refused it. (0x00000404)',
      });
      await impatient(async (own) => {
        centre.rules({ next: ['silent'] });
        const message = { to: '+447700900142', from: '+447700900151', text: 'Hi' };
        expect(await own.send(account(), message)).to.deep.include({ kind: 'unsure', code: 'no-answer' });
      });
      expect(await answered('breaks')).to.deep.include({ kind: 'unsure', code: 'no-answer' });
      // A session that broke is begun anew with the next text.
      expect(await answered(0)).to.deep.include({ kind: 'accepted' });
    });

    it('of a text in parts the rest goes after a pause, and a person hears when it cannot', async () => {
      const before = centre.texts().length;
      centre.rules({ next: [0, 0x58, 0] });
      expect((await send('c'.repeat(200))).kind).to.equal('accepted');
      await until('the centre to tell of all', () => centre.texts().length === before + 3);
      expect(
        centre
          .texts()
          .slice(before)
          .map((part) => plain(part, 6).length),
      ).to.deep.equal([153, 47, 47]);
      centre.rules({ next: [0, 0x0b] });
      const answer = await send('c'.repeat(200));
      expect(answer.kind).to.equal('unsure');
      expect(answer.detail).to.include('1 of its 2 parts was taken, the next was not.');
    });

    it('no more wait for an answer at once than the window lets', async () => {
      await seen('First');
      const before = centre.texts().length;
      centre.rules({ hold: 1 });
      const many = Promise.all(Array.from({ length: 5 }, (_, n) => send(`Held ${n}`, { window: 2 })));
      await until('two of them', () => centre.texts().length === before + 2);
      await new Promise((resolve) => setTimeout(resolve, 200));
      expect(centre.texts().length).to.equal(before + 2);
      centre.rules({ hold: 0 });
      centre.do({ do: 'answer' });
      expect((await many).map(({ kind }) => kind)).to.deep.equal(Array(5).fill('accepted'));
    });

    it('whoever is not let in hears why, and whoever needs two sessions and gets one', async () => {
      expect(await sessions.lookIn(account())).to.deep.equal({ ok: true });
      expect(await sessions.lookIn(account({ password: 'wrong' }))).to.deep.equal({
        ...{ ok: false, refused: true, detail: 'The carrier does not accept the password.' },
      });
      expect((await send('Hi', { password: 'wrong', connectionId: 'two' })).kind).to.equal('refused');
      await until('those who looked in to be gone', () => centre.sessions() === 0);
      centre.rules({ sessions: 1 });
      const once = await sessions.lookIn(account());
      expect(once).to.deep.include({ ok: false, refused: false });
      expect(once.ok ? '' : once.detail).to.include('only once at a time');
      const guarded = new SmppSessions({ guard: addressGuard(false), now: Date.now, seen: () => {} });
      const inside = await guarded.lookIn(account());
      expect(inside.ok ? '' : inside.detail).to.include('127.0.0.1 is not a public address');
    });

    it('by TLS the certificate is looked at, an authority of one’s own believed', async () => {
      const ours = await authority('Wrenfield');
      const plain = new URL(centre.address);
      const door = createServer(await ours.issue(['127.0.0.1']), (coming) => {
        const going = connect(Number(plain.port), plain.hostname);
        coming.pipe(going).pipe(coming);
        for (const end of [coming, going])
          end
            .on('error', () => {})
            .on('close', () => {
              coming.destroy();
              going.destroy();
            });
      });
      await new Promise<void>((resolve) => door.listen(0, '127.0.0.1', resolve));
      const address = `smpps://127.0.0.1:${(door.address() as AddressInfo).port}`;
      const unknown = await sessions.lookIn(account({ address }));
      expect(unknown.ok ? '' : unknown.detail).to.include('signed by an authority nobody here knows');
      expect(await sessions.lookIn(account({ address, authority: ours.pem }))).to.deep.equal({ ok: true });
      const sent = await sessions.send(account({ address, authority: ours.pem, connectionId: 'tls' }), {
        ...{ to: '+447700900142', from: 'Wrenfield', text: 'Safe' },
      });
      expect(sent.kind).to.equal('accepted');
      await sessions.keep([]);
      await sessions.close();
      await new Promise((resolve) => door.close(resolve));
    });

    it('a centre that is away is told as such, left alone for a moment, and found again', async () => {
      expect((await send('Before')).kind).to.equal('accepted');
      await centre.stop();
      const away = await send('While');
      expect(away).to.deep.include({ kind: 'again', code: 'no-session', detail: 'The carrier does not answer.' });
      await centre.start();
      await until('the pause to be over', async () => (await send('After')).kind === 'accepted');
    });

    it('what is brought is read by its letters, and brought again when it could not be taken', async () => {
      await sessions.keep([account()]);
      const come = (seq: number, more: { hex: string; [key: string]: unknown }) =>
        centre.deliver({ from: '447700900142', seq, ...more });
      come(901, { hex: `00${hexOf(' noon')}` });
      come(902, { hex: ucs2('Grüße 🎺'), coding: 8 });
      come(903, { hex: hexOf('Grüße'), coding: 3 });
      come(904, { hex: hexOf('a@b_c'), coding: 1 });
      await until('all four', () => heard.length === 4);
      expect(heard.map(({ got }) => got.text)).to.deep.equal(['@ noon', 'Grüße 🎺', 'Grüße', 'a@b_c']);
      expect(heard[0]!.got).to.deep.include({ from: '+447700900142', to: '+447700900151' });
      refuse = true;
      come(905, { hex: hexOf('Yes') });
      await until('it to be asked for again', () =>
        centre.told.some(({ event, seq, status }) => event === 'taken' && seq === 905 && status === 0x64),
      );
      refuse = false;
      // Told of something on its way, it is no text of anybody's.
      come(906, { hex: hexOf('id:1 stat:ENROUTE'), esm: 0x20 });
      come(907, { hex: hexOf('Yes') });
      await until('it to come', () => heard.length === 5);
      expect(heard[4]!.got.text).to.equal('Yes');
      centre.do({ do: 'enquire' });
      await until('the sign of life', () => centre.told.some(({ event }) => event === 'lives'));
    });

    for (const [what, hex] of [
      ['nonsense', 'ffffffffffffffffffffffffffffffff'],
      ['a unit that says it is shorter than its head', '00000004'],
      ['one cut off in its fields', `00000014${'00000005'}00000000${'000003e8'}01020304`],
      ['one nobody knows', `00000010${'00000999'}00000000${'000003e9'}`],
    ] as const)
      it(`${what} from the centre harms nothing: the next text goes`, async () => {
        await impatient(async (own) => {
          await own.keep([account()]);
          centre.do({ do: 'raw', hex });
          const message = { to: '+447700900142', from: '+447700900151', text: 'Still here' };
          await until('the next text', async () => (await own.send(account(), message)).kind === 'accepted');
        });
      });
  });

  describe('in real processes', () => {
    let stage: Stage;
    let oona: Coordinator;
    before(async () => {
      stage = await openStage();
      oona = await signedIn(stage);
      centre.rules({ next: [], sessions: 5, hex: 0, hold: 0 });
      const { rows } = await stage.db.query<{ id: string }>(`select id from connection where kind = 'text_carrier'`);
      const input = { kind: 'text_carrier', name: 'Carrier', sender: '+447700900151', address: centre.address };
      const smpp = { letters: 'gsm', perSecond: 0, window: 10 };
      const put = (more: object) =>
        oona.call<{ found: string; detail: string; reportAddress: string | null }>(
          'PUT',
          `/api/connections/${rows[0]!.id}`,
          { ...input, ...more },
        );
      expect((await put({ smpp })).body.detail).to.include('system_id');
      expect((await put({ smpp, user: centre.user, address: 'https://x.example' })).body.detail).to.include('smpps://');
      expect((await put({ smpp, user: centre.user, secret: 'wrong' })).body.detail).to.include('the password');
      const kept = await put({ smpp, user: centre.user, secret: centre.password });
      expect(kept.body.found, kept.body.detail).to.equal('It lets us in as wrenfield, twice at a time as is needed.');
      expect(kept.body.reportAddress).to.equal(null);
    });
    after(() => stage?.close());

    const flowOf = (message: string) =>
      liveFlow(stage, oona, [momentOf('m', toTheLead(freshStep('text', 't', { message })))]);
    const deliveryOf = async (email: string) =>
      (
        await stage.db.query<{ state: string; detail: string }>(
          'select d.state, d.detail from delivery d join lead l on l.id = d.lead_id where l.email = $1',
          [email],
        )
      ).rows[0];
    const to = (number: string) => centre.texts().filter((text) => text.to === number);
    let seq = 2000;
    const receipt = (id: string, stat: string, err = '000') =>
      centre.deliver({
        ...{ from: '447700900142', seq: ++seq, esm: 0x04 },
        hex: hexOf(
          `id:${id} sub:001 dlvrd:001 submit date:2612020900 done date:2612020901 stat:${stat} err:${err} text:Hello`,
        ),
      });

    it('a lead hears back, and what became of each part is known when all have said so', async () => {
      const flow = await flowOf(`Hello {{ lead.first_name }}, ${'welcome '.repeat(25)}`);
      await flow.send({ name: 'Ada', email: 'ada.smpp@example.com', phone: '07700 900181' });
      await flow.over('ada.smpp@example.com');
      await until('the centre to tell of both', () => to('447700900181').length === 2);
      const parts = to('447700900181');
      expect(parts).to.have.length(2);
      receipt(parts[1]!.id!, 'DELIVRD');
      await until('the first receipt', async () => {
        const { rows } = await stage.db.query(`select from taken_message where outcome = 'delivered'`);
        return rows.length === 1;
      });
      expect((await deliveryOf('ada.smpp@example.com'))!.state).to.equal('accepted');
      receipt(parts[0]!.id!, 'DELIVRD');
      await until('both', async () => (await deliveryOf('ada.smpp@example.com'))!.state === 'delivered');
    });

    it('a carrier that answers in hexadecimal and reports in decimal is understood, and what did not arrive is told', async () => {
      centre.rules({ hex: 1 });
      const flow = await flowOf('Hello {{ lead.first_name }}');
      await flow.send({ name: 'Bo', email: 'bo.smpp@example.com', phone: '07700 900182' });
      const run = await flow.over('bo.smpp@example.com');
      receipt(to('447700900182')[0]!.id!, 'UNDELIV', '034');
      await until('it to be told', async () => (await deliveryOf('bo.smpp@example.com'))!.state === 'undelivered');
      expect((await deliveryOf('bo.smpp@example.com'))!.detail).to.equal(
        'It cannot be delivered (the carrier’s error 034)',
      );
      expect((await stage.db.query('select title from needs_you where run_id = $1', [run.id])).rows).to.deep.equal([
        { title: 'Text not delivered' },
      ]);
      centre.rules({ hex: 0 });
    });

    it('what they write comes in whole though it comes in parts and out of order, and STOP holds', async () => {
      const inbound = async () =>
        (
          await stage.db.query<{ text: string }>(
            `select i.text from inbound i join lead l on l.id = i.lead_id where l.email = 'ada.smpp@example.com' order by i.received_at, i.id`,
          )
        ).rows.map(({ text }) => text);
      const write = (hex: string, esm = 0) => centre.deliver({ from: '447700900181', seq: ++seq, hex, esm });
      write(`0500032a0302${hexOf('and can my ')}`, 0x40);
      write(`0500032a0303${hexOf('sister come too?')}`, 0x40);
      write(`0500032a0302${hexOf('and can my ')}`, 0x40);
      write(`0500032a0301${hexOf('Thank you, ')}`, 0x40);
      await until('the whole', async () => (await inbound()).length === 1);
      expect(await inbound()).to.deep.equal(['Thank you, and can my sister come too?']);
      // One whose other half never comes is shown with what is missing.
      write(`0500032b0201${hexOf('The first half')}`, 0x40);
      await until('the half', async () => (await stage.db.query('select from text_part')).rowCount === 1);
      await stage.db.query(`update text_part set at = at - interval '10 minutes'`);
      await until('it to be shown', async () => (await inbound()).includes('The first half […]'));
      expect((await stage.db.query('select from text_part')).rowCount).to.equal(0);
      write(hexOf('STOP'));
      await until('the STOP to hold', async () => {
        const { rowCount } = await stage.db.query(
          `select from consent c join lead l on l.id = c.lead_id where l.email = 'ada.smpp@example.com' and c.channel = 'text' and c.state = 'withdrawn'`,
        );
        return rowCount === 1;
      });
    });

    it('a carrier that takes a text and dies is not sent it a second time: a person is asked', async () => {
      const flow = await flowOf('Hello {{ lead.first_name }}');
      centre.rules({ next: ['breaks'] });
      await flow.send({ name: 'Cy', email: 'cy.smpp@example.com', phone: '07700 900183' });
      const run = await flow.over('cy.smpp@example.com');
      expect(run.state).to.equal('needs_you');
      expect((await deliveryOf('cy.smpp@example.com'))!.state).to.equal('unsure');
      expect(to('447700900183')).to.have.length(1);
    });

    it('while the carrier is away texts wait, and go once each when it is back; so does what is written meanwhile', async () => {
      const flow = await flowOf('Hello {{ lead.first_name }}');
      await centre.stop();
      await flow.send({ name: 'Di', email: 'di.smpp@example.com', phone: '07700 900184' });
      await until('a try', async () => {
        const { rows } = await stage.db.query(
          `select from step_result s join run r on r.id = s.run_id join lead l on l.id = r.lead_id where l.email = 'di.smpp@example.com' and s.attempts::text like '%no-session%'`,
        );
        return rows.length === 1;
      });
      await centre.start();
      await flow.over('di.smpp@example.com');
      expect(to('447700900184')).to.have.length(1);
      await until('to be listened to', () => centre.sessions() > 0);
      centre.deliver({ from: '447700900184', seq: ++seq, hex: hexOf('Yes please') });
      await until('it to come in', async () => {
        const { rows } = await stage.db.query(`select from inbound where text = 'Yes please'`);
        return rows.length === 1;
      });
    });
  });
});
