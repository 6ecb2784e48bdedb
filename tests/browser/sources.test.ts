import { expect } from 'chai';
import { closeBrowser, signedInVisitor, type Visitor, visitor } from '../stage/browser.ts';
import { openStage, type Stage, until } from '../stage/stage.ts';

describe('sources set up by hand, in a real browser', function () {
  this.timeout(90_000);
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

  const lead = (email: string) =>
    until(
      `a lead ${email}`,
      async () => (await stage.db.query('select * from lead where email = $1', [email])).rows[0],
    );

  it('a sheet from a row on: typed in the grid, the row is a lead; rows above never are', async () => {
    await oona.goes(`${stage.url}/sheets`);
    await oona.types('input[aria-label="Name of the new sheet"]', 'Concert list');
    await oona.click('Make a new sheet');
    await oona.sees('Add a row');
    const typeRow = async (cells: string[]) => {
      await oona.click('Add a row');
      // The grid takes the keys once the new row has the cursor.
      await new Promise((resolve) => setTimeout(resolve, 250));
      for (const [i, cell] of cells.entries()) {
        if (i > 0) await oona.page.keyboard.press('Tab');
        await oona.page.keyboard.type(cell);
      }
      await oona.page.keyboard.press('Enter');
      await until(
        'the row to be saved',
        async () =>
          (await stage.db.query('select 1 from sheet_row where cells::text like $1', [`%${cells.at(-1)}%`])).rowCount,
      );
    };
    await typeRow(['Ines', 'Ford', 'ines@example.org']);
    await typeRow(['Jan', 'Gale', 'jan@example.org']);

    await oona.goes(`${stage.url}/sources/new`);
    await oona.click(/^Sheet ?New or changed/);
    await oona.click('Concert list', '[data-testid=choices]');
    await oona.click(/^At a row/);
    await oona.types('input[type=number]', '2');
    await oona.click('Listen to this tab');
    await oona.click('Fetch the newest');
    await oona.sees('Jan, Gale, jan@example.org', '[data-testid=samples]');
    await oona.click('This is right, put the source live');
    await oona.sees('This source is live');
    await lead('jan@example.org');
    await oona.click('Open the sheet');
    await oona.sees('2 rows');
    await typeRow(['Kit', 'Lowe', 'kit@example.org']);
    expect((await lead('kit@example.org')).first_name).to.equal('Kit');
    expect((await stage.db.query(`select 1 from lead where email = 'ines@example.org'`)).rowCount).to.equal(0);
  });

  it('the own form page: built, looked at, filled in on a phone, and the lead is there', async () => {
    await oona.goes(`${stage.url}/sources/new`);
    await oona.click(/^Own form page/);
    await oona.types('main form input.input', 'Try the harp');
    await oona.click('Make the page');
    await oona.sees('Build the page');
    await oona.click('Add a question');
    const questions = await oona.page.$$('[data-testid=form-editor] input[aria-label=Question]');
    await questions.at(-1)!.click({ count: 3 });
    await oona.page.keyboard.type('Have you played before?');
    await oona.page.select('[aria-label="Kind of answer to Have you played before?"]', 'choice');
    await oona.types('[aria-label="Answers to Have you played before?, one per line"]', 'Yes\nNo');
    await oona.click('Put this on the page');
    await oona.sees('Saved.');
    const link = await oona.page.$eval('[data-testid=form-link]', (element) => element.textContent ?? '');

    const guest = await visitor();
    await guest.page.setViewport({ width: 390, height: 780 });
    await guest.goes(`${link}?utm_source=harp-day`);
    expect(await guest.page.evaluate(() => document.documentElement.scrollWidth)).to.equal(390);
    await guest.types('#f-first_name', 'Nell');
    await guest.types('#f-last_name', 'Orr');
    await guest.types('#f-email', 'nell@');
    await guest.click('Send my details');
    await guest.types('#f-email', 'nell@example.org');
    await guest.page.select('#f-have_you_played_before', 'No');
    await guest.page.click('input[name=consent]');
    await new Promise((resolve) => setTimeout(resolve, 1600));
    await guest.click('Send my details');
    await guest.sees('We have your details and will be in touch.');

    // Its fields are known from the start, so it was live: who filled it in is a lead at once.
    await oona.click('Arrivals', 'main');
    await oona.sees('nell@example.org', '[data-testid=samples]');
    const made = await lead('nell@example.org');
    await oona.goes(`${stage.url}/leads/${made.id}`);
    await oona.sees('version 1 of the wording');
    await oona.sees('harp-day');
  });

  it('an ad form fetched on a schedule says how many entries are held, and shows how far it is', async () => {
    await oona.goes(`${stage.url}/sources/new`);
    await oona.click(/^Ad form/);
    await oona.click(/^Summer camp/);
    await oona.sees('is not live on the ad platform');
    await oona.click(/^Fetched every few minutes/);
    await oona.sees('Everything the ad platform still holds: 140 entries');
    await oona.click(/^Everything the ad platform still holds/);
    await oona.click('Listen to this form');
    await oona.click('Fetch the newest');
    await oona.click('This is right, put the source live');
    await oona.sees('140 of 140 that were there already', 'main');
  });
});
