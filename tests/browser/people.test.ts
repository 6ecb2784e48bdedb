import { expect } from 'chai';
import type { PersonView } from '../../src/app/people/people.ts';
import { closeBrowser, signedInVisitor, type Visitor, visitor } from '../stage/browser.ts';
import { liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { type Stage, signedIn } from '../stage/stage.ts';

const PASSWORD = 'violet tuba harvest';

describe('people of a business, in a real browser', function () {
  this.timeout(120_000);
  let stage: Stage;
  let oona: Visitor;
  let sal: Visitor;
  before(async () => {
    ({ stage } = await sharedStage());
    oona = await signedInVisitor(stage);
    sal = await visitor();
  });
  after(closeBrowser);

  it('an owner invites a salesperson, who comes in by the link and sees what waits for them, and nothing of how it is set up', async () => {
    await oona.goes(`${stage.url}/settings/people`);
    await oona.sees('What each role may do');
    await oona.click('Invite somebody');
    await oona.fills('Their name, if you like', 'Sal Amber');
    await oona.click(/^Desk/, 'dialog');
    await oona.choose('Whose leads', 'Leads they look after themselves', 'dialog');
    await oona.click('Make a link to hand over');
    const link = await oona.page
      .waitForSelector('[data-testid=invitation-link]')
      .then((found) => found!.evaluate((line) => line.textContent!));
    await oona.click('Done');
    await oona.sees('Link to hand over');

    await sal.goes(link);
    await sal.sees('Oona Pell invites you as desk');
    await sal.types('#email', 'sal@wrenfield.example');
    await sal.types('#password', 'salamber12');
    await sal.click('Join');
    await sal.sees('guessed easily');
    await sal.types('#password', PASSWORD);
    await sal.click('Join');
    await sal.sees('What waits for you');
    const bar = await sal.page.$$eval('nav[aria-label=Views] a', (links) => links.map((one) => one.textContent));
    expect(bar).to.deep.equal(['Today', 'Leads', 'Pipeline', 'Calendar', 'Conversations']);
    await sal.goes(`${stage.url}/workflows`);
    await sal.sees('This is not open to you');
    await sal.goes(`${stage.url}/leads`);
    await sal.sees('No lead is given to you yet');
  });

  it('they get a lead on their turn, with its task, and see it at once; a colleague’s they do not', async () => {
    const caller = await signedIn(stage);
    const people = (await caller.call<PersonView[]>('GET', '/api/people')).body;
    const idOf = (email: string) => people.find((one) => one.email === email)!.id;
    const among = [idOf('sal@wrenfield.example'), idOf('tomas@wrenfield.example')];
    const flow = await liveFlow(stage, caller, [
      momentOf('a', {
        lanes: {
          lead: [],
          record: [],
          team: [
            freshStep('assign', 'who', { colleague: 'rota', among }),
            freshStep('task', 'call', { title: 'Ring them up', colleague: 'owner' }),
          ],
        },
      }),
    ]);
    await sal.goes(stage.url);
    await flow.send({ name: 'Turn One', email: 'turn-one@example.org' });
    await flow.over('turn-one@example.org');
    await flow.send({ name: 'Turn Two', email: 'turn-two@example.org' });
    await flow.over('turn-two@example.org');
    const words = await sal.sees('Ring them up', '#page');
    expect(words).to.include('Turn One').and.not.to.include('Turn Two');
    await sal.click('Turn One');
    await sal.sees('Turn One', 'h1');
    const other = await flow.run('turn-two@example.org');
    await sal.goes(`${stage.url}/leads/${other.lead_id}`);
    await sal.sees('This is not here');
    await sal.goes(stage.url);
    await sal.click('Ring them up: done');
    await sal.sees('No task waits for you');
  });

  it('they add a passkey, and sign in by it without typing anything', async () => {
    // Keys belong to a name: on this machine that is localhost.
    const local = stage.url.replace('127.0.0.1', 'localhost');
    const page = await visitor();
    const cdp = await page.page.createCDPSession();
    await cdp.send('WebAuthn.enable');
    await cdp.send('WebAuthn.addVirtualAuthenticator', {
      options: {
        protocol: 'ctap2',
        transport: 'internal',
        hasResidentKey: true,
        hasUserVerification: true,
        isUserVerified: true,
        automaticPresenceSimulation: true,
      },
    });
    await page.goes(`${local}/sign-in`);
    await page.types('#email', 'sal@wrenfield.example');
    await page.types('#password', PASSWORD);
    await page.click('Sign in', 'form');
    await page.sees('What waits for you');
    // Signed in a while ago: the password is asked for once more.
    await stage.db.query(
      `update session set proved_at = now() - interval '1 hour' where person_id = (select id from person where email = 'sal@wrenfield.example')`,
    );
    await page.goes(`${local}/settings/you`);
    await page.click('Add a passkey');
    await page.fills('What you know this device by', 'Sal’s phone');
    await page.click('Go on');
    await page.sees('Is it still you?', 'dialog');
    await page.fills('Your password', PASSWORD);
    await page.click('Go on', 'dialog');
    await page.page.waitForFunction(() => !document.querySelector('dialog[open]'));
    await page.sees('Sal’s phone', 'section[aria-label=Sign-in] ul');
    await page.page.deleteCookie(...(await page.page.cookies()));
    await page.goes(`${local}/sign-in`);
    await page.click('Sign in with a passkey');
    await page.sees('What waits for you');
    const { rows } = await stage.db.query(
      `select how from session where person_id = (select id from person where email = 'sal@wrenfield.example') order by created_at desc limit 1`,
    );
    expect(rows[0].how).to.equal('key');
    // Taken away, it opens nothing any more.
    await page.goes(`${local}/settings/you`);
    await page.click('Take away the passkey Sal’s phone');
    await page.page.waitForFunction(
      () => !document.querySelector('section[aria-label=Sign-in]')!.textContent!.includes('Sal’s phone'),
    );
    await page.page.deleteCookie(...(await page.page.cookies()));
    await page.goes(`${local}/sign-in`);
    await page.click('Sign in with a passkey');
    await page.sees('not known here any more');
    expect(page.troubles).to.deep.equal([]);
  });

  it('when they have left, all of theirs is another’s, and they are out', async () => {
    await oona.goes(`${stage.url}/settings/people`);
    await oona.click('Change Sal Amber');
    await oona.click('They have left …');
    await oona.sees('They have in hand: 1 lead', 'dialog');
    await oona.choose('Who takes over', 'Tomas Arden', 'dialog');
    await oona.click('Sal Amber has left');
    await oona.page.waitForFunction(
      () => !document.querySelector('#page')!.textContent!.includes('sal@wrenfield.example'),
    );
    await sal.goes(`${stage.url}/leads`);
    await sal.sees('Sign in', 'h1');
    const { rows } = await stage.db.query(
      `select p.name from lead l join person p on p.id = l.owner_id where l.email = 'turn-one@example.org'`,
    );
    expect(rows[0].name).to.equal('Tomas Arden');
  });

  it('no script broke on the way', () => expect([...oona.troubles, ...sal.troubles]).to.deep.equal([]));
});
