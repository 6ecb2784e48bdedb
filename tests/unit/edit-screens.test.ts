import { expect } from 'chai';
import {
  answering,
  choicesOf,
  keyFrom,
  keysOf,
  leadKeyOf,
  leadKeysFor,
  moved,
  otherKeys,
  reworded,
  type Screen,
  withQuestion,
  withScreen,
} from '../../src/core/form/edit-screens.ts';
import type { FormField } from '../../src/core/form/form-page.ts';

const field = (key: string, label = key): FormField => ({
  ...{ key, label, kind: 'short', required: false, help: '', choices: [] },
});
const screens: Screen[] = [
  { title: '', fields: [field('first_name'), field('instrument')] },
  { title: 'More', fields: [field('level')] },
];

describe('the screens of a form, while they are built', () => {
  const keys: [string, string[], string][] = [
    ['Which instrument?', [], 'which_instrument'],
    ['Élève', [], 'e_le_ve'],
    ['2nd child', [], 'nd_child'],
    ['Level', ['level'], 'level_2'],
    ['Level', ['level', 'level_2'], 'level_3'],
    ['Consent', [], 'consent_2'],
    ['', [], 'answer'],
    ['日本語', [], 'answer'],
    ['x'.repeat(50), [], 'x'.repeat(40)],
  ];
  for (const [label, taken, key] of keys)
    it(`“${label}” beside ${taken.join(', ') || 'nothing'} is known by ${key}`, () =>
      expect(keyFrom(label, taken)).to.equal(key));

  it('a question added has a key of its own, at the end of its screen', () => {
    const once = withQuestion(screens, 0);
    const twice = withQuestion(once, 1);
    expect(twice.map((screen) => screen.fields.map(({ key }) => key))).to.deep.equal([
      ['first_name', 'instrument', 'question'],
      ['level', 'question_2'],
    ]);
    expect(keysOf(screens), 'what was there is left as it is').to.deep.equal(['first_name', 'instrument', 'level']);
    expect(withScreen(screens, 1, { title: 'Last' }).map(({ title }) => title)).to.deep.equal(['', 'Last']);
  });

  it('other words are another key, but for what has been saved and what is the lead’s own', () => {
    const [own, instrument] = screens[0]!.fields as [FormField, FormField];
    const taken = otherKeys(screens, instrument);
    expect(taken).to.deep.equal(['first_name', 'level']);
    expect(reworded(instrument, 'Level', taken, [])).to.deep.include({ key: 'level_2', label: 'Level' });
    expect(reworded(instrument, 'Level', taken, ['instrument'])).to.deep.include({ key: 'instrument', label: 'Level' });
    expect(reworded(own, 'What are you called?', [], [])).to.deep.include({ key: 'first_name' });
  });

  it('goes up and down among the questions of its screen, and no further', () => {
    const three = [field('a'), field('b'), field('c')];
    const order = (at: number, by: -1 | 1) =>
      moved(three, at, by)
        .map(({ key }) => key)
        .join('');
    expect([order(0, 1), order(1, 1), order(2, -1), order(0, -1), order(2, 1)]).to.deep.equal([
      ...['bac', 'acb', 'acb', 'abc', 'abc'],
    ]);
  });

  it('is a field of the lead once, or one of its own again under a key that is free', () => {
    const [own, instrument] = screens[0]!.fields as [FormField, FormField];
    expect([leadKeyOf(own), leadKeyOf(instrument)]).to.deep.equal(['first_name', '']);
    expect(leadKeysFor(instrument, ['first_name', 'level'])).to.deep.equal(['last_name', 'email']);
    expect(leadKeysFor(own, ['instrument', 'email'])).to.deep.equal(['first_name', 'last_name']);
    expect(answering(instrument, 'email', []).key).to.equal('email');
    expect(answering(instrument, '', []), 'nothing is done twice').to.equal(instrument);
    expect(answering({ ...own, label: 'Email' }, '', ['level']).key).to.equal('email_2');
  });

  it('what can be chosen is one per line, without empty ones', () => {
    expect(choicesOf(' Piano \n\n Cello\n ')).to.deep.equal(['Piano', 'Cello']);
  });
});
