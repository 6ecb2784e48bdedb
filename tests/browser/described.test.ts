import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import { readDescription } from '../../src/core/described/check.ts';
import { DescribedCaller } from '../../src/gateways/described/described-caller.ts';
import { played } from '../contract/recording.ts';
import { closeBrowser, signedInVisitor, type Visitor } from '../stage/browser.ts';
import { type Invented, marlow } from '../stage/invented-services.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { type Stage, until } from '../stage/stage.ts';

describe('connecting a service by its description, in a real browser', function () {
  this.timeout(120_000);
  let stage: Stage;
  let oona: Visitor;
  let service: Invented;
  const records = marlow();
  before(async () => {
    [{ stage }, service] = await Promise.all([sharedStage(), records.service]);
    oona = await signedInVisitor(stage);
  });
  after(async () => {
    await closeBrowser();
    await service?.close();
  });

  it('a description is taken from a file, filled in, tried, and one more value pointed at', async () => {
    await oona.goes(`${stage.url}/connections`);
    await oona.click('Connect any other by a description');
    await oona.sees('Connect any service');
    // A file that is chosen before the page is awake is not seen.
    await oona.goes(oona.page.url());
    const file = await oona.page.waitForSelector('input[type=file]');
    const take = (name: string) =>
      file!.uploadFile(join(import.meta.dirname, `../../docs/connect/examples/${name}.json`));
    // A carrier's file makes it a carrier.
    await take('penny-post-texts');
    await oona.sees('Texts come from');
    await oona.page.select('form[aria-label="The account"] select', 'service');
    await take('marlow-records');
    await oona.sees('Taken from the file: An invented place for contacts');
    await oona.fills('Your name for it', 'Marlow in the browser');
    await oona.fills('Address of your site', service.address);
    await oona.fills('Client ID', 'wren');
    await oona.fills('Client secret', 'wrong');
    await oona.click('Connect it');
    await oona.sees('It gives no token');
    await oona.fills('Client secret', 'hush-hush');
    await oona.click('Connect it');
    await oona.sees('Marlow in the browser');
    await oona.sees('Try it');
    await oona.page.select('section[aria-label="Try it"] select', 'find_account');
    await oona.fills('Domain of their email', 'harrow-mills.example');
    const before = service.seen.length;
    await oona.click('Show what would be sent');
    await oona.sees('Not sent: this is what would be.');
    expect(service.seen.length).to.equal(before);
    await oona.click('Call it now');
    await oona.sees('1250.50');
    // Saved as a recording, the try gives the same without the service, and without what is secret.
    await oona.page.evaluate(() => {
      URL.createObjectURL = (blob) => {
        void (blob as Blob).text().then((text) => {
          document.body.dataset.saved = text;
        });
        return '#';
      };
    });
    await oona.click('Save this try as a recording');
    const saved = await until('the recording', () => oona.page.$eval('body', (body) => body.dataset.saved));
    for (const secret of ['hush-hush', 'token-']) expect(saved).not.to.include(secret);
    const player = new DescribedCaller({
      http: played(
        saved.split('\n').map((line) => JSON.parse(line)),
        (text) => text,
      ),
      now: () => Date.now(),
    });
    const read = readDescription(
      JSON.parse(readFileSync(join(import.meta.dirname, '../../docs/connect/examples/marlow-records.json'), 'utf8')),
      'service',
    );
    if (!read.ok) throw new Error(read.problems.join(' '));
    const { description } = read;
    const account = { connectionId: 'x', who: 'Marlow', authority: undefined, description };
    const values = { site: service.address, client: 'wren', client_secret: 'other' };
    const again = await player.call({ ...account, values }, 'find_account', { domain: 'harrow-mills.example' });
    expect(again.answer.kind).to.equal('accepted');
    expect(again.items[0]).to.include({ name: 'Harrow Mills' });
    // What it answered stands there value by value: pointed at, one is read from now on.
    await oona.click('Harrow Mills');
    await oona.sees('Read from now on as “title”: $.attributes.title.');
    // Commas are typed as they come, and a name on its way to another loses neither.
    await oona.page.$$eval('details', (all) => {
      for (const one of all) one.open = true;
    });
    const replace = async (label: string, text: string) => {
      const field = await oona.page.waitForSelector(`input[aria-label="${label}"]`);
      await field!.click({ count: 3 });
      await field!.type(text);
    };
    await replace('Kinds, with commas; all others when empty', 'contact.new, contact.changed');
    await replace('What is read from it: name', 'emails');
    await oona.click('Save the connection');
    await oona.sees('It lets us in: Wrenfield, Small.');
    const kept = await until('the change', async () =>
      (
        await stage.db.query<{ path: string }>(
          `select settings #>> '{description,calls,find_account,reads,title,path}' as path from connection where name = 'Marlow in the browser'`,
        )
      ).rows.find(({ path }) => path),
    );
    expect(kept.path).to.equal('$.attributes.title');
    const { rows } = await stage.db.query<{ kind: { is: string[]; reads: Record<string, unknown> } }>(
      `select settings #> '{description,hears,kinds,0}' as kind from connection where name = 'Marlow in the browser'`,
    );
    expect(rows[0]!.kind.is).to.deep.equal(['contact.new', 'contact.changed']);
    expect(Object.keys(rows[0]!.kind.reads)).to.have.length(4).and.include('emails');
    expect(await oona.page.content()).not.to.include('hush-hush');
  });
});
