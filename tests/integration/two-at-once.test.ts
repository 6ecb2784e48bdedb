import { expect } from 'chai';
import { newChatForm } from '../../src/core/form/chat-form.ts';
import type { Coordinator } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { momentOf, sheetOf } from '../stage/sheets.ts';
import type { Stage } from '../stage/stage.ts';

interface Answer {
  status: number;
  body: { id?: string; seen?: string; detail?: string; type?: string };
}

const SAVED = 200;
const layoutOf = (text: string) => ({ as: 'blocks', blocks: [{ id: 'a', kind: 'text', text, align: 'left' }] });

/** A service that is not there yet: it is kept untried. */
const SPARE = { kind: 'text_carrier', address: 'http://127.0.0.1:9', sender: 'Mine', secret: 'key', untried: true };

/** What two colleagues may have open at the same time: how it is made, and what each of them makes of it. */
const OPEN_TO_BOTH: { what: string; at: string; made?: object; version: (n: number) => object }[] = [
  {
    what: 'list',
    at: 'lists',
    made: { name: 'Both at it' },
    version: (n) => ({ name: `Both at it ${n}`, optIn: 'single' }),
  },
  {
    what: 'segment',
    at: 'segments',
    made: { name: 'Both at it', condition: { field: 'lead.first_name', test: 'is', value: 'Ada' } },
    version: (n) => ({ name: 'Both at it', condition: { field: 'lead.first_name', test: 'is', value: `Ada ${n}` } }),
  },
  {
    what: 'form',
    at: 'chat-forms',
    made: { name: 'Both at it' },
    version: (n) => ({ ...newChatForm('Both at it', 'Wrenfield'), heading: `Both at it ${n}` }),
  },
  {
    what: 'template',
    at: 'chat-templates',
    made: { name: 'Both at it' },
    version: (n) => ({ kind: 'service', text: `Hello ${n}`, samples: {} }),
  },
  {
    what: 'template',
    at: 'email-templates',
    made: { name: 'Both at it', layout: layoutOf('Hello') },
    version: (n) => ({ name: 'Both at it', layout: layoutOf(`Hello ${n}`) }),
  },
  {
    what: 'connection',
    at: 'connections',
    made: { ...SPARE, name: 'Both at it' },
    version: (n) => ({ ...SPARE, name: `Both at it ${n}` }),
  },
  { what: 'front door', at: 'front-door', version: (n) => ({ on: false, form: '', message: `${n}`, greeting: '' }) },
];

describe('two at the same thing', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Coordinator;
  before(async () => {
    ({ stage, oona } = await sharedStage());
  });

  const sent = async (method: string, path: string, body: object, seen?: string): Promise<Answer> => {
    const answer = await fetch(`${stage.url}/api/${path}`, {
      method,
      headers: {
        ...{ origin: stage.url, cookie: oona.cookie, 'content-type': 'application/json' },
        ...(seen === undefined ? {} : { 'if-match': `"${seen}"` }),
      },
      body: JSON.stringify(body),
    });
    return { status: answer.status, body: (await answer.json()) ?? {} };
  };

  for (const { what, at, made, version } of OPEN_TO_BOTH)
    it(`who saves over a ${what} (${at}) that a colleague has changed since is told, and nothing is written over`, async () => {
      const id = made ? `/${(await sent('POST', at, made)).body.id}` : '';
      const save = (n: number, seen?: string) => sent('PUT', at + id, version(n), seen);
      const first = await save(1);
      expect(first.status, JSON.stringify(first.body)).to.equal(SAVED);
      const seen = first.body.seen!;
      const colleague = await save(2, seen);
      expect(colleague.status, JSON.stringify(colleague.body)).to.equal(SAVED);
      const late = await save(3, seen);
      expect([late.status, late.body.type]).to.deep.equal([409, 'urn:pine-bell:changed-meanwhile']);
      expect(late.body.detail).to.match(new RegExp(`changed this ${what} since you opened it`));
      // Whoever has read what the colleague wrote saves over it knowingly.
      expect((await save(3, colleague.body.seen)).status).to.equal(SAVED);
      // Both in the same instant, from the same state: one stands, the other is told.
      const now = (await save(4)).body.seen!;
      const both = await Promise.all([save(5, now), save(6, now)]);
      expect(both.map((answer) => answer.status).sort()).to.deep.equal([SAVED, 409]);
    });

  it('what goes live is what was looked at: with a colleague’s change in it since, it does not', async () => {
    const { id } = (await sent('POST', 'workflows', { name: 'Both at it', folder: '' })).body;
    const draft = sheetOf([momentOf('a')]);
    expect((await sent('PUT', `workflows/${id}`, { revision: 0, draft })).status).to.equal(SAVED);
    const late = await sent('POST', `workflows/${id}/live`, { revision: 0 });
    expect([late.status, late.body.type]).to.deep.equal([409, 'urn:pine-bell:changed-meanwhile']);
    const { rows } = await stage.db.query<{ state: string }>('select state from workflow where id = $1', [id]);
    expect(rows[0]!.state).to.equal('draft');
  });

  it('the same name taken twice in the same instant: one has it, the other is told in words', async () => {
    for (const [at, body] of [
      ['lists', { name: 'Same name' }],
      ['segments', { name: 'Same name', condition: { field: 'lead.first_name', test: 'is', value: 'Ada' } }],
      ['chat-forms', { name: 'Same name' }],
      ['chat-templates', { name: 'Same name' }],
      ['email-templates', { name: 'Same name', layout: layoutOf('Hello') }],
    ] as const) {
      const answers = await Promise.all(Array.from({ length: 4 }, () => sent('POST', at, body)));
      expect(answers.filter((answer) => answer.status === SAVED).length, at).to.equal(1);
      for (const { status, body } of answers.filter((answer) => answer.status !== SAVED)) {
        expect(status, `${at}: ${JSON.stringify(body)}`).to.be.oneOf([409, 422]);
        expect(body.detail).to.match(/^There is an? [a-z ]+ (called|of this name)/);
      }
    }
  });

  it('adding a column to one tab, or a question to one form, at the same moment: both stand', async () => {
    const sheet = (await oona.call<{ tabs: { id: string }[] }>('POST', '/api/sheets', { name: 'Both at it' })).body;
    const tab = sheet.tabs[0]!.id;
    const form = (await oona.call<{ id: string }>('POST', '/api/sources', { kind: 'form-page', title: 'Both at it' }))
      .body;
    const names = ['Came by', 'Wants', 'Heard of us'];
    const made = await Promise.all(
      names.flatMap((name) => [
        sent('POST', `tabs/${tab}/columns`, { name }),
        sent('POST', `sources/${form.id}/questions`, { label: name }),
      ]),
    );
    expect(made.map(({ status }) => status)).to.deep.equal(made.map(() => SAVED));
    const { rows } = await stage.db.query<{
      columns: { name: string }[];
      settings: { page: { screens: { fields: { key: string; label: string }[] }[] } };
    }>('select t.columns, s.settings from sheet_tab t, source s where t.id = $1 and s.id = $2', [tab, form.id]);
    expect(rows[0]!.columns.map(({ name }) => name)).to.include.members(names);
    const asked = rows[0]!.settings.page.screens.flatMap(({ fields }) => fields);
    expect(asked.map(({ label }) => label)).to.include.members(names);
    expect(asked.find(({ label }) => label === 'Heard of us')!.key).to.equal('heard_of_us');
    // The same once more is refused in words.
    const again = await sent('POST', `tabs/${tab}/columns`, { name: 'came BY' });
    expect([again.status, again.body.detail]).to.deep.equal([409, 'There is a column “came BY” already.']);
    const asks = await sent('POST', `sources/${form.id}/questions`, { label: 'wants' });
    expect([asks.status, asks.body.detail]).to.deep.equal([409, 'The form asks for “wants” already.']);
  });
});
