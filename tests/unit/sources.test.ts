import { expect } from 'chai';
import fc from 'fast-check';
import type { GridRow } from '../../src/app/sheets/sheet-rows.ts';
import { SHIPPED } from '../../src/core/described/shipped/registry.ts';
import { guardFormula, unguardFormula } from '../../src/core/fields/formula-guard.ts';
import { checkAnswers } from '../../src/core/form/check-answers.ts';
import { FormPage, newFormPage, settleWordings } from '../../src/core/form/form-page.ts';
import { labelledLines } from '../../src/core/mail/labelled-lines.ts';
import { columnLetter, columnNames, findHeaderRow } from '../../src/core/sheets/header-row.ts';
import { matchColumns } from '../../src/core/sheets/match-columns.ts';
import { fitsFilter } from '../../src/core/sheets/row-filter.ts';
import type { RawArrival, SourceEntry } from '../../src/core/source/source-kind.ts';
import { findWhereFrom, whereFromUrl } from '../../src/core/source/where-from.ts';
import { ArrivalRate } from '../../src/engine/intake/arrival-rate.ts';
import { editsBetween } from '../../src/islands/sheets/row-edits.ts';
import { bookingCalendar } from '../../src/sources/booking-calendar/definition.ts';
import { funnel } from '../../src/sources/funnel/definition.ts';
import { stepIdFrom } from '../../src/sources/funnel/setup.ts';
import { mailbox } from '../../src/sources/mailbox/definition.ts';
import { shop } from '../../src/sources/shop/definition.ts';
import { webhook } from '../../src/sources/webhook/definition.ts';

const raw = (body: string, contentType = 'application/json', headers: Record<string, string> = {}): RawArrival => ({
  headers,
  contentType,
  body: Buffer.from(body),
});
const values = (entry: SourceEntry) => Object.fromEntries(entry.fields.map((field) => [field.key, field.value]));

describe('a webhook', () => {
  const settings = { signed: false, lists: 'each' as const };
  it('makes one arrival of each item of a list, each with its own part and its own id', async () => {
    const body = '[{"email":"a@example.org"},{"email":"b@example.org"}]';
    const read = await webhook.read(raw(body, 'application/json', { 'webhook-id': 'm1' }), settings);
    expect(
      read.ok && read.entries.map((entry) => [entry.externalId, values(entry).email, String(entry.part)]),
    ).to.deep.equal([
      ['m1#1', 'a@example.org', '{"email":"a@example.org"}'],
      ['m1#2', 'b@example.org', '{"email":"b@example.org"}'],
    ]);
  });
  it('makes one arrival of the whole list where that was chosen', async () => {
    const read = await webhook.read(raw('[{"email":"a"},{"email":"b"}]'), { ...settings, lists: 'whole' });
    expect(read.ok && read.entries.map(values)).to.deep.equal([{ '1.email': 'a', '2.email': 'b' }]);
  });
  it('takes nothing of a list when one item is not right, and says which', async () => {
    const read = await webhook.read(raw('[{"email":"a"},{}]'), settings);
    expect(!read.ok && read.problem).to.match(/^Item 2 of the list/);
  });
  it('reads XML with its attributes, repeated elements and references', async () => {
    const xml =
      '<?xml version="1.0"?><lead id="7"><name>Ada &amp; Bo</name><tag>x</tag><tag>y</tag><phone>07700 900142</phone></lead>';
    const read = await webhook.read(raw(xml, 'application/xml'), settings);
    expect(read.ok && values(read.entries[0]!)).to.deep.equal({
      'lead.id': '7',
      'lead.name': 'Ada & Bo',
      'lead.tag': 'x, y',
      'lead.phone': '07700 900142',
    });
  });
  it('reads multipart form data, and of a file its name and size', async () => {
    const body =
      '--b\r\ncontent-disposition: form-data; name="email"\r\n\r\nada@example.org\r\n--b\r\ncontent-disposition: form-data; name="cv"; filename="cv.pdf"\r\ncontent-type: application/pdf\r\n\r\n12345\r\n--b--\r\n';
    const read = await webhook.read(raw(body, 'multipart/form-data; boundary=b'), settings);
    expect(read.ok && values(read.entries[0]!)).to.deep.equal({ email: 'ada@example.org', cv: 'cv.pdf (5 bytes)' });
  });
});

describe('a funnel page', () => {
  const settings = {
    connectionId: 'c',
    stepId: 'step-0001',
    stepName: 'Opt-in',
    funnelName: 'Planner',
    events: ['opt-in' as const],
    byHand: false,
  };
  const told = (type: string, step = 'step-0001') =>
    JSON.stringify({
      type,
      id: 'e1',
      funnel: { id: 'f', name: 'Planner' },
      step: { id: step, name: 'Opt-in' },
      visit: {
        address: 'https://pages.example.org/p?utm_source=news&utm_campaign=spring%20sale&gclid=x1',
        referrer: 'https://blog.example.org/',
      },
      person: { first_name: 'Ada', email: 'ada@example.org' },
      order: { id: 'o', currency: 'GBP', total: '37.00', lines: [{ product: 'Kit', quantity: 2, price: '18.50' }] },
    });
  it('finds the ID in an ID, an address, or an address without its scheme', () => {
    for (const pasted of [
      'step-0001',
      'https://pages.example.org/planner/step-0001',
      'pages.example.org/planner/step-0001?x=1#top',
      ' step-0001 ',
    ])
      expect(stepIdFrom(pasted), pasted).to.equal('step-0001');
    for (const pasted of ['', 'planner', 'https://pages.example.org/planner', 'step-'])
      expect(stepIdFrom(pasted), pasted).to.equal(null);
  });
  it('reads the person, the order lines as a list, and where the visit came from', async () => {
    const read = await funnel.read(raw(told('funnel.purchase')), { ...settings, events: ['opt-in', 'purchase'] });
    if (!read.ok) throw new Error(read.problem);
    const [entry] = read.entries;
    expect(entry!.whereFrom).to.deep.include({
      utm_source: 'news',
      utm_campaign: 'spring sale',
      click_id: 'x1',
      landing_page: 'https://pages.example.org/p',
      referrer: 'https://blog.example.org/',
      page: 'Planner: Opt-in',
    });
    const lines = entry!.fields.find((field) => field.key === 'order.lines')!;
    expect([lines.value, lines.rows]).to.deep.equal(['2 × Kit', [{ name: 'Kit', quantity: '2', price: '18.50' }]]);
  });
  it('keeps out what it does not listen to, and refuses what belongs to another page', async () => {
    const purchase = await funnel.read(raw(told('funnel.purchase')), settings);
    expect(purchase.ok && purchase.entries[0]!.aside).to.match(/purchase/);
    expect(await funnel.read(raw(told('funnel.opt-in', 'step-2')), settings)).to.include({
      ok: false,
      code: 'other-form',
    });
  });
});

describe('a shop', () => {
  const told = (event: string, status: string) =>
    JSON.stringify({
      event,
      id: 'e',
      customer: { id: 'c', first_name: 'Ada', email: 'ada@example.org', accepts_marketing: false },
      order: { id: 'o', number: 4100, status, currency: 'GBP', total: '10.00', lines: [] },
    });
  const settings = {
    connectionId: 'c',
    events: ['order.updated' as const],
    statuses: ['Sent'],
    signed: true,
    byHand: false,
  };
  it('lets an order through when it comes to a chosen state, whatever its case', async () => {
    const sent = await shop.read(raw(told('order.updated', 'sent')), settings);
    const paid = await shop.read(raw(told('order.updated', 'paid')), settings);
    expect(sent.ok && sent.entries[0]!.aside).to.equal(undefined);
    expect(paid.ok && paid.entries[0]!.aside).to.match(/"paid"/);
  });
  it('demands a signature unless that was switched off', () => {
    expect(shop.signedBy(settings)).to.deep.equal({ way: 'described', hears: SHIPPED.shop.hears });
    expect(shop.signedBy({ ...settings, signed: false })).to.deep.equal({ way: 'nobody' });
  });
});

describe('a booking calendar', () => {
  const told = (event: string) =>
    JSON.stringify({
      type: `appointment.${event}`,
      id: event,
      appointment: {
        id: 'a',
        title: 'Trial lesson',
        start: '2026-11-26T16:00:00.000Z',
        end: '2026-11-26T16:30:00.000Z',
        bookedBy: 'staff',
        calendar: { id: 'cal-1', name: 'Piano room' },
        person: { name: 'Ada Venn', email: 'ada@example.org', phone: '' },
      },
    });
  it('takes the chosen happenings of the chosen calendars, by customer and desk alike', async () => {
    const settings = {
      connectionId: 'c',
      calendars: [{ id: 'cal-1', name: 'Piano room' }],
      events: ['booked' as const],
      colleagueId: null,
      byHand: false,
    };
    const booked = await bookingCalendar.read(raw(told('booked')), settings);
    expect(booked.ok && [booked.entries[0]!.aside, values(booked.entries[0]!)['appointment.booked_by']]).to.deep.equal([
      undefined,
      'the desk',
    ]);
    const missed = await bookingCalendar.read(raw(told('no-show')), settings);
    expect(missed.ok && missed.entries[0]!.aside).to.be.a('string');
    const other = await bookingCalendar.read(raw(told('booked')), {
      ...settings,
      calendars: [{ id: 'cal-2', name: 'x' }],
    });
    expect(other.ok && other.entries[0]!.aside).to.match(/Piano room/);
  });
});

describe('a mail', () => {
  it('of a contact form gives its labelled lines as fields', () => {
    const text =
      'Name: Ada Venn\r\nE-mail:  ada@example.org\n* Phone : 07700 900142\n\nMessage:\nCan we come\non Saturday?\n\nSee https://example.org: it is good\n> Name: Somebody Quoted\nName: Again\n';
    expect(labelledLines(text).map(({ key, value }) => [key, value])).to.deep.equal([
      ['name', 'Ada Venn'],
      ['e_mail', 'ada@example.org'],
      ['phone', '07700 900142'],
      ['message', 'Can we come\non Saturday?'],
    ]);
  });
  it('counts only when sender, subject and text fit', async () => {
    const mail =
      'From: Web <web@site.example>\r\nSubject: New enquiry\r\nMessage-ID: <1@site.example>\r\n\r\nName: Ada\r\n';
    const read = (change: Partial<{ sender: string; subject: string; text: string }>) =>
      mailbox.read(raw(mail, 'message/rfc822', { 'envelope-from': 'web@site.example' }), {
        sender: '',
        subject: '',
        text: '',
        ...change,
      });
    const [all, fits, no] = await Promise.all([
      read({}),
      read({ sender: 'SITE.example', subject: 'enquiry' }),
      read({ text: 'violin' }),
    ]);
    expect([all, fits, no].map((sourceReading) => sourceReading.ok && sourceReading.entries[0]!.aside)).to.deep.equal([
      undefined,
      undefined,
      'Not listened to: the text does not contain "violin".',
    ]);
    expect(all.ok && all.entries[0]!.externalId).to.equal('<1@site.example>');
  });
});

describe('a form page', () => {
  const page = FormPage.parse({
    ...newFormPage('Trial', 'Wrenfield'),
    screens: [
      {
        title: '',
        fields: [
          { key: 'email', label: 'Email', kind: 'email', required: true },
          { key: 'phone', label: 'Phone', kind: 'phone', required: false },
          { key: 'day', label: 'Day', kind: 'date', required: false },
          { key: 'which', label: 'Which', kind: 'choice', required: false, choices: ['Piano'] },
        ],
      },
    ],
  });
  it('says what is wrong with each answer', () => {
    const checked = checkAnswers(page, { email: 'nobody', phone: '12', day: '2026-02-30', which: 'Drums' }, 'GB');
    expect(!checked.ok && Object.keys(checked.problems)).to.deep.equal(['email', 'phone', 'day', 'which']);
    expect(checkAnswers(page, {}, 'GB')).to.deep.equal({ ok: false, problems: { email: 'Please fill this in.' } });
    expect(checkAnswers(page, { email: ' a@example.org ', day: '2028-02-29' }, 'GB')).to.deep.equal({
      ok: true,
      answers: { email: 'a@example.org', phone: '', day: '2028-02-29', which: '' },
    });
  });
  it('gives a changed consent wording a version of its own and keeps the old ones', () => {
    const first = settleWordings(null, page, '2026-01-01T00:00:00Z');
    const same = settleWordings(first, { ...first, title: 'Other' }, '2026-01-02T00:00:00Z');
    const changed = settleWordings(
      same,
      { ...same, consent: { ...same.consent, text: 'New words' } },
      '2026-01-03T00:00:00Z',
    );
    expect(same.consent.wordings).to.deep.equal(first.consent.wordings);
    expect(changed.consent.wordings.map((wording) => [wording.version, wording.text])).to.deep.equal([
      [1, page.consent.text],
      [2, 'New words'],
    ]);
  });
  it('cannot be saved with two equal keys, a choice of nothing, or a consent without words', () => {
    const bad = (change: object) => FormPage.safeParse({ ...page, ...change }).success;
    const [screen] = page.screens;
    expect(bad({ screens: [screen, screen] })).to.equal(false);
    expect(bad({ screens: [{ title: '', fields: [{ ...screen!.fields[3], choices: [] }] }] })).to.equal(false);
    expect(bad({ consent: { ...page.consent, text: ' ' } })).to.equal(false);
  });
});

describe('tables', () => {
  it('find the row that names the columns, below a title, and none where there is none', () => {
    expect(findHeaderRow([['Contacts at stand 14'], ['Name', 'Email'], ['Ada', 'ada@example.org']])).to.equal(1);
    expect(
      findHeaderRow([
        ['Name', 'Email'],
        ['Ada', 'ada@example.org'],
      ]),
    ).to.equal(0);
    expect(
      findHeaderRow([
        ['1', 'ada@example.org'],
        ['2', 'bo@example.org'],
      ]),
    ).to.equal(null);
  });
  it('name columns without two alike', () => {
    expect(columnNames(['Name', '', 'name'], 4)).to.deep.equal(['Name', 'Column B', 'name 2', 'Column D']);
    expect([0, 25, 26, 701, 702].map(columnLetter)).to.deep.equal(['A', 'Z', 'AA', 'ZZ', 'AAA']);
  });
  it('know a column again when it is renamed or moved', () => {
    const known = matchColumns([], ['Name', 'Email', 'Phone']);
    const ids = (names: string[]) => matchColumns(known, names).map(({ id, index }) => [id, index]);
    expect(ids(['Email', 'Name', 'Phone'])).to.deep.equal([
      ['email', 0],
      ['name', 1],
      ['phone', 2],
    ]);
    expect(ids(['Name', 'Mail address', 'Phone'])).to.deep.equal([
      ['name', 0],
      ['email', 1],
      ['phone', 2],
    ]);
    expect(ids(['Name', 'Phone'])).to.deep.equal([
      ['name', 0],
      ['phone', 1],
      ['email', -1],
    ]);
    expect(ids(['Name', 'Email', 'Phone', 'Age'])).to.deep.equal([
      ['name', 0],
      ['email', 1],
      ['phone', 2],
      ['age', 3],
    ]);
  });
  it('write cells that a spreadsheet would run as text, and read back what was written', () => {
    expect(
      ['=1+1', '@x', '-cmd', '+447700900142', '-5', '+44 (0)20', "'=x", '  =1+1', ' - 5 '].map(guardFormula),
    ).to.deep.equal(["'=1+1", "'@x", "'-cmd", '+447700900142', '-5', '+44 (0)20', "''=x", "'  =1+1", ' - 5 ']);
    fc.assert(
      fc.property(
        fc.oneof(fc.string(), fc.stringMatching(/^['=+@ -]{0,3}.{0,5}$/)),
        (cell) => unguardFormula(guardFormula(cell)) === cell,
      ),
    );
  });
  it('filter without regard to case and outer spaces', () => {
    expect(fitsFilter(' YES ', { test: 'is', value: 'yes' })).to.equal(true);
    expect(fitsFilter('', { test: 'is_empty', value: '' })).to.equal(true);
    expect(fitsFilter('Cello lessons', { test: 'contains', value: 'LESSON' })).to.equal(true);
  });
});

describe('edits of the grid', () => {
  it('turn what was there into what is there, whatever was done in between', () => {
    const row = fc.record({
      id: fc.constantFrom('a', 'b', 'c', 'd', 'e', 'f'),
      cells: fc.dictionary(fc.constantFrom('x', 'y'), fc.constantFrom('', '1', '2')),
    });
    const rows = fc.uniqueArray(row, { selector: (one) => one.id, maxLength: 6 });
    fc.assert(
      fc.property(rows, rows, (before, next) => {
        // Kept rows stay in their order, as in the grid.
        const order = new Map(before.map((one, i) => [one.id, i]));
        const kept = next.filter((one) => order.has(one.id)).sort((a, b) => order.get(a.id)! - order.get(b.id)!);
        let at = 0;
        const after = next.map((one) => (order.has(one.id) ? kept[at++]! : one));
        const result: GridRow[] = before.map((one) => ({
          id: one.id,
          cells: { ...one.cells } as Record<string, string>,
        }));
        for (const edits of editsBetween(before, after)) {
          for (const id of edits.remove ?? [])
            result.splice(
              result.findIndex((gridRow) => gridRow.id === id),
              1,
            );
          for (const one of edits.insert ?? [])
            result.splice(one.after === null ? 0 : result.findIndex((other) => other.id === one.after) + 1, 0, {
              id: one.id,
              cells: { ...one.cells },
            });
          for (const one of edits.change ?? [])
            Object.assign(result.find((other) => other.id === one.id)!.cells, one.cells);
        }
        const plain = (list: { id: string; cells: Record<string, string> }[]) =>
          list.map(({ id, cells }) => [
            id,
            Object.fromEntries(
              Object.entries(cells)
                .filter(([, value]) => value !== '')
                .sort(),
            ),
          ]);
        expect(plain(result)).to.deep.equal(plain(after));
      }),
    );
  });
});

describe('how much a source takes', () => {
  it('lets a minute’s worth through at once, then as many as flow back', () => {
    let now = 0;
    const rate = new ArrivalRate(() => now);
    for (let i = 0; i < 60; i++) expect(rate.take('s', 60), String(i)).to.equal(null);
    expect(rate.take('s', 60)).to.equal(1);
    expect(rate.take('other', 60)).to.equal(null);
    now = 2000;
    expect([rate.take('s', 60), rate.take('s', 60), rate.take('s', 60)]).to.deep.equal([null, null, 1]);
  });
});

/** Source of the query rules: WHATWG URL; names of the parameters are convention. */
describe('where a lead came from', () => {
  it('by the address of its landing page', () => {
    expect(
      whereFromUrl('https://x.example/p?utm_campaign=spring%20sale&utm_term=a+b&utm_content=caf%C3%A9&utm_term=second'),
    ).to.deep.equal({
      utm_campaign: 'spring sale',
      utm_term: 'a b',
      utm_content: 'café',
      landing_page: 'https://x.example/p',
    });
    expect(whereFromUrl('no address')).to.deep.equal({});
  });
  it('click ids by their endings', () => {
    expect(
      findWhereFrom([
        { key: 'msclkid', label: '', value: 'a' },
        { key: 'GCLID', label: '', value: 'b' },
      ]),
    ).to.deep.equal({ click_id: 'b' });
  });
});
