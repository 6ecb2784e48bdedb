import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { gzipSync } from 'node:zlib';
import { expect } from 'chai';
import { closeBrowser, signedInVisitor, type Visitor } from '../stage/browser.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import type { Stage } from '../stage/stage.ts';

const axeSource = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

describe('every view, lived in, in a real browser', function () {
  this.timeout(300_000);
  let stage: Stage;
  let oona: Visitor;
  let views: Record<string, string>;
  before(async () => {
    ({ stage } = await sharedStage({ history: true }));
    oona = await signedInVisitor(stage);
    const {
      rows: [ids],
    } = await stage.db.query(
      `select (select id from workflow where name like 'Trial%') as workflow, (select id from source where kind = 'webhook' limit 1) as source, (select id from source where kind = 'form-page') as form, (select key from source where kind = 'form-page') as form_key, (select id from source where kind = 'import') as import, (select id from source where kind = 'mailbox') as mailbox, (select id from source where kind = 'workbook') as workbook, (select id from sheet where name = 'Front desk sign-in') as sheet, (select id from segment limit 1) as segment, (select id from nurture_list limit 1) as list, (select id from email_template limit 1) as template, (select id from chat_form limit 1) as chat_form, (select id from chat_template limit 1) as chat_template, (select lead_id from inbound order by received_at desc limit 1) as lead, (select id from connection where kind = 'text_carrier' limit 1) as connection`,
    );
    views = {
      Today: '/',
      'Your businesses': '/businesses',
      Tags: '/settings/tags',
      Workflows: '/workflows',
      'Begin a workflow': '/workflows/new',
      Starter: '/workflows/new/booking',
      'Run sheet': `/workflows/${ids.workflow}`,
      Log: `/workflows/${ids.workflow}/log`,
      Rules: `/workflows/${ids.workflow}/rules`,
      Versions: `/workflows/${ids.workflow}/versions`,
      Sources: '/sources',
      'New source': '/sources/new',
      Source: `/sources/${ids.source}`,
      'Source of a form page': `/sources/${ids.form}`,
      'Form page': `/f/${ids.form_key}`,
      Import: `/sources/${ids.import}`,
      Mailbox: `/sources/${ids.mailbox}`,
      'Workbook file': `/sources/${ids.workbook}`,
      Sheets: '/sheets',
      Sheet: `/sheets/${ids.sheet}`,
      Leads: '/leads',
      'Leads of a segment': `/leads?segment=${ids.segment}`,
      Results: '/results?period=last-90',
      'Way through': '/results/way?period=last-90',
      'First reply': '/results/replies?period=last-90',
      Costs: '/results/costs',
      Names: '/results/names?period=last-90',
      'The month': '/results/month',
      'What it brings': `/workflows/${ids.workflow}/results?period=last-90`,
      Pipeline: '/pipeline',
      Calendar: '/calendar',
      Lists: '/lists',
      List: `/lists/${ids.list}`,
      'Sequences of a list': `/lists/${ids.list}/sequences`,
      'Settings of a list': `/lists/${ids.list}/settings`,
      'To read and send': '/messages',
      'One-off emails': '/messages/emails',
      'Email templates': '/messages/templates',
      Conversations: '/conversations',
      Consent: `/leads/${ids.lead}/consent`,
      'One-off email': '/messages/new',
      'Chat forms': '/messages/chat-forms',
      'Chat form': `/messages/chat-forms/${ids.chat_form}`,
      'Chat templates': '/messages/chat-templates',
      'Chat template': `/messages/chat-templates/${ids.chat_template}`,
      Template: `/messages/templates/${ids.template}`,
      Lead: `/leads/${ids.lead}`,
      Connections: '/connections',
      'Connect any service': '/connections/describe',
      'A service': `/connections/${ids.connection}`,
      Settings: '/settings',
      'What goes out': '/settings/messages',
      'My settings': '/settings/you',
      People: '/settings/people',
      'Who changed what': '/settings/record',
      'What came in': '/settings/arrivals',
      Removed: '/settings/removed',
      'First steps': '/begin',
      'Nothing here': '/leads/00000000-0000-7000-8000-000000000000',
    };
  });
  after(async () => {
    await closeBrowser();
  });

  const AA = ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'];
  /** Rules of WCAG 2.2 A and AA, by axe-core. */
  const broken = (asked: string[], without: string[] = []): Promise<string[]> =>
    oona.page.evaluate(
      async (runOnly, not) => {
        const axe = (
          globalThis as unknown as {
            axe: {
              run(
                root: Document,
                options: object,
              ): Promise<{ violations: { id: string; nodes: { html: string }[] }[] }>;
            };
          }
        ).axe;
        const rules = Object.fromEntries(not.map((rule) => [rule, { enabled: false }]));
        const { violations } = await axe.run(document, { runOnly, rules, resultTypes: ['violations'], preload: false });
        return violations.flatMap(({ id, nodes }) =>
          nodes.slice(0, 3).map((node) => `${id}: ${node.html.slice(0, 160)}`),
        );
      },
      asked,
      without,
    );

  const overhang = () =>
    oona.page
      .evaluate(() => document.documentElement.scrollWidth - window.innerWidth)
      .then((over) => Math.max(over, 0));

  it('keeps to WCAG 2.2 AA as far as a program can tell, on a screen and on a phone; in dark its contrasts hold too; and nothing sticks out sideways from 390 to 1920 pixels', async () => {
    const found: string[] = [];
    for (const [name, path] of Object.entries(views)) {
      const theme = (value: string) => oona.page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value }]);
      await theme('light');
      await oona.goes(stage.url + path);
      await oona.page.evaluate(axeSource);
      found.push(...(await broken(AA)).map((one) => `${name}: ${one}`));
      // What is under the colours is the same in both. They are looked at as they end up, not on their way there.
      await oona.page.addStyleTag({ content: '*, *::before, *::after { transition: none !important }' });
      await theme('dark');
      found.push(...(await broken(['color-contrast'])).map((one) => `${name}, dark: ${one}`));
      await theme('light');
      for (const width of [1920, 1024, 768, 390]) {
        await oona.page.setViewport({ width, height: 844 });
        const over = await overhang();
        if (over > 0) found.push(`${name} at ${width}: ${over} px too wide`);
      }
      // Sizes and contrasts hold on a screen; here the edge of a list that scrolls would count as the edge of what stands half behind it.
      const phone = await broken(AA, ['target-size', 'color-contrast']);
      found.push(...phone.map((one) => `${name} at 390: ${one}`));
      await oona.page.setViewport({ width: 1280, height: 800 });
    }
    await oona.page.emulateMediaFeatures([{ name: 'prefers-color-scheme', value: 'light' }]);
    expect(found).to.deep.equal([]);
  });

  /** Kilobytes of JavaScript a view asks for, gzipped, by file name. */
  const scripts = async (path: string, wait: number): Promise<Map<string, number>> => {
    const asked = new Map<string, number>();
    const note = (response: import('puppeteer-core').HTTPResponse) => {
      if (response.url().endsWith('.js'))
        void response.buffer().then(
          (body) => asked.set(response.url().split('/').at(-1)!, gzipSync(body, { level: 9 }).length / 1000),
          () => {},
        );
    };
    await oona.page.setCacheEnabled(false);
    oona.page.on('response', note);
    await oona.goes(stage.url + path);
    await new Promise((resolve) => setTimeout(resolve, wait));
    oona.page.off('response', note);
    await oona.page.setCacheEnabled(true);
    return asked;
  };
  const sum = (files: Map<string, number>) => [...files.values()].reduce((a, b) => a + b, 0);

  it('Today needs under 150 kB of script before its chart, the run sheet under 300 kB', async () => {
    const today = await scripts(views.Today!, 1500);
    // With the drawing library, which it shares with the charts of results.
    const chart = [...today].filter(([name]) => /^(hour-chart|drawing)\./.test(name));
    expect(chart.length, 'the chart comes in files of its own').to.equal(2);
    for (const [name] of chart) today.delete(name);
    expect(sum(today), 'Today').to.be.within(20, 150);
    expect(sum(await scripts(views['Run sheet']!, 1500)), 'run sheet').to.be.within(100, 300);
  });

  it('the address bar remembers a search in the log, and older pages follow on', async () => {
    await oona.goes(`${stage.url}${views.Log}`);
    const names = () =>
      oona.page.$$eval('[data-testid=runs] button[aria-pressed] .font-semibold:first-child', (rows) =>
        rows.map((row) => row.textContent),
      );
    const before = (await names()).length;
    await oona.click('Show older ones');
    await oona.page.waitForFunction(
      (n) => document.querySelectorAll('[data-testid=runs] button[aria-pressed]').length > n,
      {},
      before,
    );
    await oona.types('input[aria-label=Search]', 'Linnea');
    await oona.page.waitForFunction(() =>
      [...document.querySelectorAll('[data-testid=runs] button[aria-pressed] .font-semibold')].every(
        (row) => row.textContent?.includes('Linnea') || row.className.includes('pill'),
      ),
    );
    expect(new URL(oona.page.url()).searchParams.get('search')).to.equal('Linnea');
    await oona.page.reload();
    expect(await oona.page.$eval('input[aria-label=Search]', (input) => (input as HTMLInputElement).value)).to.equal(
      'Linnea',
    );
  });

  it('no script broke on any of them', () => expect(oona.troubles).to.deep.equal([]));
});
