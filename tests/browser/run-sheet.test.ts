import { expect } from 'chai';
import { closeBrowser, signedInVisitor, type Visitor, visitor } from '../stage/browser.ts';
import { adEntry, openStage, push, type Stage, until } from '../stage/stage.ts';

const chosen = 'aside[aria-label="Chosen step"]';
const editor = (field: string) => `${chosen} .cm-content[data-field="${field}"]`;

describe('a whole run sheet, built from blank in a real browser', function () {
  this.timeout(90_000);
  let stage: Stage;
  let oona: Visitor;
  let id: string;
  before(async () => {
    stage = await openStage();
    // Somebody has filled in the form before: the sample.
    await push(
      await stage.source('Trial lesson form'),
      adEntry('sample', {
        first_name: 'NADIA',
        last_name: 'OKAFOR',
        email: 'nadia@example.org',
        phone: '07700 900142',
      }),
    );
    oona = await signedInVisitor(stage);
  });
  after(async () => {
    await closeBrowser();
    await stage.close();
  });
  afterEach(() => expect(oona.troubles, 'scripts that broke or were blocked').to.deep.equal([]));

  const saved = () => oona.sees('Saved', '[data-testid=save-state]');
  /** Adds a step with the plus of a place, by mouse or by keyboard. */
  const add = async (within: string, place: string, kind: string, by: 'mouse' | 'keyboard' = 'mouse') => {
    const plus = await oona.find(place, within);
    if (by === 'mouse') await oona.click(place, within);
    else {
      await plus.focus();
      await oona.page.keyboard.press('Enter');
    }
    const item = await oona.find(kind, within);
    if (by === 'mouse') await item.click();
    else {
      await item.focus();
      await oona.page.keyboard.press('Enter');
    }
  };
  const write = async (field: string, text: string) => {
    await oona.page.waitForSelector(editor(field));
    await oona.page.click(editor(field));
    await oona.page.keyboard.type(text);
  };
  const choose = (label: string, value: string) => oona.choose(label, value, chosen);
  const momentsOf = () =>
    oona.page.$$eval('section[data-moment]', (all) =>
      all.map((hTMLElement) => hTMLElement.getAttribute('aria-label') ?? ''),
    );

  it('sets the rules, the source, and what comes first', async () => {
    await oona.goes(`${stage.url}/sheets`);
    await oona.goes(`${stage.url}/workflows`);
    await oona.click('New workflow');
    await oona.types('#new-name', 'Trial lesson, in full');
    await oona.click('Make this workflow');
    await oona.sees('On arrival');
    id = /workflows\/([0-9a-f-]+)/.exec(oona.page.url())![1]!;
    await oona.goes(`${stage.url}/workflows/${id}/rules`);
    await oona.click('Texts go out only between');
    await oona.click('They ask for no more');
    await oona.sees('It ends early when they ask for no more.');
    await saved();
    await oona.goes(`${stage.url}/workflows/${id}`);
    await oona.click(/Source$/, '[data-testid=sources]');
    await oona.click('Trial lesson form', '[data-testid=sources]');
    await oona.sees('NADIA OKAFOR', 'aside[aria-label="Sample lead"]');
    await add('main', 'Add a step to First', 'Tidy what they typed');
    await add('main', 'Add a step to First', 'Check', 'keyboard');
    await oona.sees('Go on only if', chosen);
    await oona.click('Add a question', chosen);
    await choose('Which field', 'The lead: consent, tags, lists');
    await oona.sees('the lead agreed to texts', `${chosen} [data-testid=preview]`);
  });

  it('fills the three lanes, by mouse and by keyboard', async () => {
    await add('main', 'Add a step: To the lead', 'Text the lead');
    await write(
      'message',
      'Hi {{ lead.first_name }}, thanks for asking about {{ answers.instrument | downcase }} lessons.',
    );
    await oona.sees('Hi Nadia, thanks for asking about piano lessons.', `${chosen} [data-testid=preview]`);
    await choose('If it fails', 'Email it instead');
    await add('main', 'Add a step: To the lead', 'Email the lead', 'keyboard');
    await write('subject', 'Your trial lesson');
    await write('message', 'Dear {{ lead.first_name }}, pick a time that suits you.');
    await add('main', 'Add a step: On record', 'Tag the lead');
    await oona.sees('Or a new one', chosen);
    await oona.types(`${chosen} input.input-sm`, 'Autumn');
    await oona.click('Make it', chosen);
    await oona.sees('Tag: Autumn', `${chosen} [data-testid=preview]`);
    await add('main', 'Add a step: On record', 'Row in a sheet', 'keyboard');
    await choose('Sheet', 'Front desk sign-in');
    await oona.sees('A row is the same when this column is', chosen);
    const [column] = await oona.page.$$eval(`${chosen} .cm-content`, (all) =>
      all.map((one) => one.getAttribute('data-field')),
    );
    await write(column!, '{{ lead.full_name }}');
    await add('main', 'Add a step: To the team', 'Tell a colleague');
    await choose('Who is told', 'Piano desk');
    await add('main', 'Add a step: To the team', 'Hold time', 'keyboard');
    await choose('Whose time', 'Tomas Arden');
    await saved();
  });

  it('adds the moments that follow: a reply or ten minutes, and the next morning in cases', async () => {
    await oona.click('Add a moment');
    await oona.click(/^When something happens/);
    await oona.sees('When they reply, or after 2 days');
    await oona.page.waitForSelector(`${chosen} input[type=number]`);
    await oona.page.click(`${chosen} input[type=number]`, { count: 3 });
    await oona.page.keyboard.type('10');
    await choose('Wait at most, of what', 'minutes');
    await oona.sees('When they reply, or after 10 minutes');
    await oona.click('Otherwise', `[aria-label="When they reply, or after 10 minutes"]`);
    await add('[aria-label="When they reply, or after 10 minutes"]', 'Add a step: To the lead', 'Text the lead');
    await write('message', 'Still there? Reply 1 and we will call you.');

    const buttons = await oona.page.$$('button[aria-label="Add a moment"]');
    await buttons.at(-1)!.click();
    await oona.click(/^At a time of day/);
    await oona.sees('Next morning, 09:00');
    const morning = '[aria-label="Next morning, 09:00"]';
    await oona.click('Add a case', chosen);
    await oona.click('Add a question', `${chosen} section[aria-label="Case 1"]`);
    await choose('Which field', 'instrument');
    await oona.types(`${chosen} section[aria-label="Case 1"] [data-testid=question] input`, 'Piano');
    await oona.sees('instrument is Piano', `${morning} [data-testid=cases]`);
    await add(morning, 'Add a step: To the lead', 'Email the lead');
    await write('subject', 'Meet your piano teacher');
    await write('message', 'She is lovely.');
    await oona.click('Otherwise', morning);
    await add(morning, 'Add a step: To the team', 'Call task', 'keyboard');
    await saved();
    expect(await momentsOf()).to.deep.equal([
      'On arrival',
      'When they reply, or after 10 minutes',
      'Next morning, 09:00',
    ]);
  });

  it('reads itself aloud, and undoes and brings back a whole moment', async () => {
    await oona.click('Read it to me');
    const said = await oona.sees('Next morning, 09:00, one of these.', '[data-testid=read-to-me]');
    expect(said).to.include('first we tidy email, phone, names and go on only if the lead agreed to texts.');
    expect(said).to.include('we text them (by email if it is refused) and email them');
    expect(said).to.include(
      'If instrument is Piano, we email them. Otherwise for the team we set a call task for the desk',
    );
    await oona.click('Next morning, 09:00', 'main');
    await oona.click('Remove this moment', chosen);
    await oona.sees('The moment and its steps are removed.');
    expect(await momentsOf()).to.have.length(2);
    await oona.click('Undo');
    await oona.sees('Next morning, 09:00', 'main');
    await saved();
  });

  it('rehearses every moment with its date, and shows which case this lead comes to', async () => {
    await oona.click('Rehearse');
    await oona.sees('Rehearsed with');
    const heads = await oona.page.$$eval('[data-testid=rehearsed-moment]', (all) =>
      all.map((one) => (one as HTMLElement).innerText),
    );
    expect(heads[0]).to.equal('At once');
    expect(heads[1]).to.match(/in London/);
    expect(heads[2]).to.match(/09:00 in London\ntrue instrument is Piano: it is “Piano”/);
    await oona.sees('this one', '[aria-label="Next morning, 09:00"] [data-testid=cases]');
    await oona.click('What if it happens?');
    await oona.sees('true it happened', '[aria-label="When they reply, or after 10 minutes"]');
    expect(stage.desk.world.state.mails.filter((mail) => mail.subject === 'Meet your piano teacher')).to.have.length(0);
    await oona.click('Rehearse the last 25');
    await oona.sees('would get a text', '[aria-label="The last leads"]');
    await oona.click('Close', '[aria-label="The last leads"]');
  });

  const customer = async (name: string, phone: string): Promise<Visitor> => {
    const one = await visitor();
    await one.goes(stage.desk.url);
    await one.click('Trial lesson', '[role=tablist]');
    for (const [key, value] of Object.entries({
      first_name: name,
      last_name: 'Venn',
      email: `${name.toLowerCase()}@example.org`,
      phone,
    }))
      await one.types(`#q-${key}`, value);
    await one.page.select('#q-instrument', 'Cello');
    await one.page.click('#q-consent');
    await one.click('Send my details');
    await one.sees('Your details have been sent');
    return one;
  };

  it('put live, a lead goes through it and waits; the log shows each moment', async () => {
    await oona.click('Put version 1 live');
    await oona.sees('Version 1 is live.');
    const wanda = await customer('Wanda', '07700 900521');
    await wanda.sees('Hi Wanda, thanks for asking about cello lessons.', '[data-testid=phone]');
    await oona.click('Log', 'nav[aria-label=Workflow]');
    await oona.sees('Wanda Venn', '[data-testid=runs]');
    await oona.sees('Waiting for reply', '[data-testid=runs]');
    const detail = await oona.sees('due', '[aria-label="When they reply, or after 10 minutes"]');
    expect(detail).to.match(/due \d\d:\d\d/);
    await oona.sees('Row in Front desk sign-in', '[aria-label="On arrival"]');
    await oona.sees('not yet', '[aria-label="Next morning, 09:00"]');
    // She writes back: the moment that waits goes its other way at once.
    await wanda.types('[data-testid=phone] input', 'Yes please');
    await wanda.page.keyboard.press('Enter');
    await until('the run to go on', async () => {
      const { rows } = await stage.db.query(
        `select r.moment_id from run r join lead l on l.id = r.lead_id where l.email = 'wanda@example.org' and r.workflow_id = $1 and r.waits_for is null and r.due_at is not null`,
        [id],
      );
      return rows.length > 0;
    });
  });

  it('when the carrier refuses, the email goes instead, and the log says so', async () => {
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, refusedNumbers: ['+447700900522'] };
    await customer('Silvan', '07700 900522');
    await until('the email', () =>
      stage.desk.world.state.mails.find(
        (mail) => mail.mailbox === 'silvan@example.org' && mail.subject === 'A message from Wrenfield Music School',
      ),
    );
    await oona.goes(`${stage.url}/workflows/${id}/log`);
    await oona.click(/^Silvan Venn/, '[data-testid=runs]');
    await oona.sees('Text refused, email sent instead');
    await oona.click(/^Text/, '[data-testid=moment-of-run]');
    await oona.sees('Refused, so it went by email to silvan@example.org instead.', '[data-testid=step-detail]');
  });

  it('stays legible with twelve moments and sixty steps', async () => {
    const { rows } = await stage.db.query('select draft from workflow where id = $1', [id]);
    const { draft } = rows[0];
    const [first] = draft.moments;
    const many = {
      ...draft,
      moments: Array.from({ length: 12 }, (_, m) => ({
        ...structuredClone(first),
        id: `m${m}`,
        at: m === 0 ? { kind: 'on_arrival' } : { kind: 'later', span: { amount: m, unit: 'hours' } },
        first: [],
        lanes: {
          lead: Array.from({ length: 3 }, (_, s) => ({ ...structuredClone(first.lanes.lead[0]), id: `l${m}-${s}` })),
          record: [{ ...structuredClone(first.lanes.record[0]), id: `r${m}` }],
          team: [{ ...structuredClone(first.lanes.team[0]), id: `t${m}` }],
        },
      })),
    };
    await stage.db.query(
      `insert into workflow (id, business_id, name, folder, state, draft, revision, tried_revision, created_at, updated_at)
       select gen_random_uuid(), business_id, 'Long', '', 'draft', $2, 0, -1, now(), now() from workflow where id = $1`,
      [id, JSON.stringify(many)],
    );
    const long = (await stage.db.query(`select id from workflow where name = 'Long'`)).rows[0].id;
    await oona.goes(`${stage.url}/workflows/${long}`);
    await oona.sees('11 hours later');
    expect(await oona.page.$$eval('[data-step]', (all) => all.length)).to.equal(60);
    const cut = await oona.page.$$eval(
      'section[data-moment] h2',
      (all) => all.filter((heading) => heading.scrollWidth > heading.clientWidth + 1).length,
    );
    expect(cut, 'headings that are cut off').to.equal(0);
    const wide = await oona.page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
    expect(wide, 'sticks out sideways').to.be.at.most(0);
  });

  it('from a source to a live row in a sheet takes twelve clicks at most and two typed words', async () => {
    let clicks = 0;
    const click = async (words: string | RegExp, within?: string) => {
      clicks++;
      await oona.click(words, within);
    };
    await oona.goes(`${stage.url}/sources`);
    await click('Trial lesson form', 'main');
    await click('Another run sheet that listens to it');
    await click('Add a step: On record');
    await click('Row in a sheet', 'main');
    clicks++;
    await oona.fills('Or a new one; it gets a column for each field', 'Autumn enquiries');
    await click('Make it', chosen);
    await oona.sees('Another column', chosen);
    await saved();
    await click('Put version 1 live');
    await oona.sees('Version 1 is live.');
    expect(clicks).to.be.at.most(12);
    await customer('Petra', '07700 900523');
    const row = await until('the row', async () => {
      const { rows } = await stage.db.query<{ columns: { id: string; name: string }[]; cells: Record<string, string> }>(
        `select t.columns, r.cells from sheet_row r join sheet_tab t on t.id = r.tab_id where t.name = 'Autumn enquiries'`,
      );
      return rows[0];
    });
    const named = Object.fromEntries(row.columns.map(({ id: column, name }) => [name, row.cells[column]]));
    expect(named).to.include({ 'First name': 'Petra', 'Last name': 'Venn', Email: 'petra@example.org' });
    // What they answered stands in a column by the name their form has for it.
    expect(Object.values(named)).to.include('Cello');
  });

  it('guesses which columns of a sheet are which fields, and puts all in at once', async () => {
    await add('main', 'Add a step: On record', 'Row in a sheet');
    await choose('Sheet', 'Autumn enquiries');
    await oona.sees('Guessed by their names', chosen);
    await oona.click('Not for Phone', chosen);
    await oona.click(/^Put all \d in$/, chosen);
    await saved();
    const filled = await oona.page.$$eval(`${chosen} .cm-content`, (all) =>
      all.map((one) => (one as HTMLElement).innerText.trim()),
    );
    expect(filled.filter(Boolean)).to.include.members(['First name', 'Last name', 'Email']);
    expect(filled).not.to.include('Phone');
    await oona.fills('Another column', 'Came by');
    await oona.click('Make it', chosen);
    await oona.sees('Came by', chosen);
  });

  it('puts a field in by a slash, and works on it where it stands', async () => {
    await add('main', 'Add a step: To the lead', 'Text the lead');
    await write('message', 'For /instru');
    await oona.sees('Which instrument?', '.cm-tooltip-autocomplete [aria-selected=true]');
    // A list that has only just come takes no key: it would be one meant for the text.
    await new Promise((resolve) => setTimeout(resolve, 200));
    await oona.page.keyboard.press('Enter');
    await oona.page.waitForSelector(`${editor('message')} .chip`);
    await oona.page.keyboard.type(' on 10/12: ');
    await oona.sees('For Cello on 10/12:', `${chosen} [data-testid=preview]`);
    await oona.page.$eval(`${editor('message')} .chip`, (chip) =>
      chip.dispatchEvent(new MouseEvent('mousedown', { bubbles: true })),
    );
    const menu = '[aria-label="What is done with this field"]';
    await oona.choose('Do something with it', 'by a table');
    await oona.fills('If it is, line 1', 'cello');
    await oona.fills('Say, line 1', 'the cello room');
    await oona.sees('gives the cello room', menu);
    await oona.choose('Do something with it', 'UPPER CASE');
    await oona.sees('gives THE CELLO ROOM', menu);
    await oona.click('Done', menu);
    await oona.sees('For THE CELLO ROOM on 10/12:', `${chosen} [data-testid=preview]`);
    await oona.click('Write as text', chosen);
    await oona.sees('{{ answers.instrument | pick: "cello", "the cello room" | upcase }}', chosen);
  });
});
