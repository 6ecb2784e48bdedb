import { expect } from 'chai';
import { closeBrowser, signedInVisitor, type Visitor } from '../stage/browser.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { SIGN_IN, type Stage, type signedIn, until } from '../stage/stage.ts';

describe('segments, sheets, deals and the calendar, in a real browser', function () {
  this.timeout(180_000);
  let stage: Stage;
  let oona: Visitor;
  let api: Awaited<ReturnType<typeof signedIn>>;
  before(async () => {
    ({ stage, oona: api } = await sharedStage({ history: true }));
    oona = await signedInVisitor(stage);
  });
  after(async () => {
    await closeBrowser();
  });
  afterEach(() => expect(oona.troubles, 'scripts that broke or were blocked').to.deep.equal([]));

  const count = async (sql: string, values: unknown[] = []) =>
    Number((await stage.db.query(`select count(*)::int as n from ${sql}`, values)).rows[0].n);

  it('narrows leads down by a question, keeps it as a segment, and tags them all after saying how many', async () => {
    await oona.goes(`${stage.url}/leads`);
    const piano = await count(`lead where is_person and answers ->> 'instrument' = 'Piano'`);
    await oona.click('Narrow down');
    await oona.choose('Which field', 'Instrument');
    await oona.types('input[aria-label="What it is compared with"]', 'piano');
    await oona.click('Show them');
    await oona.sees(`${piano} found`);
    await oona.sees('Instrument is piano', '[data-testid=choice-words]');
    await oona.click('Change the questions');
    await oona.types('input[aria-label="Name of the segment"]', 'All pianists');
    await oona.click('Keep as a segment');
    await oona.page.waitForFunction(() => new URLSearchParams(location.search).has('segment'));
    await oona.goes(oona.page.url());
    await oona.click(`Do with ${piano} leads`);
    await oona.choose('Tag', 'Autumn trial');
    await oona.sees(`Tag them Autumn trial: ${piano} leads.`);
    await oona.click(`Do it with ${piano} leads`);
    await oona.sees(/Tag them Autumn trial:.*done, \d+ changed/s);
    expect(
      await count(
        `lead l join lead_tag t on t.lead_id = l.id join tag g on g.id = t.tag_id where g.name = 'Autumn trial' and l.answers ->> 'instrument' = 'Piano'`,
      ),
    ).to.equal(piano);
  });

  it('a sheet says who wrote a row, shades by a rule, and sorts numbers as numbers', async () => {
    const made = (await api.call<{ id: string; tabs: { id: string }[] }>('POST', '/api/sheets', { name: 'Fees' })).body;
    await fetch(`${stage.url}/api/tabs/${made.tabs[0]!.id}/file?name=fees.csv`, {
      method: 'POST',
      headers: { cookie: api.cookie, origin: stage.url },
      body: 'Name,Fee\nAda,90\nBo,1000\nCy,',
    });
    await oona.goes(`${stage.url}/sheets/${made.id}`);
    const cells = () =>
      oona.page.$$eval('.dsg-row input[aria-label=Name]', (all) =>
        all.map((input) => (input as HTMLInputElement).value),
      );
    await until('the rows', async () => (await cells()).length === 3);
    await oona.click('Fee', '.dsg-container');
    await oona.choose('It holds', 'Numbers');
    await oona.choose('Order', 'Sorted downwards');
    await until('them sorted', async () => (await cells()).join() === 'Bo,Ada,Cy');
    await oona.click('Shading');
    await oona.click('Add a rule');
    await oona.choose('Column of rule 1', 'Fee');
    await oona.choose('Test of rule 1', 'is empty');
    await oona.choose('Shade of rule 1', 'Amber');
    await oona.page.waitForSelector('.dsg-cell.shade-warn');
    await oona.click('Who wrote it');
    const first = await oona.page.waitForSelector('.dsg-row input[aria-label=Name]');
    const box = (await first!.boundingBox())!;
    await oona.page.mouse.click(box.x + 40, box.y + 10);
    await oona.sees('from a file (fees.csv)', 'aside[aria-label="Who wrote this row"]');
    await oona.sees('Row 2', 'aside[aria-label="Who wrote this row"]');
    await oona.page.keyboard.type('Bo Lind');
    await oona.page.keyboard.press('Enter');
    await oona.page.keyboard.press('ArrowUp');
    await oona.sees(/Oona Pell.*typed/, 'aside[aria-label="Who wrote this row"]');
  });

  it('a whole sheet emptied by one key comes back by one, here and where it is kept, and goes again', async () => {
    const made = (await api.call<{ id: string; tabs: { id: string }[] }>('POST', '/api/sheets', { name: 'Undone' }))
      .body;
    await fetch(`${stage.url}/api/tabs/${made.tabs[0]!.id}/file?name=u.csv`, {
      method: 'POST',
      headers: { cookie: api.cookie, origin: stage.url },
      body: 'Name,Fee\nAda,90\nBo,1000\nCy,70',
    });
    const there = (n: number) =>
      until(`${n} rows kept with something in them`, async () => {
        const { rows } = await stage.db.query(`select cells from sheet_row where tab_id = $1 and cells <> '{}'`, [
          made.tabs[0]!.id,
        ]);
        return rows.length === n ? rows : null;
      });
    await oona.goes(`${stage.url}/sheets/${made.id}`);
    const first = await oona.page.waitForSelector('.dsg-row input[aria-label=Name]');
    const box = (await first!.boundingBox())!;
    await oona.page.mouse.click(box.x + 40, box.y + 10);
    await oona.page.keyboard.down('Control');
    await oona.page.keyboard.press('a');
    await oona.page.keyboard.up('Control');
    await oona.page.keyboard.press('Delete');
    await there(0);
    await oona.click('Undo');
    const back = await there(3);
    expect(back.map((row) => Object.values(row.cells).sort().join())).to.have.members(['90,Ada', '1000,Bo', '70,Cy']);
    await oona.click('Redo');
    await there(0);
    await oona.page.keyboard.down('Control');
    await oona.page.keyboard.press('z');
    await oona.page.keyboard.up('Control');
    await there(3);
  });

  it('whoever may only look at a sheet is offered nothing that would be refused', async () => {
    const sheet = (await stage.db.query('select s.id from sheet s limit 1')).rows[0].id;
    await stage.db.query(
      `update membership set role = 'viewer' where person_id = (select id from person where email = 'tomas@wrenfield.example')`,
    );
    const tomas = await signedInVisitor(stage, { email: 'tomas@wrenfield.example', password: SIGN_IN.password });
    await tomas.goes(`${stage.url}/sheets/${sheet}`);
    await tomas.sees('You can look at this sheet');
    await tomas.sees(/\d rows?/);
    const offered = await tomas.page.$$eval('main a, main button, main input[type=file]', (all) =>
      all.map((one) => one.textContent?.trim() || one.getAttribute('aria-label') || one.tagName),
    );
    for (const refused of ['CSV', 'XLSX', 'Delete this sheet', 'Add a column', 'Add a row', 'Add a tab', 'INPUT'])
      expect(offered).not.to.include(refused);
    await tomas.page.close();
  });

  it('a panel low on the screen stands inside the window; Escape and a click outside close it, and the keyboard is back on its button', async () => {
    await oona.page.setViewport({ width: 1280, height: 520 });
    try {
      await oona.goes(`${stage.url}/workflows`);
      const buttons = await oona.page.$$('button[aria-label^="Remove "]');
      const low = buttons.at(-1)!;
      await low.evaluate((button) => button.scrollIntoView({ block: 'end' }));
      const name = await low.evaluate((button) => button.getAttribute('aria-label'));
      const open = () => oona.page.$$eval('.sheet-card.z-50', (all) => all.length);
      await low.click();
      await oona.sees('Its log stays, and can be looked at below.');
      await until('it in its place', async () => {
        const box = await (await oona.page.$('.sheet-card.z-50'))!.boundingBox();
        return box && box.y >= 0 && box.y + box.height <= 520 && box.x >= 0 && box.x + box.width <= 1280;
      });
      await oona.page.keyboard.press('Escape');
      await until('it closed', async () => (await open()) === 0);
      expect(await oona.page.evaluate(() => document.activeElement?.getAttribute('aria-label'))).to.equal(name);
      await oona.page.keyboard.press('Enter');
      await oona.sees('Its log stays, and can be looked at below.');
      await oona.page.mouse.click(20, 300);
      await until('it closed again', async () => (await open()) === 0);
    } finally {
      await oona.page.setViewport({ width: 1280, height: 800 });
    }
  });

  it('a deal goes from stage to stage by keyboard and from its list, and says who moved it', async () => {
    await oona.goes(`${stage.url}/pipeline`);
    const stageOf = async (id: string) =>
      (await stage.db.query('select s.name from deal d join stage s on s.id = d.stage_id where d.id = $1', [id]))
        .rows[0].name;
    const {
      rows: [deal],
    } = await stage.db.query(
      `select d.id, d.title from deal d join stage s on s.id = d.stage_id where s.name = 'New enquiry' order by d.moved_at desc limit 1`,
    );
    const handle = await oona.page.waitForSelector(`article[aria-label="${deal.title}"] [role=button]`);
    await handle!.focus();
    const press = async (key: 'Space' | 'ArrowRight') => {
      await oona.page.keyboard.press(key);
      await new Promise((resolve) => setTimeout(resolve, 250));
    };
    await press('Space');
    await press('ArrowRight');
    await press('Space');
    await until('it in the next stage', async () => (await stageOf(deal.id)) === 'Trial booked');
    await oona.choose(`Move ${deal.title} to`, 'Trial had');
    await until('it in the third stage', async () => (await stageOf(deal.id)) === 'Trial had');
    await oona.click('As a table');
    await oona.sees('by Oona Pell', 'table');
    await oona.choose(`Stage of ${deal.title}`, 'Signed up');
    await until('it won', async () => (await stageOf(deal.id)) === 'Signed up');
  });

  it('the calendar shows the week, and says into whose the bookings go', async () => {
    await oona.goes(`${stage.url}/calendar`);
    await oona.sees('This week');
    await oona.click('Week after');
    await oona.page.waitForFunction(() => location.search.includes('week='));
    await oona.goes(oona.page.url());
    await oona.click('Files and feed');
    await oona.sees('Bookings of outside calendars');
    await oona.choose('Bookings', 'nobody');
    await oona.sees('They stand in nobody’s week any more.');
    expect(await count(`source where kind = 'booking-calendar' and settings ->> 'colleagueId' is null`)).to.equal(1);
  });

  it('pressed twice in a row, an appointment stands in the week once', async () => {
    await oona.goes(`${stage.url}/calendar`);
    await oona.click('New appointment');
    await oona.types('input[placeholder="Trial lesson"]', 'Open evening');
    await oona.page.evaluate(() => {
      const button = [...document.querySelectorAll('button')].find((button) => button.textContent === 'Put it in')!;
      button.click();
      button.click();
    });
    await oona.page.waitForFunction(() => location.search.includes('week='));
    await oona.sees('Open evening');
    expect(await count(`calendar_entry where title = 'Open evening'`)).to.equal(1);
  });
});
