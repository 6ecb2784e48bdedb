import { expect } from 'chai';
import { hashPassword } from '../../src/app/account/sign-in.ts';
import { closeBrowser, type Visitor, visitor } from '../stage/browser.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import type { Stage } from '../stage/stage.ts';

const MARLO = { email: 'marlo@freelance.example', password: 'violet tuba harvest' };

describe('a freelancer with two clients, in a real browser', function () {
  this.timeout(120_000);
  let stage: Stage;
  let marlo: Visitor;
  before(async () => {
    ({ stage } = await sharedStage());
    await stage.db.query(
      `insert into business (id, name, key, color, country, locale, time_zone, created_at) values (gen_random_uuid(), 'Tallow Lane Pottery', 'tallow-lane', 'brick', 'GB', 'en-GB', 'UTC', now())`,
    );
    await stage.db.query(
      `with one as (insert into person (id, email, name, password_hash, created_at) values (gen_random_uuid(), $1, 'Marlo Finch', $2, now()) returning id)
       insert into membership (id, business_id, person_id, role) select gen_random_uuid(), b.id, one.id, 'owner' from one, business b where b.key in ('tallow-lane', 'wrenfield-music-school')`,
      [MARLO.email, await hashPassword(MARLO.password)],
    );
    marlo = await visitor();
    await marlo.goes(`${stage.url}/sign-in`);
    await marlo.types('#email', MARLO.email);
    await marlo.types('#password', MARLO.password);
    await marlo.click('Sign in');
  });
  after(async () => {
    // Whoever else looks here counts the people, and the owners.
    for (const table of ['session', 'membership'])
      await stage.db.query(`delete from ${table} where person_id = (select id from person where email = $1)`, [
        MARLO.email,
      ]);
    await closeBrowser();
  });

  it('comes in to both at a glance, and each has its name, its colour and its addresses', async () => {
    await marlo.sees('Your businesses');
    await marlo.sees('Tallow Lane Pottery');
    await marlo.click(/^Wrenfield Music School/);
    await marlo.sees('Today');
    expect(new URL(marlo.page.url()).pathname).to.equal('/at/wrenfield-music-school/');
    const bar = () => marlo.page.$eval('header', (header) => getComputedStyle(header).backgroundColor);
    const pine = await bar();
    await marlo.page.click('summary[aria-label^="Wrenfield Music School"]');
    await marlo.click('Tallow Lane Pottery');
    await marlo.page.waitForFunction(() => location.pathname === '/at/tallow-lane/');
    expect(await bar()).to.not.equal(pine);
    expect(await marlo.page.title()).to.include('Tallow Lane Pottery');
  });

  it('two tabs with two businesses do not mix: each makes its list where it stands', async () => {
    const other = await marlo.page.browserContext().newPage();
    await other.goto(`${stage.url}/at/wrenfield-music-school/lists`);
    await marlo.goes(`${stage.url}/at/tallow-lane/lists`);
    await marlo.fills('Name of the new list', 'Clay news');
    await other.bringToFront();
    await other.reload();
    await marlo.page.bringToFront();
    await marlo.click('Make a new list');
    await marlo.page.waitForFunction(() => /^\/at\/tallow-lane\/lists\/[0-9a-f-]{36}/.test(location.pathname));
    const { rows } = await stage.db.query(
      `select b.key from nurture_list l join business b on b.id = l.business_id where l.name = 'Clay news'`,
    );
    expect(rows).to.deep.equal([{ key: 'tallow-lane' }]);
    await other.close();
  });

  it('copies a workflow from one to the other, saying anew whom it tells', async () => {
    await marlo.goes(`${stage.url}/at/tallow-lane/from-file`);
    await marlo.choose('From another of your businesses', 'Wrenfield Music School');
    await marlo.page.waitForFunction(
      () =>
        document
          .querySelectorAll('section[aria-label="From another of your businesses"] select')[1]!
          .querySelectorAll('option').length > 1,
    );
    const name = await marlo.page.$$eval(
      'section[aria-label="From another of your businesses"] select:last-of-type option',
      (options) => options.map((one) => one.textContent!).find((words) => /^Enquiry|^Trial/.test(words))!,
    );
    await marlo.choose('Workflow', name);
    await marlo.click('Look at it');
    await marlo.sees(`of Wrenfield Music School`);
    await marlo.click('Take what is in it');
    await marlo.page.waitForFunction(() => /^\/at\/tallow-lane\/workflows\//.test(location.pathname), {
      timeout: 20_000,
    });
    const { rows } = await stage.db.query(
      `select w.state, (select count(*)::int from elsewhere(w.business_id, (select array_agg(found[1]::uuid) from regexp_matches(w.draft::text, '[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}', 'g') found)) e) as foreign
       from workflow w join business b on b.id = w.business_id where b.key = 'tallow-lane' and w.name = $1`,
      [name],
    );
    expect(rows).to.deep.equal([{ state: 'draft', foreign: 0 }]);
  });
});
