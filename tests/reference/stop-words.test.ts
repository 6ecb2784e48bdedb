import { expect } from 'chai';
import fc from 'fast-check';
import { commandOf } from '../../src/core/message/command-words.ts';
import { soundsLikeRefusal } from '../../src/core/message/sounds-like-refusal.ts';

const asked = (text: string) => commandOf(text)?.command ?? null;

describe('words that end messages', () => {
  // 47 CFR §64.1200(a)(10), from memory: words that revoke consent by themselves.
  const BY_RULE = ['stop', 'quit', 'end', 'revoke', 'opt out', 'cancel', 'unsubscribe'];

  it('each word of 47 CFR §64.1200(a)(10) does, however it is dressed', () => {
    const dresses: ((word: string) => string)[] = [
      (word) => word,
      (word) => word.toUpperCase(),
      // Full-width forms: U+FF21 and on, as some keyboards write them (NFKC makes them plain).
      (word) => word.toUpperCase().replace(/[A-Z]/g, (c) => String.fromCodePoint(c.codePointAt(0)! + 0xfee0)),
      (word) => `"${word}"`,
      (word) => `“${word}”`,
      (word) => `'${word}'`,
      (word) => `${word}.`,
      (word) => `${word}...`,
      (word) => `${word}…`,
      (word) => `${word},`,
      (word) => `${word}!!`,
      (word) => `  ${word}\n`,
      (word) => `\u202a${word}\u202c`,
      (word) => word.replace(' ', '-'),
      (word) => `Please ${word}`,
      (word) => `${word} please.`,
      (word) => `${word}, thanks`,
      (word) => `${word}\n\nSent from my phone`,
      (word) => `${word}\n-- \nInes Wren\nWrenfield`,
      (word) => `${word}\nInes Wren`,
      (word) => `${word}\nKind regards\nInes`,
    ];
    for (const word of BY_RULE)
      for (const dress of dresses) expect(asked(dress(word)), JSON.stringify(dress(word))).to.equal('stop');
  });

  it('and none that only stands in a sentence (common practice, no source)', () => {
    for (const text of [
      'please do not stop',
      'stop by at 5',
      'Which bus stop is it?',
      'The end of June suits us',
      'Can I cancel Tuesday and come on Friday?',
      'I quit smoking',
      'Stop!\nI meant Tuesday, not Monday',
      '',
      '…',
    ])
      expect(asked(text), text).to.equal(null);
  });

  it('in other languages (from memory)', () => {
    for (const word of [
      'STOPP',
      'Abmelden!',
      'Arrêt',
      'arrêter svp',
      'Baja',
      'basta.',
      'Sair',
      'Afmelden',
      'Bitte abmelden',
    ])
      expect(asked(word), word).to.equal('stop');
    expect(['start', 'UNSTOP', 'Hilfe', 'aide'].map(asked)).to.deep.equal(['start', 'start', 'help', 'help']);
  });

  it('whatever is written, nothing throws and a novel is no word', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 2000 }), (text) => {
        asked(text);
        soundsLikeRefusal(text);
      }),
    );
    expect(asked('stop '.repeat(1000))).to.equal(null);
  });
});

describe('messages that sound like a refusal (common practice, from memory)', () => {
  for (const text of [
    'Stop texting me please',
    'please STOP sending these messages, I never signed up',
    'Do not contact me again',
    "Don't text me",
    'dont message this number anymore',
    'Remove me from your list',
    'take me off this list',
    'I want to unsubscribe',
    'I would like to opt-out of this',
    'No more texts!! thank you',
    'leave me alone',
    'You have the wrong number',
    'Not interested',
    'I hereby revoke my consent',
    'Bitte keine SMS mehr',
    'Hören Sie auf, mir zu schreiben',
    'Kein Interesse',
    'Arrêtez de m’écrire',
    'Je ne veux plus de messages, désabonnez-moi',
    'Dejen de enviarme mensajes',
    'No me envíen más',
    'Non scrivetemi più',
    'Não quero mais receber',
    'Geen berichten meer graag',
  ])
    it(`“${text}”`, () => expect(soundsLikeRefusal(text)).to.equal(true));

  for (const text of [
    'Which bus stop do I get off at?',
    'Can I stop by at five?',
    'Yes please, Tuesday at 4',
    'No thanks, Thursday is better',
    'I have to stop lessons in June but want to start again in September',
    'Please text me the address',
    'Could you contact me again on Monday?',
    'My son is interested in piano',
    'Do not worry, we will be there',
    'Das ist mir nicht mehr so wichtig',
    'C’est noté, merci',
  ])
    it(`not “${text}”`, () => expect(soundsLikeRefusal(text)).to.equal(false));

  it('is quick about it, whatever is written', () => {
    const long = 'stop '.repeat(100_000);
    expect(soundsLikeRefusal(long)).to.be.a('boolean');
    expect(soundsLikeRefusal(`${'do not '.repeat(50_000)}x`)).to.be.a('boolean');
  });
});
