import { expect } from 'chai';
import { closeBrowser, signedInVisitor, type Visitor, visitor } from '../stage/browser.ts';
import { openStage, type Stage, until } from '../stage/stage.ts';

describe('the newcomer’s path, in a real browser', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Visitor;
  before(async () => {
    stage = await openStage();
    oona = await signedInVisitor(stage);
  });
  after(async () => {
    await closeBrowser();
    await stage.close();
  });
  afterEach(() => expect(oona.troubles, 'scripts that broke or were blocked').to.deep.equal([]));

  /** Somebody else fills in the form at the practice desk. */
  const customer = async (form: string, answers: Record<string, string>): Promise<Visitor> => {
    const one = await visitor();
    await one.goes(stage.desk.url);
    await one.click(form, '[role=tablist]');
    for (const [key, value] of Object.entries(answers)) {
      if (value === 'tick') await one.page.click(`#q-${key}`);
      else if (await one.page.$(`select#q-${key}`)) await one.page.select(`#q-${key}`, value);
      else await one.types(`#q-${key}`, value);
    }
    await one.click('Send my details');
    await one.sees('Your details have been sent');
    return one;
  };
  const editor = (field: string) => `aside .cm-content[data-field="${field}"]`;

  it('sets up a form as a source: it waits, and shows the entry as it arrives', async () => {
    await oona.goes(`${stage.url}/sources/new`);
    await oona.click(/^Ad form/);
    await oona.click(/^Summer camp/);
    await oona.click('Listen to this form');
    await oona.sees('the entry appears here by itself');
    await customer('Summer camp', {
      full_name: 'SALMA HADDAD',
      email: 'salma@example.org',
      mobile: '07700 900501',
      child_age: '9 to 11',
      consent: 'tick',
    });
    await oona.sees('SALMA HADDAD', '[data-testid=samples]');
    // The guesses: the whole name, the email, the mobile, the consent with its wording.
    const guessed = await oona.page.$$eval('section[aria-label="Lead card"] tbody tr', (rows) =>
      rows.map(
        (row) =>
          `${row.cells[0]!.innerText}: ${(row.querySelector('select') as HTMLSelectElement).selectedOptions[0]!.text}`,
      ),
    );
    expect(guessed).to.deep.equal([
      'Your name: Full name',
      'Email: Email',
      'Mobile number: Phone',
      'Age of your child: an answer, kept as it is',
      'Consent: Consent to be written to',
      'Consent wording: Wording of the consent',
    ]);
    await oona.click('This is right, put the source live');
    await oona.sees('This source is live');
  });

  it('builds a workflow on the run sheet, by click, by typing and by dragging a field', async () => {
    await oona.goes(`${stage.url}/workflows`);
    await oona.click('New workflow');
    await oona.types('#new-name', 'Camp: first reply');
    await oona.click('Make this workflow');
    await oona.sees('On arrival');
    await oona.page.waitForFunction(() => document.querySelectorAll('astro-island[ssr]').length === 0);
    await oona.click(/Source$/, '[data-testid=sources]');
    await oona.click('Summer camp form', '[data-testid=sources]');
    await oona.sees('SALMA HADDAD', 'aside[aria-label="Sample lead"]');
    await oona.click('Add a step to First');
    await oona.click('Tidy what they typed');
    await oona.click('Add a step: To the lead');
    await oona.click('Text the lead');
    await oona.page.waitForSelector(editor('message'));
    await oona.page.click(editor('message'));
    await oona.page.keyboard.type('Hi ');
    await oona.click(/^First name/, 'aside[aria-label="Sample lead"]');
    await oona.page.keyboard.type(', your child of ');
    await oona.click(/^Age of your child/, 'aside[aria-label="Sample lead"]');
    await oona.page.keyboard.type(' is welcome at camp.');
    await oona.sees('Hi Salma, your child of 9 to 11 is welcome at camp.', '[data-testid=preview]');
    await oona.sees(/1 text, 51 of 160 characters/, '[data-testid=text-meter]');
    // Dragged in from the left, then taken out again.
    const from = await (await oona.find(/^Email/, 'aside[aria-label="Sample lead"]')).boundingBox();
    const to = await (await oona.page.$(editor('message')))!.boundingBox();
    await oona.page.mouse.move(from!.x + 20, from!.y + 10);
    await oona.page.mouse.down();
    await oona.page.mouse.move(to!.x + 60, to!.y + 40, { steps: 8 });
    await oona.page.mouse.up();
    await oona.sees('salma@example.org', '[data-testid=preview]');
    await oona.click('Undo');
    await until(
      'the dragged field taken back',
      async () => !(await oona.sees('Hi Salma', '[data-testid=preview]')).includes('salma@example.org'),
    );
    expect(
      await oona.page.$$eval(`${editor('message')} .chip`, (chips) =>
        chips.map((chip) => (chip as HTMLElement).innerText),
      ),
    ).to.deep.equal(['First name', 'Age of your child']);
    await oona.sees('Saved', '[data-testid=save-state]');
    const {
      rows: [stored],
    } = await stage.db.query(`select draft from workflow where name = 'Camp: first reply'`);
    expect(stored.draft.moments[0].lanes.lead[0].settings.message).to.equal(
      'Hi {{ lead.first_name }}, your child of {{ answers.child_age }} is welcome at camp.',
    );
  });

  it('tells as it is typed which character halves the room, and undoes', async () => {
    await oona.page.click(editor('message'));
    await oona.page.keyboard.press('End');
    await oona.page.keyboard.type(' It’s on');
    await oona.sees('“’” is not in the plain alphabet of texts', '[data-testid=text-meter]');
    await oona.page.keyboard.down('Control');
    await oona.page.keyboard.press('a');
    await oona.page.keyboard.up('Control');
    await oona.page.keyboard.press('Backspace');
    await oona.sees('Nothing written yet', '[data-testid=text-meter]');
    await oona.sees(/the message is empty/i, '[data-lane=lead]');
    await oona.click('Undo');
    await oona.sees('is welcome at camp', '[data-testid=preview]');
    await oona.sees('Saved', '[data-testid=save-state]');
  });

  it('rehearses with nothing leaving, then really sends one to herself only', async () => {
    const [texts, mails] = [stage.desk.world.state.carrier.length, stage.desk.world.state.mails.length];
    await oona.click('Rehearse');
    await oona.sees('Nothing has left the building');
    await oona.sees(/Would go to \+447700900501: Hi Salma/, '[data-lane=lead]');
    expect([stage.desk.world.state.carrier.length, stage.desk.world.state.mails.length]).to.deep.equal([texts, mails]);
    await oona.click('Send it to my phone');
    await oona.sees('Sent to +447700900100. Look there now.');
    expect(
      stage.desk.world.state.carrier.slice(texts).map((record) => [record.to, record.text.slice(0, 9)]),
    ).to.deep.equal([['+447700900100', 'Hi Salma,']]);
  });

  it('cannot go live with something missing; the list leads to the place', async () => {
    await oona.click('Add a step: To the team');
    await oona.click('Tell a colleague');
    await oona.sees('Put version 1 live');
    await oona.click('Put version 1 live');
    await oona.sees('It cannot go live yet: Tell a colleague: choose who.');
    await oona.click(/to check$/);
    await oona.click(/Tell a colleague: choose who/);
    await oona.page.waitForSelector('button[data-field=colleague]');
    await oona.choose('Who is told', 'Tomas Arden');
    await oona.sees('Tell Tomas Arden', '[data-lane=team]');
  });

  it('puts it live; the next customer has a text within seconds and the log shows it', async () => {
    await oona.sees('Saved', '[data-testid=save-state]');
    // Whatever the hour is now: texts may go out.
    await oona.click('Rules', 'nav[aria-label=Workflow]');
    await oona.click('Texts go out only between');
    await oona.sees('Saved', '[data-testid=save-state]');
    await oona.click('Run sheet', 'nav[aria-label=Workflow]');
    await oona.sees('Hi Salma', 'aside[aria-label="Chosen step"]');
    await oona.click('Put version 1 live');
    await oona.sees('Version 1 is live. The next lead goes through it.');
    const ruben = await customer('Summer camp', {
      full_name: 'Ruben Zeller',
      email: 'ruben@example.org',
      mobile: '07700 900502',
      child_age: '12 to 14',
      consent: 'tick',
    });
    await ruben.sees('Hi Ruben, your child of 12 to 14 is welcome at camp.', '[data-testid=phone]');
    await oona.click('Log', 'nav[aria-label=Workflow]');
    await oona.sees('Ruben Zeller', '[data-testid=runs]');
    await oona.sees('Hi Ruben, your child of 12 to 14 is welcome at camp.', '[data-testid=message-sent]');
    await oona.sees('Delivered to the phone', '[data-testid=step-detail]');
  });

  it('Today rings by itself, and a refusal can be settled from the pile', async () => {
    await oona.goes(stage.url);
    stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, refusedNumbers: ['+447700900503'] };
    await customer('Trial lesson', {
      first_name: 'Wanda',
      last_name: 'Venn',
      email: 'wanda@example.org',
      phone: '07700 900503',
      instrument: 'Cello',
      consent: 'tick',
    });
    await oona.sees('Wanda Venn', '[data-testid=ring-list]');
    await oona.sees("Wanda Venn, Trial lesson form. The number can't receive texts.", '[data-testid=needs-list]');
    await oona.click('Mark as handled', '[data-testid=needs-list]');
    await oona.sees('Nothing. Everything that came in has been dealt with.');
    await until('it to be kept', async () => {
      const { rows } = await stage.db.query(
        `select r.state from run r join lead l on l.id = r.lead_id where l.email = 'wanda@example.org'`,
      );
      return rows[0].state === 'handled';
    });
  });

  it('a name with markup in it is shown as typed, everywhere, and never runs', async () => {
    const name = '<img src=x onerror="document.title=1">';
    await customer('Trial lesson', {
      first_name: name,
      last_name: 'Venn',
      email: 'tag@example.org',
      phone: '07700 900504',
      instrument: 'Cello',
      consent: 'tick',
    });
    await oona.sees(`${name} Venn`, '[data-testid=ring-list]');
    await oona.goes(`${stage.url}/leads?search=tag@example.org`);
    await oona.click(`${name} Venn`);
    await oona.sees(name, 'h1');
    expect(await oona.page.title()).to.equal(`${name} Venn · Pine Bell`);
    expect(await oona.page.$$eval('img', (images) => images.length)).to.equal(0);
  });

  it('moves a step by keyboard and by menu, switches it off, removes it and brings it back', async () => {
    const {
      rows: [workflow],
    } = await stage.db.query(`select id from workflow where name = 'Trial lesson: first reply'`);
    await oona.goes(`${stage.url}/workflows/${workflow.id}`);
    const order = () =>
      oona.page.$$eval('[data-lane=lead] [data-step]', (cards) => cards.map((card) => card.getAttribute('data-step')));
    expect(await order()).to.deep.equal(['text-1', 'email-1']);
    await oona.click('Move down');
    await until('the text below the email', async () => (await order())[0] === 'email-1');
    await oona.page.focus('[data-step=text-1]');
    await oona.page.keyboard.press('Space');
    await new Promise((resolve) => setTimeout(resolve, 250));
    await oona.page.keyboard.press('ArrowUp');
    await new Promise((resolve) => setTimeout(resolve, 250));
    await oona.page.keyboard.press('Space');
    await until('the text above again', async () => (await order())[0] === 'text-1');
    await oona.click('Switch off');
    await oona.sees('Off', '[data-step=text-1]');
    await oona.page.focus('[data-step=text-1]');
    await oona.page.keyboard.press('Delete');
    await until('the text gone', async () => (await order()).length === 1);
    await oona.page.keyboard.down('Control');
    await oona.page.keyboard.press('z');
    await oona.page.keyboard.up('Control');
    await until('the text back', async () => (await order()).length === 2);
    await oona.sees('Saved', '[data-testid=save-state]');
    // The live version was not touched by any of it.
    await oona.sees('Edited since');
    const {
      rows: [live],
    } = await stage.db.query(
      'select v.definition from workflow w join workflow_version v on v.id = w.live_version_id where w.id = $1',
      [workflow.id],
    );
    expect(
      live.definition.moments[0].lanes.lead.map((step: { id: string; on: boolean }) => `${step.id} ${step.on}`),
    ).to.deep.equal(['text-1 true', 'email-1 true']);
  });

  it('begins with a starter: one choice and it is theirs, with a form of its own; the first guest has the text', async () => {
    await oona.goes(`${stage.url}/workflows`);
    await oona.click('Begin with a starter');
    await oona.click('Open day: sign in, hear from us next morning');
    await oona.sees('Lovely to have you here');
    await oona.sees('tag “Open day”');
    await oona.choose('Whoever welcomes them', 'Tomas Arden');
    await oona.click('Take this workflow');
    await oona.sees('On arrival');
    await oona.sees('Tell Tomas Arden', '[data-lane=team]');
    await oona.click('Put version 1 live');
    await oona.sees('Version 1 is live. The next lead goes through it.');
    const { rows } = await stage.db.query<{ key: string }>(
      `select key from source where name like 'Open day sign-in%' and kind = 'form-page'`,
    );
    const guest = await visitor();
    await guest.goes(`${stage.url}/f/${rows[0]!.key}`);
    await guest.sees('Welcome to our open day');
    for (const [field, typed] of [
      ['first_name', 'Ilse'],
      ['email', 'ilse@example.org'],
      ['phone', '07700 900507'],
    ] as const)
      await guest.types(`#f-${field}`, typed);
    await guest.page.click('input[name=consent]');
    // Faster than this nobody fills in a form: it would be taken for a machine.
    await new Promise((resolve) => setTimeout(resolve, 2500));
    await guest.click('Send my details');
    await guest.sees('Thank you');
    await until('her text', async () =>
      stage.desk.world.state.phones['+447700900507']?.messages.some(({ text }) =>
        text.startsWith('Lovely to have you here, Ilse.'),
      ),
    );
  });

  it('two people at one sheet: the second is told, and nothing is overwritten', async () => {
    const {
      rows: [workflow],
    } = await stage.db.query(`select id, revision from workflow where name = 'Camp: first reply'`);
    await oona.goes(`${stage.url}/workflows/${workflow.id}`);
    await stage.db.query('update workflow set revision = revision + 1 where id = $1', [workflow.id]);
    await oona.click('Switch off');
    await oona.sees('Somebody else has changed this run sheet meanwhile');
    await oona.sees('Not saved', '[data-testid=save-state]');
  });
});
