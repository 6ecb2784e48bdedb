import { expect } from 'chai';
import { stepKinds } from '../../src/steps/registry.ts';
import { closeBrowser, signedInVisitor, type Visitor, visitor } from '../stage/browser.ts';
import { liveFlow } from '../stage/flow.ts';
import { freshStep, momentOf, sheetOf, stepOf, toTheLead } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

const NUMBER = '+447700900456';
const phone = '[data-testid=phone]';
const sheet = '[data-testid=phone-form]';

describe('the first contact in chat, in a real browser', function () {
  this.timeout(90_000);
  let stage: Stage;
  let oona: Visitor;
  let zadie: Visitor;
  let api: Awaited<ReturnType<typeof signedIn>>;
  before(async () => {
    stage = await openStage();
    api = await signedIn(stage);
    oona = await signedInVisitor(stage);
    zadie = await visitor();
  });
  after(async () => {
    await closeBrowser();
    await stage.close();
  });
  afterEach(() => {
    expect(oona.troubles, 'scripts that broke or were blocked').to.deep.equal([]);
    expect(zadie.troubles, 'on the practice desk').to.deep.equal([]);
  });
  const chats = () => (stage.desk.world.state.chats[NUMBER]?.messages ?? []).map((message) => message.text);

  it('builds the first-contact form, sees it on a phone, puts it live, and keeps the front door with it', async () => {
    await oona.goes(`${stage.url}/messages/chat-forms`);
    await oona.types('input[aria-label="Name of the new chat form"]', 'First contact');
    await oona.click('Make a chat form');
    await oona.sees('Who are you?', '[data-testid=form-preview]');
    await oona.click('Add a screen');
    await oona.sees('A screen has no question', 'aside');
    await oona.click('Add a question', 'fieldset:nth-of-type(2)');
    const questions = await oona.page.$$('[data-testid=chat-form-editor] input[aria-label=Question]');
    await questions.at(-1)!.click();
    await oona.page.keyboard.type('Which instrument?');
    await oona.choose('Kind of answer to Which instrument?', 'Choice');
    await oona.types('textarea[aria-label="Answers to Which instrument?, one per line"]', 'Piano\nCello');
    await oona.choose('Where the answer to Which instrument? goes', 'a field of its own: which_instrument');
    await oona.click('Nobody can send the form without agreeing');
    await oona.click('Go on', '[data-testid=form-preview]');
    await oona.sees('Piano / Cello', '[data-testid=form-preview]');
    await oona.click('Put it live');
    await oona.sees('Live', '[data-testid=form-state]');
    await oona.goes(`${stage.url}/messages/chat-forms`);
    await oona.click('Keep the front door');
    await oona.choose('First-contact form', 'First contact');
    await oona.click('Keep it like this');
    await oona.sees('Kept', '[data-testid=front-door]');
  });

  it('listens to the completed form: a source, live at once, and a workflow that says what is next', async () => {
    await oona.goes(`${stage.url}/sources/new`);
    await oona.click(/^Chat message/);
    await oona.choose('What comes in by it', 'A form completed');
    await oona.choose('Which form', 'First contact');
    await oona.click('Listen to this');
    await oona.sees('Form completed in chat');
    const { rows } = await stage.db.query(`select id, state from source where kind = 'chat-message'`);
    expect(rows[0].state).to.equal('live');
    const { body } = await api.call<{ id: string }>('POST', '/api/workflows', { name: 'Chat desk', folder: '' });
    const chat = { ...(stepKinds.get('chat')!.blank() as object), needsConsent: true, whenShut: 'skip' };
    const draft = sheetOf(
      [
        momentOf('a', {
          lanes: {
            lead: [
              stepOf('chat', 'c', { ...chat, message: '{{ answers.which_instrument }}, then. When do you have time?' }),
            ],
            record: [],
            team: [],
          },
        }),
      ],
      {},
      [rows[0].id],
    );
    await api.call('PUT', `/api/workflows/${body.id}`, { revision: 0, draft });
    expect((await api.call('POST', `/api/workflows/${body.id}/live`, { moveOn: false })).status).to.equal(200);
    await oona.goes(`${stage.url}/workflows/${body.id}`);
    // Nobody has come in yet; chosen, the step says what happens when the window is shut.
    await oona.click(/^Chat/, '[data-lane=lead], main');
    await oona.sees('If they have not written within 24 hours', 'aside[aria-label="Chosen step"]');
  });

  it('from the first hello to being served, on the phone: nothing before the form, checked as it is filled in', async () => {
    await zadie.goes(stage.desk.url);
    await zadie.click('Chat network');
    await zadie.types('form textarea', 'Do you teach the cello?');
    await zadie.click('Write in chat', 'form');
    await zadie.sees('please tell us in a few lines who you are', phone);
    await zadie.types(`${phone} input[aria-label="Write in chat"]`, 'Hello?');
    await zadie.page.keyboard.press('Enter');
    await until('the second message', async () => {
      const { rows } = await stage.db.query('select text from inbound where sender = $1', [NUMBER]);
      return rows.length === 2;
    });
    expect(
      chats().filter((text) => text.includes('who you are')),
      'the form once, not for every word',
    ).to.have.length(1);
    await zadie.click('Tell us who you are', phone);
    await zadie.click('Go on', sheet);
    await zadie.sees('Please fill this in.', sheet);
    await zadie.types(`${sheet} [name=first_name]`, 'Zadie');
    await zadie.types(`${sheet} [name=email]`, 'zadie@');
    await zadie.click('Go on', sheet);
    await zadie.sees('This is no email address.', sheet);
    await zadie.types(`${sheet} [name=email]`, 'zadie.holm@example.org');
    await zadie.click('Go on', sheet);
    await zadie.page.waitForSelector(`${sheet} [name=which_instrument]`);
    await zadie.page.select(`${sheet} [name=which_instrument]`, 'Cello');
    await zadie.click('Send', sheet);
    await zadie.sees('Please tick this to go on.', sheet);
    await zadie.page.click(`${sheet} [name=consent]`);
    await zadie.click('Send', sheet);
    await zadie.sees('Thank you, we have it.', sheet);
    await zadie.click('Back to the chat', sheet);
    await zadie.sees('Thank you, Zadie! What can we do for you?', phone);
    await zadie.sees('Cello, then. When do you have time?', phone);
    await zadie.types(`${phone} input[aria-label="Write in chat"]`, 'On Tuesdays');
    await zadie.page.keyboard.press('Enter');
    await until('it to be taken in', async () => {
      const { rows } = await stage.db.query('select from inbound where sender = $1', [NUMBER]);
      return rows.length === 4;
    });
    expect(chats().filter((text) => text.includes('who you are'))).to.have.length(1);
  });

  it('the desk sees it all in one conversation, and the page of consents shows what was ticked, as it came in', async () => {
    await oona.goes(`${stage.url}/conversations`);
    await oona.click(/^Zadie/);
    const log = await oona.sees('On Tuesdays', '[role=log]');
    for (const words of [
      'Do you teach the cello?',
      'Form: First contact',
      'Which instrument?: Cello',
      'Thank you, Zadie!',
    ])
      expect(log).to.include(words);
    const { rows } = await stage.db.query(`select id from lead where email = 'zadie.holm@example.org'`);
    await oona.goes(`${stage.url}/leads/${rows[0].id}/consent`);
    await oona.sees('Ticked in the chat form “First contact”');
    await oona.click('What they sent, as it came in');
    await oona.sees('"token":"', '#proof');
    await oona.click('They told you something else');
    await oona.choose('Which', 'chat messages');
    await oona.choose('About', 'news and offers');
    await oona.types('details input', 'At the counter');
    await oona.click('Write it down');
    await oona.sees('At the counter (written down by Oona Pell)');
    // What they asked for is still answered.
    await oona.goes(`${stage.url}/conversations`);
    await oona.click(/^Zadie/);
    await oona.types('textarea[aria-label="The answer"]', 'Tuesday at five?');
    await oona.click('Send');
    await zadie.sees('Tuesday at five?', phone);
  });

  it('a wish to hear no more, between plan and send, is kept: the log says so and leads to why', async () => {
    const flow = await liveFlow(
      stage,
      api,
      [momentOf('a', toTheLead(freshStep('chat', 'c', { message: 'One more thing', needsConsent: true })))],
      { endsWhen: [] },
    );
    stage.desk.world.state.trouble.chatDown = true;
    await flow.send({ name: 'Zadie', email: 'zadie.holm@example.org', phone: NUMBER });
    await until('a first try', async () => {
      const { rows } = await stage.db.query(
        `select from step_result s join run r on r.id = s.run_id where r.workflow_id = $1 and s.state = 'again'`,
        [flow.id],
      );
      return rows.length === 1;
    });
    await zadie.types(`${phone} input[aria-label="Write in chat"]`, 'STOP');
    await zadie.page.keyboard.press('Enter');
    await until('the wish', async () => {
      // Theirs: others of the same application have said it too.
      const { rows } = await stage.db.query(
        `select from consent c join lead l on l.id = c.lead_id where c.channel = 'chat' and c.wording = 'STOP' and l.email = 'zadie.holm@example.org'`,
      );
      return rows.length === 1;
    });
    stage.desk.world.state.trouble.chatDown = false;
    await flow.over('zadie.holm@example.org');
    await zadie.sees(/you will get no more messages here/, phone);
    expect(chats()).not.to.include('One more thing');
    await oona.goes(`${stage.url}/workflows/${flow.id}/log`);
    await oona.click(/^Chat/, '[data-testid=run-detail], main');
    await oona.sees('Stopped: asked for no more chat messages.', '[data-testid=step-detail]');
    await oona.click('Why', '[data-testid=step-detail]');
    await oona.sees('“STOP”');
    // Another way of writing to them is not touched by it.
    const { rows } = await stage.db.query(
      `select consents_of(id, 'service') ->> 'email' as email from lead where email = 'zadie.holm@example.org'`,
    );
    expect(rows[0].email).to.equal('given');
  });
});
