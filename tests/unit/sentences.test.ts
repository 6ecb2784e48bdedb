import { readFileSync } from 'node:fs';
import { expect } from 'chai';
import fc from 'fast-check';
import type { KnownThing } from '../../src/core/sentence/known.ts';
import { LONGEST_SENTENCE, readSentence } from '../../src/core/sentence/read-sentence.ts';
import { Definition, placedSteps } from '../../src/core/workflow/definition.ts';
import { readAloud } from '../../src/core/workflow/read-aloud.ts';
import type { Catalogue } from '../../src/core/workflow/step-kind.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { inShort, KNOWN } from '../sentences/known.ts';
import { catalogueOf } from '../stage/sheets.ts';

const blank = (kind: string) => stepKinds.get(kind)!.blank() as Record<string, unknown>;
const read = (sentence: string, answers: Record<string, string> = {}) =>
  readSentence(sentence, KNOWN, { blank, answers });
const of = (kind: KnownThing['kind']) => KNOWN.filter((one) => one.kind === kind);
/** What a sentence gives, in short: the sheet, what is asked, what was not understood. */
const result = (sentence: string) => {
  const { sheet, asks, unread } = read(sentence);
  return [
    inShort(sheet),
    ...asks.map(({ kind, said }) => `?? ${kind}:${said}`),
    ...unread.map(({ from, to }) => `!! ${sentence.slice(from, to)}`),
  ].join(' ');
};
const corpus = (file: string) =>
  readFileSync(new URL(`../sentences/${file}`, import.meta.url), 'utf8')
    .split('\n')
    .filter(Boolean)
    .map((line) => line.split(' => ') as [string, string]);
const all = [...corpus('first.txt'), ...corpus('second.txt')];

/** Words nobody would take for a name where they stand small in a sentence. */
const EVERYDAY = new Set(
  'two three days day later after have has not replied send they them then when somebody put tell wait within nothing comes back'.split(
    ' ',
  ),
);

const catalogue: Catalogue = {
  ...catalogueOf(),
  sources: of('source'),
  lists: of('list').map(({ id, name }) => ({
    id,
    name,
    optIn: 'single' as const,
    asked: 0,
    confirmed: 0,
    fields: [],
    stopped: '',
  })),
  tags: of('tag'),
  colleagues: of('colleague').map(({ id, name }) => ({ id, name, email: 'a@example.com', phone: '' })),
  tabs: of('tab').map(({ id, name, columns }) => ({ id, name, columns: columns ?? [] })),
  stages: of('stage'),
  emailTemplates: of('template').map(({ id, name }) => ({ id, name, html: '', text: '' })),
  chatForms: of('form').map(({ id, name }) => ({ id, name, live: null })),
};

describe('a workflow from a sentence', () => {
  it('gives the sheet each sentence of the corpus means, asks what it has to, and says what it has not understood', () => {
    expect(corpus('first.txt').length).to.be.at.least(110);
    expect(corpus('second.txt').length, 'those written after the grammar').to.be.at.least(40);
    expect(all.length).to.be.at.least(150);
    for (const [sentence, sheet] of all) expect(result(sentence), sentence).to.equal(sheet);
  });

  it('reads back what it has drafted: read aloud and read again it is the same sheet', () => {
    const told: string[] = [];
    for (const [sentence] of all) {
      const { sheet, asks, unread } = read(sentence);
      if (asks.length + unread.length > 0) continue;
      const aloud = readAloud(sheet, stepKinds, catalogue)
        .flatMap(({ sentences }) => sentences)
        .join(' ');
      const again = read(aloud);
      const lost = again.unread.map(({ from, to }) => aloud.slice(from, to)).join(' // ');
      if (inShort(again.sheet) !== inShort(sheet) || lost)
        told.push(`${aloud}\n   ${inShort(sheet)}\n   ${inShort(again.sheet)} !! ${lost}`);
    }
    expect(told.length, `\n${told.join('\n')}`).to.equal(0);
  });

  it('reads what it read before, whatever everyday word a list, tag or answer of this business is called', () => {
    const broken: string[] = [];
    for (const [sentence, sheet] of all.filter(([, sheet]) => !/\?\?|!!/.test(sheet))) {
      const everyday = new Set(sentence.split(/[^a-z]+/).filter((word) => word.length > 2));
      for (const name of everyday) {
        if (!EVERYDAY.has(name)) continue;
        const things: KnownThing[] = [...KNOWN, { kind: 'tag', id: 'everyday', name }];
        const again = readSentence(sentence, things, { blank });
        const lost = again.unread.map(({ from, to }) => sentence.slice(from, to)).join(' // ');
        if (inShort(again.sheet) !== sheet || lost)
          broken.push(`${name}: ${sentence}\n   ${sheet}\n   ${inShort(again.sheet)} !! ${lost}`);
      }
    }
    expect(broken.length, `\n${broken.join('\n')}`).to.equal(0);
  });

  it('never writes to, tells or puts anybody where the sentence does not name it', () => {
    // Whatever is said, in whatever order: every colleague, list, tag, source and sheet in the draft stands in the sentence by a name of its own.
    const words = fc.constantFrom(
      ...[
        'when somebody fills in',
        'the',
        'summer camp form',
        'text them',
        'email them',
        'tell',
        'Tomas',
        'Jack',
        'put them on',
        'Newsletter',
      ],
      ...[
        'and',
        ',',
        '.',
        'two days later',
        'if they have not replied',
        'otherwise',
        'tag them',
        'Hot',
        'if',
        'unless',
        'Instrument is Piano',
      ],
      ...[
        'have',
        'call them',
        'within an hour',
        '"hello',
        'world"',
        'All leads',
        'add a row to',
        'in turn',
        'Oona',
        'the owner',
        '(',
        ')',
        '{',
        '«',
      ],
    );
    fc.assert(
      fc.property(
        fc.array(fc.oneof({ weight: 6, arbitrary: words }, fc.string({ maxLength: 12 })), { maxLength: 24 }),
        (parts) => {
          const sentence = parts.join(' ');
          const { sheet, unread } = read(sentence);
          Definition.parse(sheet);
          const lower = sentence.toLowerCase();
          const named = (id: unknown) => {
            const thing = KNOWN.find((one) => one.id === id);
            return (
              !thing ||
              thing.name
                .toLowerCase()
                .split(/[ ,]+/)
                .some((word) => lower.includes(word))
            );
          };
          for (const { step } of placedSteps(sheet)) {
            expect(stepKinds.get(step.kind)!.settings.safeParse(step.settings).success, step.kind).to.equal(true);
            for (const value of Object.values(step.settings).flat())
              expect(named(value), `${sentence}: ${String(value)}`).to.equal(true);
          }
          for (const id of sheet.sources) expect(named(id), sentence).to.equal(true);
          for (const { from, to } of unread) expect(from).to.be.at.most(to);
        },
      ),
      { numRuns: 400 },
    );
  });

  it('says for each step which words made it', () => {
    const sentence =
      'When somebody fills in the summer camp form, text them, and two days later if they have not replied tell Tomas.';
    const { marks } = read(sentence);
    expect(marks.map(({ made, from, to }) => `${made}: ${sentence.slice(from, to)}`)).to.deep.equal([
      'source: When somebody fills in the summer camp form',
      'step: text them',
      'moment: two days later',
      'moment: if they have not replied',
      'step: tell Tomas',
    ]);
  });

  it('takes the answer to what it asked, and only one of that kind', () => {
    const sentence = 'When somebody fills in the winter camp form, tell Jack.';
    const [source, jack] = read(sentence).asks;
    expect([source!.said, jack!.said]).to.deep.equal(['winter camp form', 'Jack']);
    // What sounds like it stands first.
    expect(source!.options[0]!.name).to.equal('Summer camp form');
    const [camp] = of('source');
    const [tomas] = of('colleague');
    const answered = read(sentence, { [source!.id]: camp!.id, [jack!.id]: tomas!.id });
    expect([inShort(answered.sheet), answered.asks]).to.deep.equal(['by Summer camp form | tell Tomas Arden', []]);
    expect(read(sentence, { [jack!.id]: camp!.id }).asks.length).to.equal(2);
  });

  it('asks which of two is meant', () => {
    const two: KnownThing[] = [...KNOWN, { kind: 'colleague', id: 'x', name: 'Tomas Bell' }];
    const { asks, sheet } = readSentence('When somebody fills in the summer camp form, tell Tomas.', two, { blank });
    expect(asks.map(({ kind, said }) => [kind, said])).to.deep.equal([['colleague', 'Tomas']]);
    expect(inShort(sheet)).to.equal('by Summer camp form | tell ?');
  });

  it('puts fields named in brackets into the message, and leaves other brackets alone', () => {
    const { sheet } = read(
      'When somebody fills in the summer camp form, text them "Hi {First name}, {see you} [City]".',
    );
    expect(sheet.moments[0]!.lanes.lead[0]!.settings.message).to.equal(
      'Hi {{ lead.first_name }}, {see you} {{ answers.city }}',
    );
  });

  it('reads the longest sentence there is in time that grows no faster than it', () => {
    const long = `When somebody fills in the summer camp form, ${'text them, tell Tomas and Oona, put them on the '.repeat(200)}`;
    expect(long.length).to.be.above(LONGEST_SENTENCE);
    expect(read(long).sheet.moments.length).to.equal(1);
    expect(() => read('a '.repeat(5000))).not.to.throw();
    expect(() => read('tell '.repeat(600))).not.to.throw();
  });
});
