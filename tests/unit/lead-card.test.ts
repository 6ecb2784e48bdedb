import { expect } from 'chai';
import type { Field } from '../../src/core/fields/field.ts';
import { doneAt } from '../../src/core/source/done-at.ts';
import {
  cardProblem,
  consentSaidBy,
  consentScope,
  EMPTY_CARD,
  guessCard,
  type LeadCard,
  LeadCard as ReadCard,
  saysYes,
} from '../../src/core/source/lead-card.ts';
import { draftLead } from '../../src/core/source/lead-draft.ts';

const field = (label: string, value: string, key = label.toLowerCase().replaceAll(' ', '_')): Field => ({
  key,
  label,
  value,
});
const tick = { kind: 'field', key: 'ok', wordingKey: 'words' } as const;
const paper = { kind: 'asked_elsewhere', note: 'on paper', wording: 'Yes, write to me' } as const;

describe('a lead card is guessed', () => {
  const names: [string, keyof LeadCard['fields']][] = [
    ['First name', 'first_name'],
    ['givenName', 'first_name'],
    ['Vorname', 'first_name'],
    ['Prénom', 'first_name'],
    ['Surname', 'last_name'],
    ['Family-Name', 'last_name'],
    ['Cognome', 'last_name'],
    ['Apellidos', 'last_name'],
    ['Your name', 'full_name'],
    ['Name of the pupil', 'full_name'],
    ['E-mail address', 'email'],
    ['correo', 'email'],
    ['Contact number', 'phone'],
    ['Mobile no', 'phone'],
    ['Whats app', 'phone'],
    ['Handy', 'phone'],
    ['tel', 'phone'],
  ];
  for (const [label, as] of names)
    it(`“${label}” is ${as}`, () =>
      expect(guessCard([field(label, 'x', 'q1')], 'GB').fields).to.deep.equal({ [as]: 'q1' }));
  for (const label of ['Nickname of the dog', 'Phone brand', 'Email opt-in', 'Username', 'Street name', 'telling'])
    it(`“${label}” is none of them`, () => expect(guessCard([field(label, 'x')], 'GB').fields).to.deep.equal({}));

  it('by the last part of its key where the label is no name', () => {
    expect(guessCard([field('Question 3', 'x', 'contact.fname')], 'GB').fields).to.deep.equal({
      first_name: 'contact.fname',
    });
  });

  it('by what is in it where the name says nothing, and by a filled one rather than an empty one', () => {
    const found = guessCard([field('A', 'ada@example.org'), field('B', '07700 900123'), field('C', '12')], 'GB');
    expect(found.fields).to.deep.equal({ email: 'a', phone: 'b' });
    expect(guessCard([field('Email', '', 'e1'), field('Email', 'ada@example.org', 'e2')], 'GB').fields.email).to.equal(
      'e2',
    );
    expect(guessCard([field('Email', '', 'e1'), field('Email', '', 'e2')], 'GB').fields.email).to.equal('e1');
    expect(guessCard([field('Order', '12345678901234567890123')], 'GB').fields, 'no number is that long').to.deep.equal(
      {},
    );
    expect(guessCard([field('Order', '0000 0000')], 'GB').fields, 'nor one nobody can have').to.deep.equal({});
  });

  it('either the two parts of a name or the whole, and one field is one thing only', () => {
    expect(guessCard([field('Name', 'Ada Venn'), field('First name', 'Ada')], 'GB').fields).to.deep.equal({
      first_name: 'first_name',
    });
    expect(guessCard([field('Email', 'ada@example.org')], 'GB').fields).to.deep.equal({ email: 'email' });
  });

  it('a short field about agreeing is the tick; a long one beside it is the wording', () => {
    const wording = field('Consent wording', 'Wrenfield may write to me about lessons');
    expect(guessCard([wording, field('Opt-in', 'yes')], 'GB').consent).to.deep.equal({
      ...{ kind: 'field', key: 'opt-in', wordingKey: 'consent_wording' },
    });
    expect(guessCard([field('GDPR', 'yes')], 'GB').consent).to.deep.equal({
      kind: 'field',
      key: 'gdpr',
      wordingKey: null,
    });
    expect(guessCard([wording], 'GB').consent).to.deep.equal({ kind: 'not_asked' });
    expect(guessCard([field('Instrument', 'Piano')], 'GB')).to.deep.equal(EMPTY_CARD);
  });
});

describe('what a consent at a source means', () => {
  for (const yes of [
    'true',
    'YES',
    ' y ',
    'on',
    '1',
    'ja',
    'oui',
    'sí',
    'si',
    'agreed',
    'accepted',
    'checked',
    'ticked',
  ])
    it(`“${yes}” is yes`, () => expect(saysYes(yes)).to.equal(true));
  for (const no of ['', 'no', 'false', '0', 'off', 'yes please no', 'maybe', '10'])
    it(`“${no}” is not`, () => expect(saysYes(no)).to.equal(false));

  it('whose word it is', () => {
    expect(consentSaidBy({ consent: paper }, true)).to.equal('standing');
    expect(consentSaidBy({ consent: tick }, true)).to.equal('reported');
    expect(consentSaidBy({ consent: tick }, false)).to.equal('themselves');
  });
  it('what it allows: all messages by text and email where nothing is said', () => {
    expect(consentScope({ consent: { kind: 'not_asked' } })).to.deep.equal({ purpose: null, channels: [] });
    expect(consentScope({ consent: tick })).to.deep.equal({ purpose: null, channels: ['text', 'email'] });
    expect(consentScope({ consent: { ...tick, about: 'all', channels: ['chat'] } })).to.deep.equal({
      ...{ purpose: null, channels: ['chat'] },
    });
    expect(consentScope({ consent: { ...paper, about: 'marketing' } }).purpose).to.equal('marketing');
    const none = ReadCard.safeParse({ fields: {}, consent: { ...tick, channels: [] } });
    expect(none.error?.issues[0]?.message).to.equal('Say which messages they agree to');
  });
  it('what is missing before a card asked elsewhere may be used', () => {
    expect(cardProblem({ consent: tick })).to.equal(null);
    expect(cardProblem({ consent: paper })).to.equal(null);
    expect(cardProblem({ consent: { ...paper, note: ' ' } })).to.match(/^Say where they are asked/);
    expect(cardProblem({ consent: { ...paper, wording: ' ' } })).to.match(/^Write down the words/);
  });
});

describe('an arrival is read by its card', () => {
  const card = (more: Partial<LeadCard> = {}): LeadCard => ({
    fields: { full_name: 'name', email: 'email', phone: 'phone' },
    consent: tick,
    ...more,
  });
  const fields = [
    field('Name', ' Ada Venn '),
    field('Email', ' ada@example.org '),
    field('Phone', '07700 900123'),
    field('Ok', 'yes', 'ok'),
    field('Words', 'You may write', 'words'),
    field('Instrument', 'Piano'),
    { ...field('Level', 'C', 'list.level'), of: 'list' as const },
    { ...field('Lines', '2 lines', 'lines'), rows: [{ name: 'Strings' }] },
  ];
  it('into who they are, what they answered, what is theirs on a list, and lists row by row', () => {
    const read = draftLead(fields, card(), 'GB');
    expect(read.person).to.deep.equal({
      ...{ first_name: 'Ada', last_name: 'Venn', email: 'ada@example.org', phone: '07700 900123' },
    });
    expect(read.answers).to.deep.equal({ instrument: 'Piano', lines: '2 lines' });
    expect(read.member).to.deep.equal({ 'list.level': 'C' });
    expect(read.lists).to.deep.equal({ lines: [{ name: 'Strings' }] });
    expect(read.identities.map(({ value }) => value).sort()).to.deep.equal(['+447700900123', 'ada@example.org']);
  });
  it('a first name of its own outweighs the whole name; what the card names and the arrival lacks is empty', () => {
    const own = card({ fields: { first_name: 'nick', full_name: 'name', phone: 'gone' } });
    expect(draftLead([...fields, field('Nick', 'Addie')], own, 'GB').person).to.deep.equal({
      ...{ first_name: 'Addie', last_name: 'Venn', email: '', phone: '' },
    });
  });
  it('consent: ticked, left unticked, asked on paper, not asked', () => {
    const consent = (of: readonly Field[], more: LeadCard['consent']) =>
      draftLead(of, card({ consent: more }), 'GB').consent;
    expect(consent(fields, tick)).to.deep.equal({ state: 'given', wording: 'You may write' });
    expect(consent([field('Ok', 'no', 'ok')], tick)).to.deep.equal({ state: 'unticked', wording: '' });
    expect(consent([], { ...tick, wordingKey: null })).to.deep.equal({ state: 'unticked', wording: '' });
    expect(consent([], paper)).to.deep.equal({ state: 'given', wording: 'Yes, write to me' });
    expect(consent(fields, { kind: 'not_asked' })).to.equal(null);
  });
  it('when they did it: unknown where it cannot be read, never just now', () => {
    expect(doneAt(undefined)).to.deep.equal({});
    expect(doneAt('2026-11-27T16:00:00+01:00')).to.deep.equal({ doneAt: '2026-11-27T15:00:00.000Z' });
    for (const said of ['yesterday', '', '2026-11-27', '0001-01-01T00:00:00Z'])
      expect(doneAt(said), said).to.deep.equal({ doneAt: null });
  });
});
