import { expect } from 'chai';
import { stepKinds } from '../../src/steps/registry.ts';
import { closeBrowser, signedInVisitor, type Visitor } from '../stage/browser.ts';
import { atTheDesk, liveFlow, textsOn } from '../stage/flow.ts';
import { freshStep, momentOf, stepOf, toTheLead } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

const answering = 'form[aria-label="Your answer"]';
const chosen = 'aside[aria-label="Chosen step"]';

describe('questions, templates, drafts and lists, in a real browser', function () {
  this.timeout(90_000);
  let stage: Stage;
  let oona: Visitor;
  let api: Awaited<ReturnType<typeof signedIn>>;
  before(async () => {
    stage = await openStage();
    api = await signedIn(stage);
    oona = await signedInVisitor(stage);
  });
  after(async () => {
    await closeBrowser();
    await stage.close();
  });
  afterEach(() => expect(oona.troubles, 'scripts that broke or were blocked').to.deep.equal([]));

  const preview = () =>
    oona.page.$eval('[data-testid=email-preview]', (frame) => (frame as HTMLIFrameElement).srcdoc.replace(/\s+/g, ' '));
  const write = async (field: string, text: string) => {
    // The editor comes with the first sign of somebody; whoever sits there moves on until it is there.
    let moved = 0;
    await until(`the editor ${field}`, async () => {
      await oona.page.mouse.move(8 + (moved++ % 20), 300);
      return oona.page.$(field);
    });
    await oona.page.click(field);
    await oona.page.keyboard.down('Control');
    await oona.page.keyboard.press('a');
    await oona.page.keyboard.up('Control');
    await oona.page.keyboard.type(text);
  };
  const blocks = () => oona.page.$$eval('[data-block]', (all) => all.map((one) => one.getAttribute('data-block')));
  const choose = (label: string, words: string, within = chosen) => oona.choose(label, words, within);

  it('lays out an email of blocks, sees it as its reader will, and saves a version', async () => {
    await oona.goes(`${stage.url}/messages/templates`);
    await oona.types('input[aria-label="Name of the new template"]', 'See you soon');
    await oona.click('Make a new template');
    await oona.sees('What Robin Vale, an invented reader, sees');
    expect(await blocks()).to.deep.equal(['heading', 'text', 'button', 'footer']);
    await write('[data-block=heading] .cm-content', 'See you soon, {{ lead.first_name }}');
    await until('the preview to follow', async () => (await preview()).includes('See you soon, Robin'));
    // The button leads nowhere yet, and says so in its place.
    await oona.sees('its link leads nowhere', '[data-block=button]');
    await write('[data-block=button] .cm-content[data-field^="link"]', 'https://wrenfield.example/way');
    await until(
      'the complaint to go',
      async () => !(await oona.page.$eval('[data-block=button]', (one) => one.textContent))?.includes('nowhere'),
    );
    await oona.click('Line');
    await oona.click('Move up', '[data-block=divider]');
    expect(await blocks()).to.deep.equal(['heading', 'text', 'button', 'divider', 'footer']);
    await oona.click('Save it');
    await oona.sees('Saved as version 2.');
    await oona.page.reload();
    await until('the saved blocks', async () => (await blocks()).length === 5);
  });

  it('sends an email of the template from a sheet, and a draft of it waits to be read', async () => {
    const { rows } = await stage.db.query<{ id: string }>(`select id from email_template where name = 'See you soon'`);
    const flow = await liveFlow(stage, api, [
      momentOf('a', {
        lanes: {
          lead: [
            stepOf('email', 'e', {
              ...(stepKinds.get('email')!.blank() as object),
              subject: 'Soon',
              template: rows[0]!.id,
              needsConsent: false,
            }),
            stepOf('text', 'd', { message: 'Do call us, {{ lead.first_name }}', needsConsent: false, draft: true }),
          ],
          record: [],
          team: [],
        },
      }),
    ]);
    await flow.send({ name: 'Nadia', email: 'nadia@example.org', phone: '07700 900142' });
    await flow.over('nadia@example.org');
    const mail = stage.desk.world.state.mails.find((mail) => mail.mailbox === 'nadia@example.org')!;
    expect(mail.html)
      .to.include('See you soon, Nadia')
      .and.match(/href="[^"]+\/l\/\w{9}"/);
    await oona.goes(`${stage.url}/#needs-you`);
    await oona.sees('Text to read and send');
    await oona.goes(`${stage.url}/messages`);
    await oona.sees('Text to Nadia (+44 7700 900142), from Case');
    await oona.types('article textarea', 'Do call us today, Nadia');
    await oona.click('Send it');
    await oona.sees('On its way to Nadia.');
    await until('the text', () => textsOn(stage, '+447700900142').includes('Do call us today, Nadia'));
    await oona.goes(`${stage.url}/messages`);
    await oona.sees('Nothing waits.');
    await oona.goes(`${stage.url}/workflows/${flow.id}`);
    await oona.click(/Email ?Soon/, 'main');
    await oona.sees('Open the template', chosen);
    await until('the laid-out preview', async () => (await preview()).includes('See you soon, Nadia'));
  });

  it('asks a question on the sheet, and lets a moment wait for the answer', async () => {
    const made = await api.call<{ id: string }>('POST', '/api/workflows', { name: 'Which day', folder: '' });
    await oona.goes(`${stage.url}/workflows/${made.body.id}`);
    await oona.click('Add a step: To the lead', 'main');
    await oona.click('Ask a question', 'main');
    await write(`${chosen} .cm-content[data-field=message]`, 'Which day suits you?');
    await oona.types(`${chosen} textarea[data-field=choices]`, 'Monday\nTuesday');
    await oona.types(`${chosen} input[placeholder="Best day"]`, 'Best day');
    await oona.click('Add a moment', 'main');
    await oona.click(/^When something happens/, 'main');
    await choose('Wait until', 'They answer a question');
    await choose('Which question', '“Which day suits you?”');
    await oona.sees('When they answer “Which day suits you?”, or after 2 days', 'main');
    await oona.click('Read it to me');
    await oona.sees('we ask them “Which day suits you?”');
    await oona.sees('Saved', '[data-testid=save-state]');
    const { body } = await api.call<{ workflow: { draft: { moments: { at: { step?: string } }[] } } }>(
      'GET',
      `/api/workflows/${made.body.id}`,
    );
    expect(body.workflow.draft.moments[1]!.at.step).to.match(/^ask-/);
  });

  it('somebody writes back: it stands there at once, is answered by hand, and taken over', async () => {
    const number = '+61491570501';
    const flow = await liveFlow(stage, api, [
      momentOf('a', {
        lanes: { lead: [stepOf('text', 't', { message: 'Hello', needsConsent: false })], record: [], team: [] },
      }),
      momentOf('b', {
        at: { kind: 'later', span: { amount: 1, unit: 'hours' } },
        lanes: { lead: [stepOf('text', 'u', { message: 'Again', needsConsent: false })], record: [], team: [] },
      }),
    ]);
    await flow.send({ name: 'Ottilie', email: 'ottilie@example.org', phone: number });
    await flow.waits('ottilie@example.org');
    await oona.goes(`${stage.url}/conversations`);
    await atTheDesk(stage, '/phones/write', { number, text: 'Is Saturday possible?' });
    await oona.sees('Is Saturday possible?', 'aside[aria-label=Conversations]');
    await oona.click(/Ottilie/, 'aside[aria-label=Conversations]');
    await oona.sees('1 workflow is under way', '[data-testid=take-over]');
    await oona.click('Take over');
    await oona.sees('You have taken over. 1 workflow waits', '[data-testid=take-over]');
    await oona.types('textarea[aria-label="The answer"]', 'Yes, at ten.');
    await oona.click('Send');
    await until('the answer on the phone', () => textsOn(stage, number).includes('Yes, at ten.'));
    await oona.sees(/Yes, at ten\.[\s\S]*by Oona Pell[\s\S]*delivered/, '[role=log]');
    await oona.click('Hand back to the workflows');
    await oona.sees('1 workflow is under way', '[data-testid=take-over]');
  });

  it('writes a chat template, sees it on a phone, and the network’s word comes in by itself', async () => {
    await oona.goes(`${stage.url}/messages/chat-templates`);
    await oona.types('input[aria-label="Name of the new chat template"]', 'Hello there');
    await oona.click('Make a chat template');
    await oona.sees('Not sent for review');
    await oona.click('Add a button');
    await oona.types('input[aria-label="Button 1"]', 'Tell me more');
    await oona.sees(/Hi Robin, thank you for asking\.[\s\S]*Tell me more/, '[data-testid=chat-preview]');
    await oona.click('Send it for review');
    await oona.sees('Waiting for review', '[data-testid=review-state]');
    await oona.sees('Approved', '[data-testid=review-state]');
  });

  it('answers in chat with a form while they have just written, and a day later with the approved template', async () => {
    const number = '+61491570502';
    const { id: form } = (await api.call<{ id: string }>('POST', '/api/chat-forms', { name: 'Who are you?' })).body;
    await api.call('POST', `/api/chat-forms/${form}/live`);
    const flow = await liveFlow(stage, api, [momentOf('a', toTheLead(freshStep('text', 't', { message: 'Hello' })))]);
    await flow.send({ name: 'Bram', email: 'bram@example.org', phone: number });
    await flow.over('bram@example.org');
    await atTheDesk(stage, '/chats/write', { number, text: 'Do you teach the harp?' });
    const chats = () => stage.desk.world.state.chats[number]?.messages ?? [];
    await oona.goes(`${stage.url}/conversations`);
    await oona.click(/Bram/, 'aside[aria-label=Conversations]');
    await oona.sees('Do you teach the harp?', '[role=log]');
    await oona.click('Add a form');
    await oona.click(/Who are you\?/, answering);
    await oona.sees('With the form “Who are you?”', answering);
    await oona.types('textarea[aria-label="The answer"]', 'We do! Please tell us a little more.');
    await oona.click('Send', answering);
    await until('the form on the phone', () =>
      chats().some((phoneMessage) => phoneMessage.form && phoneMessage.text.startsWith('We do!')),
    );
    await oona.sees(/We do! Please tell us[\s\S]*Form: Who are you\?/, '[role=log]');
    await stage.db.query(`update inbound set received_at = received_at - interval '25 hours' where sender = $1`, [
      number,
    ]);
    await oona.goes(`${stage.url}/conversations`);
    await oona.click(/Bram/, 'aside[aria-label=Conversations]');
    await oona.sees('By template', '[data-testid=ways]');
    await oona.choose('Template to send', 'Hello there', answering);
    await oona.sees(/Hi Bram, thank you for asking\.[\s\S]*Tell me more/, '[data-testid=template-words]');
    await oona.click('Send', answering);
    await until('the template on the phone', () =>
      chats().some((phoneMessage) => phoneMessage.text.startsWith('Hi Bram, thank you')),
    );
    await oona.sees(/Hi Bram, thank you for asking\.[\s\S]*Tell me more/, '[role=log]');
  });

  it('shows a list with how people came onto it, and takes somebody off', async () => {
    const list = (await api.call<{ id: string }>('POST', '/api/lists', { name: 'Practice tips' })).body.id;
    const flow = await liveFlow(stage, api, [
      momentOf('a', { lanes: { lead: [], record: [stepOf('list', 'l', { action: 'add', list })], team: [] } }),
    ]);
    await flow.send({ name: 'Odette', email: 'odette@example.org' });
    await flow.over('odette@example.org');
    await oona.goes(`${stage.url}/lists`);
    await oona.click('Practice tips', 'main');
    await oona.sees('By the workflow Case');
    await oona.page.click('input[data-lead]');
    await oona.click('Do with 1 lead');
    await choose('With 1 lead', 'Take them off a list', 'main');
    await oona.sees('Take them off the list Practice tips: 1 lead.');
    await oona.click('Do it with 1 lead');
    await oona.sees(/done, 1 changed/);
    await oona.click('Show the page anew');
    await oona.sees('1 unsubscribed');
    await oona.goes(`${stage.url}/leads/${(await flow.run('odette@example.org')).lead_id}`);
    await oona.sees('Unsubscribed from Practice tips');
  });

  it('a field of a list taken away leaves the next one, renamed, with what members have in it', async () => {
    const list = (await api.call<{ id: string }>('POST', '/api/lists', { name: 'Choir' })).body.id;
    for (const label of ['Voice', 'Level']) await api.call('POST', `/api/lists/${list}/fields`, { name: label });
    await oona.goes(`${stage.url}/lists/${list}/settings`);
    await oona.page.click('[aria-label="Remove field 1"]');
    await oona.types('[aria-label="Name of field 1"]', 'How far they are');
    await oona.click('Save the list');
    await oona.sees('Saved.');
    const { rows } = await stage.db.query('select fields from nurture_list where id = $1', [list]);
    expect(rows[0].fields).to.deep.equal([{ key: 'level', label: 'How far they are' }]);
  });
});
