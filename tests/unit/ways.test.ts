import { expect } from 'chai';
import { waysTo } from '../../src/app/conversations/ways.ts';
import { CHANNELS } from '../../src/core/workflow/channel.ts';
import { allConsents } from '../../src/core/workflow/run-context.ts';
import { catalogueOf } from '../stage/sheets.ts';

const catalogue = catalogueOf({
  text: { connectionId: 't', from: 'Wrenfield', senders: ['Wrenfield'] },
  email: { connectionId: 'e', fromName: 'Wrenfield', fromAddress: 'hello@wrenfield.example' },
  chat: { connectionId: 'c', from: '+447700900100' },
});
const nadia = { lead_id: 'l1', email: 'nadia@example.org', phone: '+447700900142' };
const words = (ways: ReturnType<typeof waysTo>) =>
  Object.fromEntries(ways.map(({ channel, can, words: said }) => [channel, can ? said || 'yes' : `no: ${said}`]));
const given = allConsents({ text: 'given', email: 'given', chat: 'given' });

describe('how somebody may be answered', () => {
  it('by everything that is connected, when they agreed to it', () => {
    expect(words(waysTo(nadia, { catalogue, consent: given, chatOpen: true }))).to.deep.equal({
      text: 'yes',
      email: 'yes',
      chat: 'yes',
    });
  });

  it('nobody asked them: what they asked may be answered, and that is said', () => {
    const ways = waysTo(nadia, { catalogue, consent: allConsents(), chatOpen: true });
    expect(ways.every(({ can }) => can)).to.equal(true);
    expect(words(ways).text).to.equal('They never agreed to texts; answer what they asked.');
  });

  it('a wish to hear no more counts on its channel, and on no other', () => {
    const ways = waysTo(nadia, { catalogue, consent: { ...given, text: 'withdrawn' }, chatOpen: true });
    expect(words(ways)).to.deep.equal({ text: 'no: They want no more texts.', email: 'yes', chat: 'yes' });
  });

  it('says what is missing: a connection, an address, a number', () => {
    expect(
      words(waysTo(nadia, { catalogue: catalogueOf({ email: null }), consent: given, chatOpen: true })).email,
    ).to.equal('no: Nothing is connected that sends emails.');
    expect(words(waysTo({ ...nadia, email: '' }, { catalogue, consent: given, chatOpen: true })).email).to.equal(
      'no: No email address is known.',
    );
    expect(words(waysTo({ ...nadia, phone: '' }, { catalogue, consent: given, chatOpen: true }))).to.include({
      text: 'no: No number is known.',
      chat: 'no: No number is known.',
    });
  });

  it('once the reply window has shut, chat takes an approved template and nothing else', () => {
    const [chat] = waysTo(nadia, { catalogue, consent: given, chatOpen: false }).filter(
      ({ channel }) => channel === 'chat',
    );
    expect(chat).to.include({ can: false, byTemplate: true });
    // But not for somebody who wants no more: not even by template.
    const wants = waysTo(nadia, { catalogue, consent: { ...given, chat: 'withdrawn' }, chatOpen: false });
    expect(wants.find(({ channel }) => channel === 'chat')).to.include({ can: false, byTemplate: false });
  });

  it('who is no lead yet cannot be answered by anything', () => {
    const ways = waysTo({ ...nadia, lead_id: null }, { catalogue, consent: given, chatOpen: true });
    expect(ways.map(({ can }) => can)).to.deep.equal(CHANNELS.map(() => false));
  });
});
