import { randomUUID } from 'node:crypto';
import { expect } from 'chai';
import fc from 'fast-check';
import type { BulkRow } from '../../src/app/leads/bulk.ts';
import type { SegmentRow } from '../../src/app/leads/segments.ts';
import { type Condition, TESTS, type TestName } from '../../src/core/condition/condition.ts';
import { evaluate } from '../../src/core/condition/evaluate.ts';
import { EVERYBODY, type LeadChoice } from '../../src/core/people/lead-choice.ts';
import { readReference } from '../../src/core/template/field-reference.ts';
import { ChosenLeads } from '../../src/engine/choosing/chosen-leads.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { momentOf, stepOf } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

const NOW = Date.parse('2026-11-26T10:00:00Z');
const DAY = 86_400_000;
/** What people type: cases, accents put together and taken apart, spaces of all kinds, numbers, dates and addresses. */
const VALUES = [
  ...[
    '',
    ' ',
    'Piano',
    'piano ',
    'PIANO',
    'Pia\u00f1o',
    'Pian\u0303o',
    'straße',
    'STRASSE',
    'ΟΔΟΣ',
    'οδος',
    'İzmir',
    'izmir',
  ],
  ...[
    'two  words',
    'two words',
    'two\u00a0words',
    '\u3000two words\ufeff',
    'a\tb',
    '\u0085',
    '%',
    '_',
    '12',
    '12.5',
    '1,250',
    '£9',
  ],
  ...[
    '2026-11-20',
    '24 Nov 2026',
    '2026-11-26T09:30:00Z',
    'today',
    'ada@example.org',
    'ada@',
    '07700 900142',
    '+61491570156',
  ],
  ...['Piano; Violin', 'مرحبا', '🎹', 'O’Brien', "O'Brien", '\\', '"'],
];

interface Person {
  id: string;
  values: Record<string, string>;
  tagged: boolean;
  listed: boolean;
  consent: string | null;
  createdAt: number;
}

describe('leads chosen by what is known of them', () => {
  let stage: Stage;
  let oona: Coordinator;
  let businessId: string;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
    businessId = (await stage.db.query(`select id from business where key = 'wrenfield-music-school'`)).rows[0].id;
  });
  const query = async <T = Record<string, unknown>>(sql: string, values: unknown[] = []) =>
    (await stage.db.query(sql, values)).rows as T[];
  const named = async (kind: 'lists' | 'tags', name: string) =>
    (await oona.call<{ id: string }>('POST', `/api/${kind}`, { name })).body.id;

  /** Leads with awkward values, all of them tagged `of` so that they can be told from the others. */
  async function people(count: number): Promise<{ all: Person[]; tag: string; list: string; of: string }> {
    const of = await named('tags', `Awkward ${randomUUID().slice(0, 6)}`);
    const tag = await named('tags', `Sometimes ${randomUUID().slice(0, 6)}`);
    const list = await named('lists', `Some ${randomUUID().slice(0, 6)}`);
    const all = Array.from({ length: count }, (_, i): Person => {
      const value = (n: number) => VALUES[(i * 7 + n * 11) % VALUES.length]!;
      return {
        id: randomUUID(),
        values: {
          'lead.first_name': value(0),
          'lead.email': i % 3 === 0 ? '' : `awkward${i}@${i % 2 ? 'example.org' : 'mailinator.com'}`,
          'answers.what': value(1),
          'answers["a key"]': value(2),
          'where.campaign': value(3),
        },
        tagged: i % 2 === 0,
        listed: i % 3 === 0,
        consent: ['given', 'withdrawn', null][i % 3]!,
        createdAt: NOW - (i % 40) * DAY,
      };
    });
    for (const person of all) {
      const at = new Date(person.createdAt);
      await query(
        `insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at) values ($1, $2, $3, '', $4, '', $5, $6, $6)`,
        [
          person.id,
          businessId,
          person.values['lead.first_name'],
          person.values['lead.email'],
          JSON.stringify({ what: person.values['answers.what'], 'a key': person.values['answers["a key"]'] }),
          at,
        ],
      );
      await query(
        `insert into touch (id, business_id, lead_id, arrival_id, at, where_from) values ($1, $2, $3, $4, $5, $6)`,
        [
          ...[randomUUID(), businessId, person.id, randomUUID(), at],
          JSON.stringify({ campaign: person.values['where.campaign'] }),
        ],
      );
      await query('insert into lead_tag (lead_id, tag_id, at) values ($1, $2, now())', [person.id, of]);
      if (person.tagged)
        await query('insert into lead_tag (lead_id, tag_id, at) values ($1, $2, now())', [person.id, tag]);
      if (person.listed)
        await query(
          `insert into list_member (list_id, lead_id, state, how, joined_at, changed_at) values ($1, $2, 'active', '', now(), now())`,
          [list, person.id],
        );
      if (person.consent)
        await query(
          `insert into consent (id, business_id, lead_id, channel, state, wording, how, at) values ($1, $2, $3, 'email', $4, '', '', $5)`,
          [randomUUID(), businessId, person.id, person.consent, at],
        );
    }
    return { all, tag, list, of };
  }

  it('a segment has exactly those of whom the run sheet’s own conditions hold, whatever was typed', async function () {
    this.timeout(60_000);
    const { all, tag, list, of } = await people(160);
    const scope = { businessId, country: 'GB', timeZone: 'Europe/London', now: NOW };
    const fields = [...Object.keys(all[0]!.values), 'answers.nothing', 'record.since'];
    const simple = fc.record({
      field: fc.constantFrom(...fields),
      test: fc.constantFrom(...(Object.keys(TESTS) as TestName[]).filter((name) => !name.endsWith('in_sheet'))),
      value: fc.oneof(
        fc.constantFrom(...VALUES, '5', '30', '2026-11-10'),
        fc.string({ unit: 'grapheme', maxLength: 3 }),
      ),
      to: fc.constantFrom('', '12', '2000'),
      exact: fc.boolean(),
    });
    const test = simple.map((one) =>
      one.test.endsWith('tag')
        ? { ...one, field: '', value: tag }
        : one.test.endsWith('on_list')
          ? { ...one, field: '', value: list }
          : one.test.endsWith('agreed')
            ? { ...one, field: '', value: 'email' }
            : one,
    );
    const condition: fc.Arbitrary<Condition> = fc.oneof(
      test,
      fc.record({ all: fc.array(test, { maxLength: 3 }) }),
      fc.record({
        any: fc.array(fc.oneof(test, fc.record({ all: fc.array(test, { maxLength: 2 }) })), { maxLength: 3 }),
      }),
    );
    const expected = (asked: Condition, person: Person) =>
      evaluate(asked, {
        ...scope,
        value: (reference) =>
          reference === 'record.since'
            ? new Date(person.createdAt).toISOString()
            : (person.values[reference] ?? (readReference(reference) ? '' : null)),
        tags: person.tagged ? [of, tag] : [of],
        memberOf: person.listed ? [list] : [],
        consent: person.consent ? { email: person.consent } : {},
        facts: { 'throw_away:mailinator.com': true },
      }).holds;
    let told = 0;
    await fc.assert(
      fc.asyncProperty(condition, async (asked) => {
        const choice: LeadChoice = { ...EVERYBODY, tag: of, condition: asked };
        const chosen = (await ChosenLeads.open(stage.db, choice, scope))!;
        const should = all
          .filter((person) => expected(asked, person))
          .map((person) => person.id)
          .sort();
        const got: string[] = [];
        for (let after: string | null = null; ; after = got.at(-1)!) {
          const { ids, more } = await chosen.page('id', after, 37);
          got.push(...ids);
          if (!more) break;
        }
        expect(got, JSON.stringify(asked)).to.deep.equal(should);
        expect(await chosen.count()).to.equal(should.length);
        if (should.length > 0 && should.length < all.length) told += 1;
      }),
      { numRuns: 160 },
    );
    expect(told, 'conditions that part the people').to.be.greaterThan(20);
  });

  it('a segment keeps itself up to date, says whom an email would reach, and is not removed while it is used', async () => {
    const condition = { field: 'answers.instrument', test: 'is', value: 'oboe', to: '', exact: false };
    expect((await oona.call('POST', '/api/segments', { name: 'Oboes', condition: { all: [] } })).status).to.equal(422);
    const { id } = (await oona.call<{ id: string }>('POST', '/api/segments', { name: 'Oboes', condition })).body;
    expect((await oona.call('POST', '/api/segments', { name: 'Oboes', condition })).status).to.equal(422);
    const people = async () =>
      (await oona.call<SegmentRow[]>('GET', '/api/segments')).body.find((segmentRow) => segmentRow.id === id)!;
    expect((await people()).people).to.equal(0);
    expect((await people()).words).to.equal('Instrument is oboe');
    for (const [name, email] of [
      ['Ola', 'ola@example.org'],
      ['Bo', 'bo@example.org'],
    ]) {
      const lead = randomUUID();
      await query(
        `insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at) values ($1, $2, $3, '', $4, '', '{"instrument": " OBOE"}', now(), now())`,
        [lead, businessId, name, email],
      );
      if (name === 'Bo')
        await query(
          `insert into consent (id, business_id, lead_id, channel, state, wording, how, at) values ($1, $2, $3, 'email', 'withdrawn', '', '', now())`,
          [randomUUID(), businessId, lead],
        );
    }
    expect((await people()).people).to.equal(2);
    expect((await oona.call('GET', `/api/audience?to=segment:${id}&consent=`)).body).to.deep.equal({
      people: 2,
      reached: 1,
      left: [{ code: 'withdrawn', count: 1 }],
    });
    const blank = stepKinds.get('email')!.blank() as object;
    const email = { ...blank, subject: 'Reeds are in', message: 'Come by', needsConsent: false };
    const sent = await oona.call('POST', '/api/mailings', { to: `segment:${id}`, email });
    expect(sent.status, JSON.stringify(sent.body)).to.equal(200);
    await until('the email to the segment', () =>
      stage.desk.world.state.mails.some(
        (mail) => mail.mailbox === 'ola@example.org' && mail.subject === 'Reeds are in',
      ),
    );
    const flow = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: { lead: [stepOf('mailing', 'm', { ...email, to: `segment:${id}` })], record: [], team: [] },
      }),
    ]);
    const refused = await oona.call<{ detail: string }>('DELETE', `/api/segments/${id}`);
    expect(refused.status).to.equal(409);
    expect(refused.body.detail).to.match(/Case \d+/);
    expect(flow.id).to.be.a('string');
    expect(
      stage.desk.world.state.mails.some((mail) => mail.mailbox === 'bo@example.org'),
      'who asked for no more gets nothing',
    ).to.equal(false);
  });

  const bulk = async (choice: object, action: object, count: number) => {
    const begun = await oona.call<BulkRow & { detail?: string }>('POST', '/api/bulk', { choice, action, count });
    if (begun.status !== 200) return begun;
    const done = await until('the work to end', async () =>
      (await oona.call<BulkRow[]>('GET', '/api/bulk')).body.find(
        (bulkRow) => bulkRow.id === begun.body.id && bulkRow.state !== 'running',
      ),
    );
    return { status: 200, body: done };
  };

  it('does one thing with many: counts first, wakes what waits, tells how many were so already', async () => {
    const tag = await named('tags', 'Summer');
    const flow = await liveFlow(stage, oona, [
      momentOf('a', { lanes: { lead: [], record: [], team: [] } }),
      momentOf('b', {
        at: {
          ...{ kind: 'event', event: 'tag', words: '', sources: [], list: '', stage: '', step: '' },
          ...{ tag, within: { amount: 9, unit: 'hours' } },
        } as never,
        lanes: { lead: [], record: [stepOf('note', 'n', { text: 'Tagged at last' })], team: [] },
      }),
    ]);
    for (let i = 0; i < 120; i += 1) await flow.send({ name: `Many ${i}`, email: `many${i}@example.org` });
    await until('all of them to be leads', async () => {
      const [known] = await query<{ n: number }>(
        `select count(*)::int n from lead where email like 'many%@example.org'`,
      );
      return known!.n === 120;
    });
    for (const name of ['many3', 'many7', 'many119']) await flow.waits(`${name}@example.org`);
    const choice = { search: 'many' };
    const wrong = await bulk(choice, { does: 'tag', tag }, 119);
    expect(wrong.status).to.equal(409);
    expect(wrong.body).to.have.property('detail').that.includes('There are 120 now, not 119');
    expect((await bulk(choice, { does: 'tag', tag: randomUUID() }, 120)).status).to.equal(422);
    const [{ lead_id: early }] = (await query<{ lead_id: string }>(
      `select id as lead_id from lead where email = 'many7@example.org'`,
    )) as [{ lead_id: string }];
    await query('insert into lead_tag (lead_id, tag_id, at) values ($1, $2, now())', [early, tag]);
    expect((await bulk(choice, { does: 'tag', tag }, 120)).body).to.include({ done: 120, changed: 119, state: 'done' });
    await flow.over('many3@example.org');
    expect(
      await query(`select from lead_note n join lead l on l.id = n.lead_id where l.email = 'many3@example.org'`),
    ).to.have.length(1);
    expect((await bulk({ tag }, { does: 'untag', tag }, 120)).body).to.include({ done: 120, changed: 120 });
    expect(await query('select from lead_tag where tag_id = $1', [tag])).to.have.length(0);
  });

  it('a tag ends the workflows whose rules say so, given to many or to one', async () => {
    const tag = await named('tags', 'Enrolled already');
    const flow = await liveFlow(
      stage,
      oona,
      [
        momentOf('a', { lanes: { lead: [], record: [stepOf('note', 'n', { text: 'Rang in' })], team: [] } }),
        momentOf('b', {
          at: { kind: 'later', span: { amount: 1, unit: 'hours' } },
          lanes: { lead: [], record: [stepOf('note', 'm', { text: 'Later' })], team: [] },
        }),
      ],
      { endsTags: [tag] },
    );
    await flow.send({ name: 'Enders', email: 'enders@example.org' });
    await flow.waits('enders@example.org');
    await bulk({ search: 'enders@example.org' }, { does: 'tag', tag }, 1);
    expect((await flow.over('enders@example.org')).outcome).to.equal('Ended early: they got a tag that ends it');
  });

  it('puts many on a list, cleans them from it, and never brings back who left; erasing is for owners', async () => {
    const list = await named('lists', 'Bulk list');
    const [first] = await query<{ id: string }>(`select id from lead where email = 'many0@example.org'`);
    await oona.call('PUT', `/api/lists/${list}/members/${first!.id}`, { on: true });
    await oona.call('PUT', `/api/lists/${list}/members/${first!.id}`, { on: false });
    const choice = { search: 'many' };
    expect((await bulk(choice, { does: 'join', list }, 120)).body).to.include({ changed: 119 });
    const on = { list: { id: list, state: 'active' } };
    const half = { ...on, condition: { field: 'lead.email', test: 'starts', value: 'many1', to: '', exact: false } };
    const { n } = (await oona.call<{ n: number }>('POST', '/api/leads/count', half)).body;
    expect(n, '1, 10 to 19, 100 to 119').to.equal(31);
    expect((await bulk(half, { does: 'clean', list }, n)).body).to.include({ changed: 31 });
    expect((await bulk(choice, { does: 'join', list }, 120)).body).to.include({ changed: 31 });
    const states = await query(
      'select state, count(*)::int as n from list_member where list_id = $1 group by 1 order by 1',
      [list],
    );
    expect(states).to.deep.equal([
      { state: 'active', n: 119 },
      { state: 'unsubscribed', n: 1 },
    ]);
    const ids = (await query<{ id: string }>(`select id from lead where email like 'many2%' limit 3`)).map(
      (row) => row.id,
    );
    expect((await bulk({ ids }, { does: 'erase' }, 3)).body).to.include({ changed: 3 });
    expect(await query('select from lead where id = any($1)', [ids])).to.have.length(0);
  });

  it('a list takes its own fields from answers of the same name, and by hand; one email sent twice is one', async () => {
    const list = await named('lists', 'With fields');
    const { key } = (await oona.call<{ key: string }>('POST', `/api/lists/${list}/fields`, { name: 'Own drum' })).body;
    expect(
      (await oona.call<{ key: string }>('POST', `/api/lists/${list}/fields`, { name: 'own DRUM' })).body.key,
    ).to.equal(key);
    const id = randomUUID();
    await query(
      `insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at) values ($1, $2, 'Fay', '', 'fay@example.org', '', '{"Own-Drum": "snare"}', now(), now())`,
      [id, businessId],
    );
    await bulk({ ids: [id] }, { does: 'join', list }, 1);
    const fields = async () =>
      (await query<{ fields: object }>('select fields from list_member where list_id = $1', [list]))[0]!.fields;
    expect(await fields()).to.deep.equal({ own_drum: 'snare' });
    const path = `/api/lists/${list}/members/${id}`;
    expect((await oona.call('PUT', path, { fields: { own_drum: 'bass', unknown: 'x' } })).status).to.equal(200);
    expect(await fields()).to.deep.equal({ own_drum: 'bass' });
    const member = { field: `member["${list}.own_drum"]`, test: 'is', value: 'Bass', to: '', exact: false };
    expect((await oona.call('POST', '/api/leads/count', { condition: member })).body).to.deep.equal({ n: 1 });
    const email = {
      ...(stepKinds.get('email')!.blank() as object),
      subject: 'Drums',
      message: 'Hi',
      needsConsent: false,
    };
    const mailing = { id: randomUUID(), to: `list:${list}`, email };
    const both = await Promise.all([mailing, mailing].map((body) => oona.call('POST', '/api/mailings', body)));
    expect(both.map((one) => one.status)).to.deep.equal([200, 200]);
    const changed = { ...mailing, email: { ...email, subject: 'Louder drums' } };
    const told = await oona.call<{ detail: string }>('POST', '/api/mailings', changed);
    expect([told.status, told.body.detail]).to.deep.equal([
      409,
      'This email has been planned already, as it was before you changed it. Look at it under Messages: it can be stopped there, and written anew.',
    ]);
    const mails = () => stage.desk.world.state.mails.filter((mail) => mail.mailbox === 'fay@example.org');
    await until('the email', () => mails().length > 0);
    await new Promise((resolve) => setTimeout(resolve, 2500));
    expect(mails()).to.have.length(1);
    const past = await oona.call('POST', '/api/mailings', { to: `list:${list}`, email, at: '2020-01-01T09:00' });
    expect(past.status).to.equal(422);
  });

  it('gives chosen leads as CSV and as a workbook, formulas guarded', async () => {
    const lead = randomUUID();
    await query(
      `insert into lead (id, business_id, first_name, last_name, email, phone, answers, created_at, last_arrival_at) values ($1, $2, '=cmd', 'Filed', 'filed@example.org', '+447700900145', '{"instrument": "Oboe"}', now(), now())`,
      [lead, businessId],
    );
    const csv = await oona.call<string>('GET', '/api/leads/file?search=filed%40example.org&format=csv');
    const [head = '', row = ''] = csv.body.trim().split('\r\n');
    expect(head.replace('\ufeff', '')).to.match(/^First name,Last name,Email,Phone,Owner,Tags,Lists/);
    expect(row).to.match(/^'=cmd,Filed,filed@example\.org,\+447700900145,/);
    expect(row).to.include('Oboe');
    await query(
      `insert into consent (id, business_id, lead_id, channel, state, wording, how, version, address, at) values ($1, $2, $3, 'text', 'given', 'I agree, "really"', 'By form', '3', '192.0.2.7', now())`,
      [randomUUID(), businessId, lead],
    );
    const consents = await oona.call<string>('GET', `/api/leads/consents?ids=${lead}`);
    expect(consents.body.trim().split('\r\n')[1]).to.match(
      /^'=cmd Filed,filed@example\.org,\+447700900145,text,all,given,themselves,20.*Z,By form,"I agree, ""really""",3,192\.0\.2\.7,,$/,
    );
    const page = await oona.call<string>('GET', `/leads/${lead}/consent`);
    expect(page.body).to.include('192.0.2.7').and.include('They agreed');
    const book = await fetch(`${stage.url}/api/leads/file?search=filed%40example.org&format=xlsx`, {
      headers: { cookie: oona.cookie },
    });
    const bytes = Buffer.from(await book.arrayBuffer());
    expect(bytes.subarray(0, 2).toString()).to.equal('PK');
    expect(book.headers.get('content-type')).to.include('spreadsheetml');
  });

  it('a file of people goes onto a list once it is in; who has left stays off, and the import can be undone', async function () {
    this.timeout(30_000);
    const list = await named('lists', 'From a file');
    const [gone] = await query<{ id: string }>(`select id from lead where email = 'many50@example.org'`);
    await oona.call('PUT', `/api/lists/${list}/members/${gone!.id}`, { on: true });
    await oona.call('PUT', `/api/lists/${list}/members/${gone!.id}`, { on: false });
    const source = (await oona.call<{ id: string }>('POST', '/api/sources', { kind: 'import', name: 'Old file' })).body;
    const file = [
      'Name,Email',
      'Ria Filed,ria@example.org',
      'Sol Filed,sol@example.org',
      'Many,many50@example.org',
      'No,nobody',
    ];
    const up = await fetch(`${stage.url}/api/sources/${source.id}/import/file?name=old.csv`, {
      method: 'POST',
      headers: { cookie: oona.cookie, origin: stage.url },
      body: file.join('\n'),
    });
    expect(up.status).to.equal(200);
    type View = { state: string; checked: boolean; columns: { id: string; name: string }[]; counts: { good: number } };
    const view = async () => (await oona.call<View>('GET', `/api/sources/${source.id}/import`)).body;
    await until('the file to be read', async () => (await view()).state === 'read');
    const column = Object.fromEntries((await view()).columns.map((column) => [column.name, column.id]));
    await oona.call('PUT', `/api/sources/${source.id}/card`, {
      fields: { full_name: column.Name, email: column.Email },
      consent: { kind: 'not_asked' },
    });
    await until('every row to be looked at', async () => (await view()).checked);
    const start = { workflowId: null, listId: list, count: (await view()).counts.good };
    expect((await oona.call('POST', `/api/sources/${source.id}/import`, start)).status).to.equal(200);
    const states = () =>
      query<{ email: string; state: string }>(
        `select l.email, m.state from list_member m join lead l on l.id = m.lead_id where m.list_id = $1 order by l.email`,
        [list],
      );
    await until('them on the list', async () => (await states()).length === 3);
    expect(await states()).to.deep.equal([
      { email: 'many50@example.org', state: 'unsubscribed' },
      { email: 'ria@example.org', state: 'active' },
      { email: 'sol@example.org', state: 'active' },
    ]);
    const undone = await oona.call('POST', `/api/sources/${source.id}/import/undo`, {});
    expect(undone.status, JSON.stringify(undone.body)).to.equal(200);
    expect(await states()).to.deep.equal([{ email: 'many50@example.org', state: 'unsubscribed' }]);
    expect(await query(`select from lead where email = 'ria@example.org'`)).to.have.length(0);
  });
});
