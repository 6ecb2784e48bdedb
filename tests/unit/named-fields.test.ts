import { expect } from 'chai';
import { emailHtml, escapeHtml, headerText, withPreheader } from '../../src/core/template/email-html.ts';
import {
  type FieldReference,
  GROUP_LABELS,
  readReference,
  referenceLabel,
  writeReference,
} from '../../src/core/template/field-reference.ts';
import { meantField } from '../../src/core/template/meant-field.ts';
import {
  allConsents,
  fieldValue,
  knownOf,
  LEAVE_PLACE,
  messageScope,
  startContext,
  templateScope,
  typedValues,
  withValues,
} from '../../src/core/workflow/run-context.ts';
import { nadia } from '../stage/sheets.ts';

describe('a field by its name', () => {
  const written: [FieldReference, string][] = [
    [{ group: 'lead', key: 'first_name' }, 'lead.first_name'],
    [{ group: 'answers', key: 'contact.city' }, 'answers["contact.city"]'],
    [{ group: 'own', key: '2nd' }, 'own["2nd"]'],
    [{ group: 'item', key: 'price_2' }, 'item.price_2'],
  ];
  for (const [reference, text] of written)
    it(`${text} is written and read back`, () => {
      expect(writeReference(reference)).to.equal(text);
      expect(readReference(` ${text} `)).to.deep.equal(reference);
    });
  it('reads single quotes too, of every group, and nothing else', () => {
    expect(readReference("answers['contact.city']")).to.deep.equal({ group: 'answers', key: 'contact.city' });
    for (const group of Object.keys(GROUP_LABELS)) expect(readReference(`${group}.x`)?.group).to.equal(group);
    for (const none of [
      'lead',
      'lead.',
      'leads.x',
      'my.lead.x',
      'lead.x.y',
      'lead.2x',
      'lead[""]',
      'lead["x',
      'lead["x"] y',
      '',
      'lead["a\'b"] | upcase',
    ])
      expect(readReference(none), none).to.equal(null);
    expect(writeReference({ group: 'own', key: 'a "b"' }), 'no quote ends it early').to.equal('own["a b"]');
  });
  const labels: [FieldReference, string][] = [
    [{ group: 'lead', key: 'full_name' }, 'Full name'],
    [{ group: 'lead', key: 'leave_link' }, 'Leave link'],
    [{ group: 'where', key: 'campaign' }, 'Ad campaign'],
    [{ group: 'where', key: 'odd_thing' }, 'Odd thing'],
    [{ group: 'business', key: 'name' }, 'Business name'],
    [{ group: 'business', key: 'town' }, 'Town'],
    [{ group: 'source', key: 'name' }, 'Source name'],
    [{ group: 'source', key: 'kind' }, 'Kind'],
    [{ group: 'owner', key: 'name' }, 'Owner'],
    [{ group: 'owner', key: 'email' }, 'Owner email'],
    [{ group: 'record', key: 'last_reply' }, 'Last reply'],
    [{ group: 'record', key: 'shoe_size' }, 'Shoe size'],
    [{ group: 'happened', key: 'text' }, 'Their reply'],
    [{ group: 'happened', key: 'shoe_size' }, 'Shoe size'],
    [{ group: 'answers', key: 'which' }, 'Which instrument?'],
    [{ group: 'answers', key: 'lesson_day' }, 'Lesson day'],
    [{ group: 'own', key: 'which' }, 'Which instrument?'],
  ];
  for (const [reference, label] of labels)
    it(`${writeReference(reference)} is called ${label}`, () =>
      expect(referenceLabel(reference, new Map([['which', 'Which instrument?']]))).to.equal(label));
});

describe('the field somebody meant', () => {
  const known: FieldReference[] = [
    { group: 'lead', key: 'first_name' },
    { group: 'lead', key: 'email' },
    { group: 'answers', key: 'instrument' },
    { group: 'own', key: 'x' },
  ];
  const meant: [string, string | null][] = [
    ['lead.FirstName', 'lead.first_name'],
    ['contact.first_name', 'lead.first_name'],
    ['First name', 'lead.first_name'],
    ['lead.frist_name', 'lead.first_name'],
    ['answers["instrumnet"]', 'answers.instrument'],
    ['lead.emial', 'lead.email'],
    ['lead.emai', 'lead.email'],
    ['lead.town', null],
    ['', null],
    ['.', null],
    ['y', null],
  ];
  for (const [typed, is] of meant)
    it(`“${typed}”: ${is ?? 'none is near'}`, () => {
      const found = meantField(typed, known);
      expect(found ? writeReference(found) : null).to.equal(is);
    });
  it('goes by what the source calls its fields, and rather by the whole name than by its last word', () => {
    expect(meantField('Which one', known, new Map([['instrument', 'Which one?']]))?.key).to.equal('instrument');
    const two: FieldReference[] = [
      { group: 'answers', key: 'email' },
      { group: 'lead', key: 'email' },
    ];
    expect(meantField('Lead.email', two)?.group).to.equal('lead');
  });
});

describe('what a run knows of somebody', () => {
  const context = nadia({
    own: { level: 'C' },
    owner: { id: 'o', name: 'Tomas', email: 't@wrenfield.example' },
    happened: { text: 'Yes' },
  });
  it('begins with what the arrival says, and with what was known where it says nothing', () => {
    const known = { first_name: 'N', last_name: 'Okafor', email: 'old@example.com', phone: '+447700900142' };
    const draft = { person: { first_name: 'Nadia', last_name: '', email: '', phone: '' }, answers: { a: '1' } };
    const made = startContext(draft, known, {
      where: {},
      business: context.business,
      source: context.source,
      consent: context.consent,
    });
    expect(made.person).to.deep.equal({ ...known, first_name: 'Nadia' });
    expect([made.tags, made.lists, made.member, made.zone, made.lastChatAt]).to.deep.equal([[], {}, {}, null, null]);
    expect(made.marketing).to.deep.equal({ text: 'unknown', email: 'unknown', chat: 'unknown' });
    expect(allConsents({ text: 'given' })).to.deep.equal({ text: 'given', email: 'unknown', chat: 'unknown' });
  });
  it('names nobody by a link, and greets nobody by what is no name', () => {
    const named = (first_name: string, last_name: string) =>
      templateScope(nadia({ person: { ...context.person, first_name, last_name } })).lead;
    expect(named('Mr.', 'Venn')).to.deep.include({ first_name: '', full_name: 'Mr. Venn' });
    expect(named('https://win.example', 'www.win.example')).to.deep.include({ full_name: '', last_name: '' });
    expect(templateScope(nadia()).owner).to.deep.equal({ name: '', email: '' });
    expect(templateScope(context).owner).to.deep.equal({ name: 'Tomas', email: 't@wrenfield.example' });
  });
  it('puts no more into a message than anybody is called, or a field has reason to be', () => {
    const long = nadia({
      person: { ...context.person, first_name: 'N'.repeat(61) },
      answers: { a: 'x'.repeat(501), b: 'x'.repeat(500) },
      own: { c: `${'y'.repeat(496)}  zzzz` },
    });
    const { lead, answers, own } = messageScope(long, 0);
    expect(lead.first_name).to.equal(`${'N'.repeat(57)}...`);
    expect(answers.a).to.equal(`${'x'.repeat(497)}...`);
    expect(answers.b).to.have.length(500);
    expect(own.c).to.equal(`${'y'.repeat(496)}...`);
    expect([lead.email, lead.leave_link]).to.deep.equal(['nadia@example.com', LEAVE_PLACE]);
    expect(typedValues(context)).to.include.members(['Nadia', 'Piano', 'C', 'Yes']);
  });
  it('gives a field by its name, and a sample with some of its values changed', () => {
    expect([
      fieldValue(context, 'own.level'),
      fieldValue(context, 'own.none'),
      fieldValue(context, 'none'),
    ]).to.deep.equal(['C', null, null]);
    const { value } = knownOf(context, 0);
    expect([value('answers.instrument'), value('answers.none'), value('none')]).to.deep.equal(['Piano', null, null]);
    const changed = withValues(context, {
      'lead.phone': '+1',
      'lead.shoe': '9',
      'answers.instrument': 'Harp',
      'own.level': 'A',
      'where.page': 'x',
      none: 'x',
    });
    expect([
      changed.person.phone,
      'shoe' in changed.person,
      changed.answers.instrument,
      changed.own.level,
    ]).to.deep.equal(['+1', false, 'Harp', 'A']);
    expect(context.answers.instrument, 'the sample itself is left as it is').to.equal('Piano');
  });
});

describe('a plain email as HTML', () => {
  const body = (text: string, preheader?: string) =>
    /<body[^>]*>\n([\s\S]*)<\/body>/.exec(emailHtml(text, preheader))![1];
  it('has paragraphs at empty lines, breaks at others, and links of addresses without what ends the sentence', () => {
    expect(body(' One\r\ntwo \r\r\n\n\n See https://a.example/x?b=1. ')).to.equal(
      '<div style="max-width:560px">\n<p style="margin:0 0 1em">One<br>\ntwo</p>\n<p style="margin:0 0 1em">See <a href="https://a.example/x?b=1">https://a.example/x?b=1</a>.</p>\n</div>',
    );
  });
  it('lets nothing in become markup', () => {
    expect(escapeHtml(`<a b="c" d='e'>&`)).to.equal('&lt;a b=&quot;c&quot; d=&#39;e&#39;&gt;&amp;');
    expect(body('<b>')).to.contain('&lt;b&gt;');
    expect(body('Hi', '<i>')).to.match(
      /^<div style="display:none;max-height:0;overflow:hidden">&lt;i&gt;<\/div>\n<div/,
    );
    expect(body('Hi')).to.not.contain('display:none');
  });
  it('puts what an inbox shows first into a page somebody brought', () => {
    expect(withPreheader('<BODY class="x">Hi</BODY>', 'Soon')).to.match(
      /^<BODY class="x"><div style="display:none[^>]*>Soon<\/div>\nHi/,
    );
    expect(withPreheader('<body>Hi</body>', '')).to.equal('<body>Hi</body>');
  });
  it('keeps a subject to one line', () => {
    expect(headerText(' a\r\nBcc: x\u2028y \t z\u0000 ')).to.equal('a Bcc: x y z');
  });
});
