import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { expect } from 'chai';
import { closeBrowser, signedInVisitor, type Visitor } from '../stage/browser.ts';
import { liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { type Stage, type signedIn, until } from '../stage/stage.ts';

describe('results, in a real browser', function () {
  this.timeout(180_000);
  let stage: Stage;
  let oona: Visitor;
  let api: Awaited<ReturnType<typeof signedIn>>;
  before(async () => {
    ({ stage, oona: api } = await sharedStage({ history: true }));
    oona = await signedInVisitor(stage);
    // The history is reckoned after it was made: a number read while that goes on is another one by the time it is opened.
    await until(
      'the history to be reckoned',
      async () =>
        (await stage.db.query(`select from result_due where due_at <= now() + interval '2 seconds' limit 1`))
          .rowCount === 0,
      80_000,
    );
  });
  after(async () => {
    await closeBrowser();
  });
  afterEach(() => expect(oona.troubles, 'scripts that broke or were blocked').to.deep.equal([]));

  const rowOf = (name: string) =>
    oona.page.$$eval(
      '.results-table tbody tr',
      (rows, wanted) =>
        (rows as HTMLElement[])
          .map((row) => row.innerText.replace(/\s+/g, ' ').trim())
          .find((text) => text.startsWith(wanted)) ?? '',
      name,
    );

  it('a campaign is opened to its ads, a number to the people behind it, and another way of crediting says where it differs', async () => {
    await oona.goes(`${stage.url}/results?period=last-90`);
    await oona.sees('All of it');
    const bought = await rowOf('piano-evenings');
    const cheap = await rowOf('win-a-guitar');
    expect(bought).to.match(/£[\d,.]+/);
    expect(cheap).to.match(/£[\d,.]+/);
    await oona.click('piano-evenings');
    await oona.sees('adults-evening');
    await oona.click('adults-evening');
    await oona.sees('first-nocturne');
    // The leads of the campaign, by name.
    const leads = await oona.page.$$eval('.results-table tbody tr', (rows) => {
      const row = (rows as HTMLElement[]).find((one) => one.innerText.trim().startsWith('piano-evenings'));
      const button = [...(row?.querySelectorAll('td button') ?? [])][0] as HTMLButtonElement;
      button.click();
      return Number(button.innerText.replace(/,/g, ''));
    });
    await oona.sees(`${leads} in all`, 'dialog');
    await oona.sees('their only contact before it', 'dialog');
    await oona.page.keyboard.press('Escape');
    await oona.choose('Credited to', 'Shared equally');
    await oona.sees('Each contact before it happened gets the same share.');
    expect(new URL(oona.page.url()).searchParams.get('model')).to.equal('even');
    await oona.sees(/They disagree most about|all of them say the same/);
    await oona.click('Show as a table');
    await oona.sees('Week from');
    // The view is kept by its address.
    await oona.goes(oona.page.url());
    await oona.sees('Each contact before it happened gets the same share.');
  });

  it('costs are pasted, looked at, their columns put right, kept and taken back', async () => {
    await oona.goes(`${stage.url}/results/costs`);
    await oona.types('textarea', 'Tag\tCampaign\tGeld\n2026-02-03\tlute-week\t12.50\nsoon\tlute-week\t1\n');
    await oona.click('Look at it');
    await oona.sees('Say which column is Day, which is Cost.');
    await oona.choose('Day', 'Tag');
    await oona.sees('Say which column is Cost.');
    await oona.choose('Cost', 'Geld');
    await oona.sees('1 lines, 2026-02-03 to 2026-02-03: £12.50.');
    await oona.click('1 row is left out');
    await oona.sees('Row 3: “soon” is no date.');
    await oona.click('Keep these costs');
    await oona.sees('1 lines are kept.');
    await oona.sees(/pasted .*\s2026-02-03 to 2026-02-03/s);
    await oona.click(/^Take back what pasted/);
    await oona.sees(/1 lines of pasted .* are taken back/);
  });

  it('a link is made with marks, out of words that are used already', async () => {
    await oona.goes(`${stage.url}/results/names?period=last-90`);
    await oona.types('input[type=url]', 'www.wrenfield.example/open-day?room=5');
    await oona.types('input[list=words-site]', 'Town Hall');
    await oona.types('input[list=words-campaign]', 'autumn-trial');
    await oona.sees('https://www.wrenfield.example/open-day?room=5&utm_source=town-hall&utm_campaign=autumn-trial');
    await oona.click('Keep town-hall');
    await oona.sees('town-hall is one of your words.');
  });

  it('a text is tried in two versions, and one of them is kept', async () => {
    const flow = await liveFlow(stage, api, [
      momentOf('a', { lanes: { lead: [freshStep('text', 't', { message: 'Hello from A' })], record: [], team: [] } }),
    ]);
    await oona.goes(`${stage.url}/workflows/${flow.id}`);
    await oona.page.waitForSelector('[data-step]', { timeout: 15_000 }).catch(() => null);
    await oona.click(/^Text/);
    await oona.click('Try it in two versions');
    await oona.sees('both versions are the same');
    await oona.choose('of each version', '400 people');
    await oona.sees(/So many tell 10 of 100 from 17 of 100/);
    await oona.page.focus('[contenteditable=true]');
    await oona.page.keyboard.down('Control');
    await oona.page.keyboard.press('a');
    await oona.page.keyboard.up('Control');
    await oona.page.keyboard.type('Hello from B');
    const draft = async () =>
      (await stage.db.query('select draft from workflow where id = $1', [flow.id])).rows[0].draft.moments[0].lanes
        .lead[0];
    await until('version B to be stored', async () => (await draft()).trial?.settings.message === 'Hello from B');
    expect([(await draft()).settings.message, (await draft()).trial.perHalf]).to.deep.equal(['Hello from A', 400]);
    await oona.click('Version A');
    await oona.sees('Hello from A', '[contenteditable=true]');
    await oona.click('End it');
    await oona.click('Keep version B');
    await until(
      'the trial to be over',
      async () => (await draft()).trial === undefined && (await draft()).settings.message === 'Hello from B',
    );
  });

  describe('on the business’s own pages', () => {
    let server: Server;
    let shop: string;
    let key: string;
    before(async () => {
      await api.call('POST', '/api/results/sites', { name: 'pages', asks: true });
      key = (await stage.db.query(`select key from site where name = 'pages'`)).rows[0].key;
      server = createServer((_, response) => {
        response.setHeader('content-type', 'text/html');
        response.end(
          `<!doctype html><title>Shop</title><script src="${stage.url}/visits.js" data-site="${key}" data-asks defer></script>
           <button onclick="pineBell.agree()">Agree</button><button onclick="pineBell.refuse()">Refuse</button>
           <form onsubmit="event.preventDefault(); document.title = 'sent ' + (new FormData(this).get('pb_visitor') ?? 'nothing')"><button>Send the form</button></form>`,
        );
      });
      await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
      shop = `http://127.0.0.1:${(server.address() as AddressInfo).port}/`;
    });
    after(() => server.close());
    const visits = async () =>
      (
        await stage.db.query(
          `select v.* from site_visit v join site s on s.id = v.site_id where s.key = $1 order by v.at`,
          [key],
        )
      ).rows;
    const kept = () => oona.page.evaluate(() => localStorage.getItem('pine-bell-visitor'));
    const title = (wanted: RegExp) =>
      oona.page.waitForFunction((source) => new RegExp(source).test(document.title), {}, wanted.source);
    /** As a person with a browser of today; the stage's own says that it is none. */
    const comes = async (query: string) => {
      await oona.page.setUserAgent({
        userAgent: 'Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 Chrome/130.0 Safari/537.36',
      });
      await oona.page.goto(shop + query, { waitUntil: 'networkidle0' });
    };

    it('nothing is kept or sent before they agree; then the visit is, and their form carries who they are', async () => {
      await comes('?utm_source=poster&utm_campaign=town-hall');
      expect([await kept(), (await visits()).length]).to.deep.equal([null, 0]);
      await oona.click('Send the form');
      await title(/^sent nothing$/);
      await comes('?utm_source=poster&utm_campaign=town-hall');
      await oona.click('Agree');
      const [visit] = await until('the visit', async () => ((await visits()).length === 1 ? visits() : null));
      expect(visit.visitor).to.equal(await kept());
      expect(visit.where_from).to.include({
        utm_source: 'poster',
        utm_campaign: 'town-hall',
        device: 'computer',
        counted: 'agreed',
      });
      await oona.click('Send the form');
      await title(new RegExp(`^sent ${visit.visitor}$`));
      // A page further on, without a mark, is no new way to come.
      await comes('');
      await comes('?utm_campaign=second');
      await until('the second visit', async () => (await visits()).length === 2);
    });
    it('who refuses is forgotten, and who asks not to be followed is not', async () => {
      await comes('');
      await oona.click('Refuse');
      expect(await kept()).to.equal(null);
      await comes('?utm_campaign=third');
      await oona.click('Send the form');
      await title(/^sent nothing$/);
      const page = await oona.page.browser().newPage();
      await page.evaluateOnNewDocument(() => {
        Object.defineProperty(navigator, 'globalPrivacyControl', { value: true });
        localStorage.setItem('pine-bell-choice', 'yes');
      });
      await page.goto(`${shop}?utm_campaign=fourth`, { waitUntil: 'networkidle0' });
      expect(await page.evaluate(() => localStorage.getItem('pine-bell-visitor'))).to.equal(null);
      expect((await visits()).map((visit) => visit.where_from.utm_campaign)).to.deep.equal(['town-hall', 'second']);
      await page.close();
    });
  });
});
