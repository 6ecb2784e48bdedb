import { expect } from 'chai';
import { closeBrowser, signedInVisitor, type Visitor } from '../stage/browser.ts';
import { liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { type Stage, signedIn, until } from '../stage/stage.ts';

describe('several things at once, and where they are kept, in a real browser', function () {
  this.timeout(120_000);
  let stage: Stage;
  let oona: Visitor;
  let live: string;
  before(async () => {
    ({ stage } = await sharedStage());
    const caller = await signedIn(stage);
    for (const name of ['Spring one', 'Spring two']) await caller.call('POST', '/api/workflows', { name, folder: '' });
    live = (await liveFlow(stage, caller, [momentOf('a', toTheLead(freshStep('text', 't', { message: 'Hello' })))])).id;
    await caller.call('POST', `/api/workflows/${live}`, { name: 'Spring live', folder: '' });
    oona = await signedInVisitor(stage);
  });
  after(closeBrowser);

  const choose = async (...names: string[]) => {
    for (const name of names) await oona.page.click(`input[aria-label="Choose ${name}"]`);
  };
  const states = async () =>
    (
      await stage.db.query<{ words: string }>(
        `select name || ' ' || state || ' ' || folder || case when removed_at is null then '' else ' removed' end as words from workflow where name like 'Spring %' order by name`,
      )
    ).rows.map(({ words }) => words);

  it('workflows are moved into a folder together, and shown there', async () => {
    await oona.goes(`${stage.url}/workflows`);
    await choose('Spring one', 'Spring two', 'Spring live');
    await oona.sees('3 workflows');
    await oona.click('Move to a folder');
    await oona.fills('Folder; empty for none', 'Spring term');
    await oona.click('Move them');
    await oona.sees('Spring term');
    expect(await states()).to.deep.equal([
      'Spring live live Spring term',
      'Spring one draft Spring term',
      'Spring two draft Spring term',
    ]);
  });

  it('what cannot be removed with the others stays, and says why', async () => {
    await oona.goes(`${stage.url}/workflows`);
    await choose('Spring one', 'Spring two', 'Spring live');
    await oona.click('Remove', 'section[aria-label="What to do with those chosen"]');
    await oona.click('Remove them');
    await oona.sees('One stays as it was');
    await oona.sees('“Spring live” is live. Pause it first; then it can be removed.');
    expect(await states()).to.deep.equal([
      'Spring live live Spring term',
      'Spring one draft Spring term removed',
      'Spring two draft Spring term removed',
    ]);
    await oona.goes(`${stage.url}/workflows`);
    await choose('Spring live');
    await oona.click('Pause', 'section[aria-label="What to do with those chosen"]');
    await until('it paused', async () => (await states())[0] === 'Spring live paused Spring term');
    await oona.sees('Go on');
  });

  it('a sheet is renamed where it stands in the list, and put into a folder', async () => {
    await (await signedIn(stage)).call('POST', '/api/sheets', { name: 'Old name' });
    await oona.goes(`${stage.url}/sheets`);
    await (await oona.page.waitForSelector(
      'astro-island:not([ssr]) button[aria-label="Rename or move Old name"]',
    ))!.click();
    // Another field of the page begins with “Name”, too.
    await oona.page.waitForSelector('form:has(datalist) input');
    await oona.page.click('form:has(datalist) input', { count: 3 });
    await oona.page.keyboard.type('New name');
    await oona.fills('Folder, if you like', 'Front desk');
    await oona.click('Save');
    await oona.sees('Front desk');
    await oona.sees('New name');
    const { rows } = await stage.db.query(`select name, folder from sheet where name in ('Old name', 'New name')`);
    expect(rows).to.deep.equal([{ name: 'New name', folder: 'Front desk' }]);
  });
});
