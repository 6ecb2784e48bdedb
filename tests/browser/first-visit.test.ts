import { expect } from 'chai';
import { closeBrowser, type Visitor, visitor } from '../stage/browser.ts';
import { openStage, type Stage, until } from '../stage/stage.ts';

/** Somebody fills in the form of hers. */
async function guestOf(stage: Stage, first: string, email: string, phone: string): Promise<void> {
  const { rows } = await stage.db.query<{ key: string }>(`select key from source where kind = 'form-page'`);
  const one = await visitor();
  await one.goes(`${stage.url}/f/${rows[0]!.key}`);
  await one.fills('First name', first);
  await one.fills('Email', email);
  await one.fills('Phone', phone);
  await one.page.click('input[name=consent]');
  // Faster than this nobody fills in a form: it would be taken for a machine.
  await new Promise((resolve) => setTimeout(resolve, 2500));
  await one.click('Send my details');
  await one.sees('Thank you');
  await one.page.close();
}

describe('the first five minutes, from an empty business to a lead answered, in a real browser', function () {
  this.timeout(90_000);
  let stage: Stage;
  let mara: Visitor;
  let clicks = 0;
  let began = 0;
  before(async () => {
    stage = await openStage({ empty: true });
    mara = await visitor();
    began = Date.now();
  });
  after(async () => {
    await closeBrowser();
    await stage.close();
  });
  afterEach(() => expect(mara.troubles, 'scripts that broke or were blocked').to.deep.equal([]));

  const click = async (words: string | RegExp, within?: string) => {
    clicks++;
    await mara.click(words, within);
  };
  /** What is ticked on the page of first steps. */
  const ticked = () =>
    mara.page.$$eval('main ol > li', (steps) =>
      steps
        .filter((step) => step.querySelector('[aria-label=Done]'))
        .map((step) => step.querySelector('h2')!.innerText),
    );
  const guest = (first: string, email: string, phone: string) => guestOf(stage, first, email, phone);

  it('is set up with the code of the console, and lands on the first steps with none ticked', async () => {
    await mara.goes(stage.url);
    await mara.fills('Set-up code', stage.setUpCode);
    await mara.fills('Name of the business', 'Harbour Pottery');
    await mara.fills('Your name', 'Mara Lind');
    await mara.fills('Your email', 'mara@pottery.example');
    await mara.fills('Password', 'clay-and-glaze');
    await click('Set up Pine Bell');
    await mara.sees('Your first lead, answered');
    expect(await ticked()).to.deep.equal([]);
  });

  it('has the practice world on with one click, plainly marked, though nothing else inside may be called', async () => {
    await click('Switch the practice world on');
    await mara.sees('Practice desk', 'header');
    const { rows } = await stage.db.query<{ kind: string }>('select kind from connection where practice order by kind');
    expect(rows.map(({ kind }) => kind)).to.deep.equal([
      ...['ad_platform', 'booking_calendar', 'chat_network', 'company_directory', 'funnel_host'],
      ...['mail_server', 'shop', 'text_carrier'],
    ]);
  });

  it('makes a form and sees it come in', async () => {
    await click('Make a form');
    await mara.fills('Title of the page', 'Ask about a course');
    await click('Make the page');
    await mara.sees('Build the page');
    await mara.goes(`${stage.url}/begin`);
    expect(await ticked()).to.deep.equal(['A source']);
    await guest('Ilse', 'ilse@example.org', '07700 900507');
    // By itself, as it happens.
    await until('the sample ticked', async () => (await ticked()).length === 2);
    await mara.sees('Ilse');
  });

  it('takes the answer that fits, sees it on her own phone, and puts it live', async () => {
    await click('See “Form: answer at once”');
    await mara.sees('Ask about a course');
    await click('Take this workflow');
    await mara.page.waitForSelector('[data-lane=lead] [data-step]');
    await click(/Text to the lead|^Text/, '[data-lane=lead]');
    await click('Send it to my phone');
    await mara.sees('Sent to +447700900100. Look there now.');
    expect(stage.desk.world.state.phones['+447700900100']?.messages.at(-1)?.text).to.match(/^Hi Ilse, thank you/);
    await click('Put version 1 live');
    await mara.sees('Version 1 is live. The next lead goes through it.');
    await mara.goes(`${stage.url}/begin`);
    expect(await ticked()).to.deep.equal(['A source', 'A sample', 'An answer', 'Your own phone']);
  });

  it('the next lead has the text within seconds; all is ticked, the page is gone, and it took less than five minutes', async () => {
    await guest('Bram', 'bram@example.org', '07700 900508');
    await until('his text', () => stage.desk.world.state.phones['+447700900508']?.messages.length);
    await mara.sees('That was it: a lead was answered.');
    expect(await ticked()).to.have.length(5);
    expect(Date.now() - began).to.be.below(5 * 60_000);
    expect(clicks, 'clicks from set-up to live').to.be.at.most(10);
    await mara.goes(stage.url);
    await mara.sees('Bram');
    expect(await mara.page.$('[aria-label="First steps"]')).to.equal(null);
  });

  it('keeps the practice world while something real answers by it, and names what does', async () => {
    await mara.goes(`${stage.url}/connections`);
    await mara.click('Remove the practice world');
    await mara.click('Remove it with everything it made');
    await mara.sees('is still used by the workflow “Form: answer at once”');
    const { rows } = await stage.db.query<{ n: number }>(
      'select count(*)::int as n from connection where removed_at is null',
    );
    expect(rows[0]!.n).to.equal(8);
  });

  it('takes it away with everything that came by it, and leaves what came by her own form', async () => {
    await mara.goes(`${stage.url}/sources/new?kind=ad-form`);
    await mara.click(/^Trial lesson/);
    await mara.click('Listen to this form');
    await mara.sees('the entry appears here by itself');
    const fair = await visitor();
    await fair.goes(stage.desk.url);
    await fair.click('Trial lesson', '[role=tablist]');
    for (const [key, value] of [
      ['first_name', 'Wanda'],
      ['last_name', 'Venn'],
      ['email', 'wanda@example.org'],
      ['phone', '07700 900503'],
    ])
      await fair.types(`#q-${key}`, value!);
    await fair.page.click('#q-consent');
    await fair.click('Send my details');
    await fair.sees('Your details have been sent');
    await mara.sees('Wanda', '[data-testid=samples]');
    await mara.click('This is right, put the source live');
    await mara.sees('This source is live');
    await fair.types('#q-email', 'second@example.org');
    await fair.types('#q-first_name', 'Vera');
    await fair.types('#q-phone', '07700 900504');
    await fair.click('Send my details');
    await until('a lead of the practice world', async () => (await people()).includes('second@example.org'));
    await mara.goes(`${stage.url}/workflows`);
    await mara.click('Pause Form: answer at once');
    await mara.sees('Paused', 'main');
    await mara.goes(`${stage.url}/connections`);
    await mara.click('Remove the practice world');
    await mara.sees('one person who came by it');
    await mara.click('Remove it with everything it made');
    await mara.sees('Nothing is connected yet');
    expect(await people()).to.deep.equal(['bram@example.org', 'ilse@example.org']);
    const left = await stage.db.query<{ name: string }>('select name from source where removed_at is null');
    expect(left.rows.map(({ name }) => name)).to.deep.equal(['Ask about a course']);
    expect(
      (await stage.db.query('select from arrival a join source s on s.id = a.source_id where s.removed_at is not null'))
        .rowCount,
    ).to.equal(0);
    const { rows } = await stage.db.query<{ practice: unknown; text_countries: string[] }>(
      'select practice, text_countries from business',
    );
    expect(rows[0]!.practice).to.equal(null);
    expect((await stage.db.query(`select from membership where test_phone <> ''`)).rowCount).to.equal(0);
  });

  it('can be installed, and says so in words of its own while it cannot be reached', async () => {
    const { manifest } = await (async () => {
      const made = await fetch(`${stage.url}/manifest.webmanifest`);
      expect(made.headers.get('content-type')).to.match(/manifest\+json/);
      return { manifest: (await made.json()) as { start_url: string; icons: { src: string; sizes: string }[] } };
    })();
    for (const { src } of manifest.icons) expect((await fetch(stage.url + src)).status, src).to.equal(200);
    expect(manifest.icons.map(({ sizes }) => sizes)).to.include.members(['192x192', '512x512']);
    await mara.page.evaluate(() => navigator.serviceWorker.ready.then(() => true));
    await stage.web.stop();
    await mara.page.goto(`${stage.url}/leads`, { waitUntil: 'load' });
    await mara.sees('Pine Bell cannot be reached');
    await stage.startWeb();
    await mara.page.goto(`${stage.url}/leads`, { waitUntil: 'load' });
    await mara.sees('Bram');
    mara.troubles.length = 0;
  });
  const people = async () =>
    (await stage.db.query<{ email: string }>('select email from lead where is_person order by email')).rows.map(
      ({ email }) => email,
    );
});

describe('the first five minutes by keyboard alone', function () {
  this.timeout(120_000);
  let stage: Stage;
  before(async () => {
    stage = await openStage({ empty: true });
  });
  after(async () => {
    await closeBrowser();
    await stage.close();
  });

  it('from set-up to a lead answered, with a ring around whatever has the keyboard', async () => {
    const mara = await visitor();
    const { keyboard } = mara.page;
    const types = async (label: RegExp, text: string) => {
      await mara.tabsTo(label);
      await keyboard.type(text);
    };
    const does = async (words: string | RegExp) => {
      await mara.tabsTo(words);
      await keyboard.press('Enter');
    };
    await mara.goes(stage.url);
    await types(/^Set-up code/, stage.setUpCode);
    await types(/^Name of the business/, 'Harbour Pottery');
    await types(/^Your name/, 'Mara Lind');
    await types(/^Your email/, 'mara@pottery.example');
    await types(/^Password/, 'clay-and-glaze');
    await does('Set up Pine Bell');
    await mara.sees('Your first lead, answered');
    await does('Switch the practice world on');
    await mara.page.waitForSelector('header [href^="http"]');
    await does('Make a form');
    await mara.sees('Title of the page');
    await types(/^Title of the page/, 'Ask about a course');
    await does('Make the page');
    await mara.sees('Build the page');
    await guestOf(stage, 'Ilse', 'ilse@example.org', '07700 900507');
    await mara.goes(`${stage.url}/begin`);
    await does('See “Form: answer at once”');
    await until('the starter', () => mara.page.url().includes('/workflows/new/'));
    await does('Take this workflow');
    await mara.page.waitForSelector('[data-lane=lead] [data-step]');
    await does(/^Text ?Hi/);
    await does('Send it to my phone');
    await mara.sees('Sent to +447700900100. Look there now.');
    await does('Put version 1 live');
    await mara.sees('Version 1 is live. The next lead goes through it.');
    await guestOf(stage, 'Bram', 'bram@example.org', '07700 900508');
    await until('his text', () => stage.desk.world.state.phones['+447700900508']?.messages.length);
    expect(mara.troubles).to.deep.equal([]);
  });
});
