import { expect } from 'chai';
import {
  ChatTemplateContent,
  chatTemplateProblems,
  templateFields,
  templateValues,
  templateWords,
} from '../../src/core/message/chat-template.ts';
import { FrontDoor } from '../../src/core/message/front-door.ts';
import { ChatReport } from '../../src/core/message/inbound-report.ts';
import { readingScope } from '../../src/core/workflow/run-context.ts';
import { nadia, scopeOf } from '../stage/sheets.ts';

const content = (text: string, more: Partial<ChatTemplateContent> = {}) =>
  ChatTemplateContent.parse({ kind: 'service', text, ...more });
const NAME = '{{ lead.first_name }}';
const DAY = '{{ answers["lesson day"] }}';

describe('a chat template', () => {
  it('has each of its fields once, in reading order', () => {
    expect(templateFields(content(`Hi ${NAME}, ${DAY}? ${NAME}!`))).to.deep.equal([
      'lead.first_name',
      'answers["lesson day"]',
    ]);
  });
  const problems: [string, ChatTemplateContent, string[]][] = [
    ['a good one', content(`Hi ${NAME}!`, { samples: { 'lead.first_name': 'Ada' } }), []],
    ['an empty one', content('  '), ['The text is empty.']],
    ['a field without a sample', content(`Hi ${NAME}!`), ['Give a sample for the field lead.first_name.']],
    [
      'an empty sample',
      content(`Hi ${NAME}!`, { samples: { 'lead.first_name': ' ' } }),
      ['Give a sample for the field lead.first_name.'],
    ],
    [
      'one that begins with a field',
      content(`${NAME}, hi`, { samples: { 'lead.first_name': 'A' } }),
      ['The text may not begin or end with a field.'],
    ],
    [
      'one that ends with a field',
      content(`Hi ${NAME}`, { samples: { 'lead.first_name': 'A' } }),
      ['The text may not begin or end with a field.'],
    ],
    [
      'a field that is tidied',
      content('Hi {{ lead.first_name | upcase }}!', { samples: { 'lead.first_name': 'A' } }),
      ['A field here cannot be tidied: put it in as it is.'],
    ],
  ];
  for (const [what, of, found] of problems) it(what, () => expect(chatTemplateProblems(of)).to.deep.equal(found));
  it('a field that is not closed is told once, by where it is', () => {
    expect(chatTemplateProblems(content('Hi {{ lead.first_name | , bye'))).to.have.length(1);
  });

  it('is filled for somebody, or says which field they lack', () => {
    const of = content(`Hi ${NAME}, ${DAY}.`, { heading: 'Lessons', closing: 'Wrenfield' });
    const scope = scopeOf({ lead: { first_name: ' Ada ' }, answers: { 'lesson day': 'Monday' } });
    expect(templateValues(of, scope)).to.deep.equal({
      ...{ ok: true, fields: { 'lead.first_name': 'Ada', 'answers["lesson day"]': 'Monday' } },
    });
    expect(templateValues(of, scopeOf({ lead: { first_name: 'Ada' }, answers: { 'lesson day': ' ' } }))).to.deep.equal({
      ...{ ok: false, empty: 'answers["lesson day"]' },
    });
    expect(templateValues(of, scopeOf())).to.deep.equal({ ok: false, empty: 'lead.first_name' });
    expect(templateWords(of, scope)).to.equal('Lessons\n\nHi  Ada , Monday.\n\nWrenfield');
    expect(templateWords(content('Hi {{'), scope), 'what cannot be filled is shown as it is').to.equal('Hi {{');
  });
  it('writes a date as its reader does', () => {
    const scope = readingScope(nadia({ answers: { 'lesson day': '2026-12-01' } }), Date.UTC(2026, 10, 27));
    const filled = templateValues(content(`On ${DAY}.`), scope);
    expect(filled.ok && filled.fields['answers["lesson day"]']).to.equal('Tuesday 1 December');
  });
  it('is no longer than networks take', () => {
    for (const [part, most] of [
      ['heading', 60],
      ['text', 1024],
      ['closing', 60],
    ] as const) {
      expect(ChatTemplateContent.safeParse({ kind: 'service', [part]: 'x'.repeat(most) }).success, part).to.equal(true);
      expect(ChatTemplateContent.safeParse({ kind: 'service', [part]: 'x'.repeat(most + 1) }).success, part).to.equal(
        false,
      );
    }
    const buttons = (...of: string[]) => ChatTemplateContent.safeParse({ kind: 'service', buttons: of });
    expect(buttons('Yes', 'No', 'Later').success).to.equal(true);
    expect(buttons('a', 'b', 'c', 'd').success).to.equal(false);
    expect(buttons(' ').error?.issues[0]?.message).to.equal('A button says nothing');
    expect(buttons('x'.repeat(21)).success).to.equal(false);
  });
});

describe('the front door by itself', () => {
  it('is open, asks politely, and not again within ten minutes', () => {
    const door = FrontDoor.parse({});
    expect(door).to.deep.include({ on: false, form: '', everyMinutes: 10 });
    expect(door.message).to.match(/^Hello! Before we begin/);
    expect(door.greeting).to.equal('Thank you, {{ lead.first_name }}! What can we do for you?');
    for (const everyMinutes of [0, 1441, 1.5]) expect(FrontDoor.safeParse({ everyMinutes }).success).to.equal(false);
  });
});

describe('what a chat network reports', () => {
  const at = '2026-11-27T16:00:00Z';
  const data = { id: 'm1', from: '+447700900123', to: '+447700900999', text: 'Hi', at };
  it('a message is typed where nothing is said of a button, and nameless where none is given', () => {
    expect(ChatReport.parse({ type: 'chat.received', data }).data).to.deep.include({ button: false, name: '' });
  });
  it('what is no report is refused: without an id, too long, of another type, at no time', () => {
    for (const wrong of [
      { type: 'chat.received', data: { ...data, id: '' } },
      { type: 'chat.received', data: { ...data, text: 'x'.repeat(5001) } },
      { type: 'chat.received', data: { ...data, at: 'soon' } },
      { type: 'chat.read', data },
      { type: 'chat.form', data },
    ])
      expect(ChatReport.safeParse(wrong).success, JSON.stringify(wrong).slice(0, 60)).to.equal(false);
    const form = { ...data, form: 'f', token: 't', answers: { q: 'a' } };
    expect(ChatReport.safeParse({ type: 'chat.form', data: form }).success).to.equal(true);
    expect(
      ChatReport.safeParse({ type: 'chat.form', data: { ...form, answers: { ['q'.repeat(101)]: 'a' } } }).success,
    ).to.equal(false);
  });
});
