import { expect } from 'chai';
import { closeBrowser, focused, type Visitor, visitor } from '../stage/browser.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { SIGN_IN, type Stage, until } from '../stage/stage.ts';

describe('the main paths, by keyboard alone, in a real browser', function () {
  this.timeout(90_000);
  let stage: Stage;
  let oona: Visitor;
  before(async () => {
    ({ stage } = await sharedStage({ history: true }));
    oona = await visitor();
  });
  after(() => closeBrowser());
  afterEach(() => expect(oona.troubles, 'scripts that broke or were blocked').to.deep.equal([]));

  const press = (key: 'j' | 'k' | 'Tab' | 'Enter' | 'Escape' | 'Space' | 'ArrowRight' | 'ArrowLeft') =>
    oona.page.keyboard.press(key);
  const tabTo = (words: string | RegExp) => oona.tabsTo(words);

  it('signs in, passes over the bar at once, and opens what rang in', async () => {
    await oona.goes(`${stage.url}/sign-in`);
    await tabTo(/^Email/);
    await oona.page.keyboard.type(SIGN_IN.email);
    await tabTo(/^Password/);
    await oona.page.keyboard.type(SIGN_IN.password);
    await press('Enter');
    await oona.sees('median time to first reply today');
    await oona.goes(`${stage.url}/`);
    await tabTo('Skip to the page');
    await press('Enter');
    await tabTo(/Trial lesson form/);
    await press('Enter');
    await oona.page.waitForFunction(() => location.pathname.endsWith('/log'));
    await oona.sees('What came in');
  });

  it('goes from part to part of a source with the arrow keys', async () => {
    const { rows } = await stage.db.query(`select id from source where name = 'Trial lesson form'`);
    await oona.goes(`${stage.url}/sources/${rows[0].id}`);
    await tabTo('Arrivals');
    await press('ArrowRight');
    await until('the next part', async () => (await oona.page.evaluate(focused)) === 'Lead card');
    await oona.sees('Which field is which');
    await press('ArrowRight');
    await oona.sees('Fields');
    await press('ArrowLeft');
    await press('ArrowLeft');
    await oona.sees('As it came');
  });

  it('opens a panel, goes through it, and Escape leads back to its button', async () => {
    await oona.goes(`${stage.url}/calendar`);
    await tabTo('New appointment');
    await press('Enter');
    await tabTo(/^Whose time/);
    await tabTo(/^What it is/);
    await press('Escape');
    expect(await oona.page.evaluate(focused)).to.equal('New appointment');
    expect(await oona.page.$('input[placeholder="Trial lesson"]')).to.equal(null);
    await oona.goes(`${stage.url}/calendar`);
    await tabTo('Files and feed');
    await press('Enter');
    await tabTo('Choose a file');
    await press('Escape');
    expect(await oona.page.evaluate(focused)).to.equal('Files and feed');
  });

  it('finds somebody, puts their number right, and answers them', async () => {
    const { rows } = await stage.db.query(
      `select l.id, l.last_name from lead l join inbound i on i.lead_id = l.id where l.last_name <> '' order by i.received_at desc limit 1`,
    );
    const { id } = rows[0];
    await oona.goes(`${stage.url}/leads/${id}`);
    await tabTo('Put right');
    await press('Enter');
    await tabTo(/^Last name/);
    await oona.page.keyboard.down('Control');
    await oona.page.keyboard.press('a');
    await oona.page.keyboard.up('Control');
    await oona.page.keyboard.type('Keyes');
    await press('Enter');
    await until(
      'the name to be kept',
      async () => (await stage.db.query(`select 1 from lead where id = $1 and last_name = 'Keyes'`, [id])).rowCount,
    );
    // The page comes anew with it.
    await oona.sees('Keyes', 'h1');
    await oona.goes(`${stage.url}/conversations`);
    await tabTo(/Keyes/);
    await press('Enter');
    await tabTo(/^(The answer|The note)$/);
  });

  it('finds anything by one key, does what is asked, and goes through the log with single keys', async () => {
    const find = async (typed: string, shown: string | RegExp) => {
      await oona.page.keyboard.down('Control');
      await press('k');
      await oona.page.keyboard.up('Control');
      await oona.page.waitForSelector('[data-testid=found]');
      await oona.page.keyboard.type(typed);
      await oona.sees(shown, '[data-testid=found]');
    };
    await oona.goes(stage.url);
    await find('log of trial', 'Log of “Trial lesson: first reply”');
    await oona.leaves(() => press('Enter'));
    expect(oona.page.url()).to.contain('/log');
    await oona.page.waitForSelector('[data-testid=runs] button');
    const chosen = () =>
      oona.page
        .$eval('[data-testid=runs] [aria-pressed=true]', (row) => (row as HTMLElement).innerText)
        .catch(() => '');
    await press('j');
    const first = await until('one chosen', chosen);
    await press('j');
    await until('the next', async () => (await chosen()) !== first);
    await press('k');
    await until('the one before', async () => (await chosen()) === first);
    // Enter right after the last letters, before their answer can have come: meant is what answers the whole of them.
    await find('pause t', 'Pause “Trial lesson: first reply”');
    await oona.page.keyboard.type('hank');
    await oona.leaves(() => press('Enter'));
    await until(
      'paused',
      async () =>
        (await stage.db.query(`select from workflow where name = 'Shop: thank you' and state = 'paused'`)).rowCount ===
        1,
    );
    expect((await stage.db.query(`select from workflow where state = 'paused'`)).rowCount).to.equal(1);
    await oona.page.waitForSelector('[data-testid=runs] button');
    await find('resume shop', 'Go on with “Shop: thank you”');
    await oona.leaves(() => press('Enter'));
    await until(
      'live again',
      async () =>
        (await stage.db.query(`select from workflow where name = 'Shop: thank you' and state = 'live'`)).rowCount === 1,
    );
    await oona.page.waitForSelector('[data-testid=runs] button');
    await oona.page.keyboard.type('?');
    await oona.sees('Single keys do something on this device', 'dialog');
    await press('Escape');
    await until('the list closed', async () => (await oona.page.$('dialog')) === null);
  });
});
