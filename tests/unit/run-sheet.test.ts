import { expect } from 'chai';
import type { At } from '../../src/core/workflow/at.ts';
import { blankDefinition, type Definition, type Place, type Step } from '../../src/core/workflow/definition.ts';
import type { SheetCheckInput } from '../../src/core/workflow/moment-findings.ts';
import type { RunContext } from '../../src/core/workflow/run-context.ts';
import { toCheck } from '../../src/core/workflow/to-check.ts';
import {
  addStep,
  changeSettings,
  copyStep,
  findStep,
  moveStep,
  removeStep,
} from '../../src/islands/run-sheet/edits.ts';
import { keptKey } from '../../src/steps/kept-key.ts';
import { planStep } from '../../src/steps/plan-step.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { catalogueOf, momentOf, nadia, sheetOf, stepOf } from '../stage/sheets.ts';

const context = nadia({
  person: { first_name: 'Nadia', last_name: 'Okafor', email: 'nadia@example.com', phone: '07700 900142' },
});
const catalogue = catalogueOf();
const step = (kind: string, id = kind, settings: Record<string, unknown> = {}): Step =>
  stepOf(kind, id, { ...(stepKinds.get(kind)!.blank() as object), ...settings });
const to = (place: Place) => ({ momentId: 'm', caseId: null, place });
const source = '01999999-0000-7000-8000-00000000000a';
const good: SheetCheckInput = {
  catalogue,
  sample: context,
  consentAsked: true,
  sources: [{ id: source, name: 'Form', state: 'live' }],
  triedSinceChange: true,
};
const withText = (message: string): Definition =>
  addStep(to('lead'), step('text', 'x', { message }))({ ...blankDefinition('m'), sources: [source] });
const codes = (definition: Definition, input: Partial<SheetCheckInput> = {}) =>
  toCheck(definition, stepKinds, { ...good, ...input }).map((finding) => finding.code);

describe('To check', () => {
  it('a finished sheet has nothing to check', () =>
    expect(codes(withText('Hi {{ lead.first_name }}'))).to.deep.equal([]));
  it('an empty sheet lacks a source and a step', () =>
    expect(codes(blankDefinition('m'))).to.deep.equal(['no-source', 'nothing-happens']));
  const found: [string, Definition, Partial<SheetCheckInput>, string][] = [
    ['an empty message', withText('  '), {}, 'empty'],
    ['a field the sample lacks', withText('{{ answers.colour }}'), {}, 'field-lacking'],
    ['a broken template', withText('{{ lead.first_name'), {}, 'template'],
    ['several parts', withText('a'.repeat(161)), {}, 'several-parts'],
    ['one odd character', withText('It’s on'), {}, 'odd-character'],
    ['consent that nobody asks for', withText('Hi'), { consentAsked: false }, 'consent-never-asked'],
    ['no carrier', withText('Hi'), { catalogue: { ...catalogue, text: null } }, 'no-sender'],
    ['no sample', withText('Hi'), { sample: null }, 'no-sample'],
    ['no test since the last change', withText('Hi'), { triedSinceChange: false }, 'not-tried'],
    ['a paused source', withText('Hi'), { sources: [{ id: source, name: 'Form', state: 'paused' }] }, 'source-paused'],
  ];
  for (const [name, definition, input, code] of found)
    it(`tells ${name}`, () => expect(codes(definition, input)).to.deep.equal([code]));
  describe('fields that do not exist', () => {
    const told = (message: string, more: Partial<SheetCheckInput> = {}) =>
      toCheck(withText(message), stepKinds, { ...good, ...more })
        .filter((finding) => ['no-such-field', 'field-lacking'].includes(finding.code))
        .map((finding) => `${finding.weight}: ${finding.text}`);
    for (const [typed, meant] of [
      ['{{ lead }}', null],
      ['{{ answers }}', null],
      ['{{ first_name }}', 'Lead: First name'],
      ['{{ First name }}', 'Lead: First name'],
      ['{{ lead.first name }}', 'Lead: First name'],
      ['{{ Lead.First_Name }}', 'Lead: First name'],
      ['{{ lead.frist_name }}', 'Lead: First name'],
      ['{{ answer.instrument }}', 'Answers of the source: Instrument'],
      ['{{ instrumnt }}', 'Answers of the source: Instrument'],
      ['{{ business.nmae }}', 'Business: Business name'],
      ['{{ found["teacher.room"] }}', null],
    ] as const)
      it(`${typed} is told${meant ? `, with ${meant}` : ''}`, () => {
        const [finding, ...more] = told(typed);
        expect(more).to.deep.equal([]);
        expect(finding, 'it cannot go live').to.match(/^must: /);
        if (meant) expect(finding).to.include(`Did you mean ${meant}?`);
      });
    it('what a step finds is meant before a field that only shares its last word', () => {
      const sheet = addStep(
        to('first'),
        step('company', 'c', { whenNone: 'blanks', keepDays: 30 }),
      )(withText('{{ company.name }}'));
      const [finding] = toCheck(sheet, stepKinds, {
        ...good,
        catalogue: { ...catalogue, directory: { name: 'D' } },
      }).filter((finding) => finding.code === 'no-such-field');
      expect(finding!.text).to.match(/Did you mean Found by steps: Company name\?$/);
    });
    it('an answer of the source that the sample lacks is something to look at', () =>
      expect(told('{{ answers.instrumnet }}')).to.deep.equal([
        'look: Text the lead: the sample lead has no field "Instrumnet", so it would be left empty. Did you mean Answers of the source: Instrument?',
      ]));
    it('text of itself, and fields that are there, are not', () =>
      expect(
        told('{{ "Hello" }} {{ lead.full_name | upcase }} {{ answers.instrument | default: "all" }}'),
      ).to.deep.equal([]));
  });
  it('a wait above the question it waits for is told', () => {
    const wait: At = {
      kind: 'event',
      event: 'answer',
      step: 'q',
      words: '',
      sources: [],
      tag: '',
      list: '',
      stage: '',
      within: { amount: 2, unit: 'days' },
    };
    const ask = step('ask', 'q', { message: 'Which day?', choices: 'Mon\nTue', saveAs: 'answers.day' });
    const lanes = (...lead: Step[]) => ({ lanes: { lead, record: [], team: [] } });
    const sheet = (above: boolean): Definition =>
      sheetOf(
        above
          ? [momentOf('m', lanes(ask)), momentOf('n', { at: wait, ...lanes(step('text', 't', { message: 'Thanks' })) })]
          : [momentOf('m', lanes(step('text', 't', { message: 'Hi' }))), momentOf('n', { at: wait, ...lanes(ask) })],
        {},
        [source],
      );
    expect(codes(sheet(true))).to.not.include('gone');
    expect(toCheck(sheet(false), stepKinds, good).map((finding) => finding.text)).to.include(
      'A moment waits for the answer to a question that is asked only in it or below it: move the question into a moment above.',
    );
  });
  it('leads to the place: step and field', () => {
    const [finding] = toCheck(withText(''), stepKinds, good);
    expect(finding?.place).to.deep.equal({ stepId: 'x', field: 'message' });
  });
  it('says nothing of a step that is switched off', () => {
    const definition = addStep(to('team'), { ...step('tell'), on: false })(withText('Hi'));
    expect(codes(definition)).to.deep.equal([]);
  });
});

describe('what a look-up finds keeps its name', () => {
  const tabs = [
    {
      id: 'tab',
      name: 'Rooms',
      columns: [
        { id: 'c1', name: 'Teacher' },
        { id: 'c2', name: 'Room' },
      ],
    },
  ];
  const lookUp = stepKinds.get('look-up')!;
  const settings = (more: object) =>
    lookUp.settings.parse({ ...(lookUp.blank() as object), tab: 'tab', column: 'c1', value: 'x', ...more }) as {
      name: string;
      key: string;
    };
  const gives = (more: object) => lookUp.gives!(settings(more), { ...catalogue, tabs }).map((given) => given.key);
  it('whatever it is called later: its fields go by a key made once', () => {
    const first = settings({ name: 'Teacher' });
    const renamed = { ...first, name: 'Room planner', key: keptKey(first, 'look-up-1') };
    expect(gives(renamed)).to.deep.equal(gives({ name: 'Teacher' }));
    const fresh = settings({ name: '' });
    const named = { ...fresh, name: 'Room', key: keptKey(fresh, 'look-up-1') };
    expect(gives(named)).to.deep.equal(['look-up-1.c1', 'look-up-1.c2']);
    expect(keptKey(named, 'other')).to.equal('look-up-1');
  });
  it('a copy finds under a key of its own', () => {
    const one = step('look-up', 'a', { name: 'Teacher', key: 'a' });
    const both = copyStep('a', 'b')(addStep(to('first'), one)(blankDefinition('m')));
    expect(findStep(both, 'b')!.step.settings).to.include({ key: 'b' });
  });
});

describe('plans', () => {
  const plan = (one: Step, more: Partial<RunContext> = {}) => planStep(one, { ...context, ...more }, catalogue, 0);
  it('a text goes to E.164, with its parts counted', () => {
    expect(plan(step('text', 'x', { message: 'Hi {{ lead.first_name }}' }))).to.deep.equal({
      does: 'send',
      message: {
        channel: 'text',
        audience: 'lead',
        to: '+447700900142',
        from: 'Wrenfield',
        text: 'Hi Nadia',
        parts: 1,
      },
    });
  });
  it('withdrawn consent stops a message even when it was set to need none', () => {
    const told = plan(step('text', 'x', { message: 'Hi', needsConsent: false }), {
      consent: { text: 'withdrawn', email: 'given', chat: 'unknown' },
    });
    expect(told).to.deep.include({ does: 'nothing' });
    expect(told.does === 'nothing' && told.why.code).to.equal('withdrawn');
  });
  it('a missing address is nothing to do; a bad one is for a person to settle', () => {
    expect(plan(step('text', 'x', { message: 'Hi' }), { person: { ...context.person, phone: '' } }).does).to.equal(
      'nothing',
    );
    expect(
      plan(step('text', 'x', { message: 'Hi' }), { person: { ...context.person, phone: 'call me' } }).does,
    ).to.equal('ask');
    expect(
      plan(step('email', 'x', { subject: 'S', message: 'Hi' }), {
        person: { ...context.person, email: 'a@b.example\r\nBcc: c@d.example' },
      }).does,
    ).to.equal('ask');
  });
  it('tidying shows before and after, and what could not be tidied', () => {
    const told = plan(step('tidy'), {
      person: { first_name: ' NADIA ', last_name: 'VAN DER BERG', email: ' Nadia@Example.COM ', phone: 'call me' },
    });
    expect(told.does === 'change' && told.changes.map((change) => [change.after, change.problem])).to.deep.equal([
      ['Nadia', null],
      ['van der Berg', null],
      ['nadia@example.com', null],
      ['call me', 'this is not a phone number that can be dialled'],
    ]);
  });
});

describe('edits of a run sheet', () => {
  const start = addStep(to('lead'), step('email', 'b'))(addStep(to('lead'), step('text', 'a'))(blankDefinition('m')));
  const lead = (definition: Definition) => definition.moments[0]!.lanes.lead.map((one) => one.id);
  it('moves, copies, removes, and leaves the old sheet as it was', () => {
    expect(lead(moveStep('b', to('lead'), 0)(start))).to.deep.equal(['b', 'a']);
    expect(lead(copyStep('a', 'c')(start))).to.deep.equal(['a', 'c', 'b']);
    expect(lead(removeStep('a')(start))).to.deep.equal(['b']);
    expect(lead(start)).to.deep.equal(['a', 'b']);
  });
  it('a copy shares nothing with its original', () => {
    const changed = changeSettings('c', { message: 'new' })(copyStep('a', 'c')(start));
    expect([
      findStep(changed, 'a')?.step.settings.message,
      findStep(changed, 'c')?.step.settings.message,
    ]).to.deep.equal(['', 'new']);
  });
});
