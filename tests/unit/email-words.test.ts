import { expect } from 'chai';
import { type Block, blankBlock, EmailLayout } from '../../src/core/email/layout.ts';
import { layoutLinks } from '../../src/core/email/layout-links.ts';
import { layoutProblems } from '../../src/core/email/layout-problems.ts';
import { subjectProblems } from '../../src/core/email/subject-problems.ts';
import { layoutText, toMjml } from '../../src/core/email/to-mjml.ts';

const blocks = (...list: Block[]) =>
  EmailLayout.parse({ as: 'blocks', blocks: list }) as Extract<EmailLayout, { as: 'blocks' }>;
const text = (words: string): Block => ({ id: 't', kind: 'text', text: words, align: 'left' });
const picture = (more: object = {}): Block => ({
  ...{ id: 'p', kind: 'picture', file: null, address: 'https://a.example/p.png', alt: 'A cello', link: '' },
  ...more,
});
const button = (label: string, link: string): Block => ({ id: 'b', kind: 'button', label, link, align: 'left' });
const social = (...links: { name: string; address: string }[]): Block => ({ id: 's', kind: 'social', links });
const OUT = '{{ lead.leave_link }}';

describe('what readers of an email would stumble over', () => {
  const of = (layout: EmailLayout, html = OUT) => layoutProblems(layout, html).map(({ text }) => text);
  const html = (source: string) => of({ as: 'html', html: source });
  const cases: [string, () => string[], string[]][] = [
    ['a script', () => html('<SCRIPT src=x>'), ['Mail programs do not run scripts: take them out.']],
    [
      'a picture without words',
      () => html('<img src="x"><p alt="no">'),
      ['A picture has no words for those who do not see it (alt).'],
    ],
    ['a picture with words', () => html('<img src="x" class="y" alt="A cello">'), []],
    ['nothing at all', () => html('  '), ['The email is empty.']],
    ['an empty link', () => html('<a class="x" href = " ">x</a>'), ['A link leads nowhere.']],
    ['an empty link in single quotes', () => html("<a href='  '>x</a>"), ['A link leads nowhere.']],
    ['a link to its own page', () => html('<a href=#top>x</a>'), ['A link leads nowhere.']],
    ['a good link', () => html('<a href="https://a.example">x</a><abbr>'), []],
    ['no block', () => of(blocks()), ['The email is empty: add a block.']],
    ['a block of words', () => of(blocks(text('Hi'))), []],
    [
      'a picture from nowhere',
      () => of(blocks(picture({ address: ' ' }))),
      ['Picture: choose a file or give its address.'],
    ],
    [
      'a picture kept here',
      () => of(blocks(picture({ address: '', file: '0199b3a0-0000-7000-8000-00000000000a' }))),
      [],
    ],
    [
      'a picture that says nothing',
      () => of(blocks(picture({ alt: ' ' }))),
      ['Picture: say what it shows, for those who do not see it.'],
    ],
    [
      'a picture that leads nowhere',
      () => of(blocks(picture({ link: 'nowhere' }))),
      ['Picture: its link leads nowhere.'],
    ],
    ['a picture that leads somewhere', () => of(blocks(picture({ link: ' https://a.example ' }))), []],
    ['a button that says nothing', () => of(blocks(button(' ', 'https://a.example'))), ['Button: it says nothing.']],
    ['a button that leads nowhere', () => of(blocks(button('Go', ''))), ['Button: its link leads nowhere.']],
    [
      'a social link that leads nowhere',
      () => of(blocks(social({ name: 'A', address: 'https://a.example' }, { name: 'B', address: 'b' }))),
      ['Social: a link leads nowhere.'],
    ],
    ['social links', () => of(blocks(social({ name: 'A', address: ' https://a.example ' }))), []],
    [
      'blocks inside columns',
      () => of(blocks({ id: 'c', kind: 'columns', left: [], right: [button('Go', 'x') as never] })),
      ['Button: its link leads nowhere.'],
    ],
  ];
  for (const [what, found, expected] of cases)
    it(`${what}: ${expected[0] ?? 'nothing'}`, () => expect(found()).to.deep.equal(expected));

  const good = [
    'https://a.example',
    'HTTP://a.example/x',
    'http://localhost:4321',
    'http://127.0.0.1/x',
    'mailto:a@b.example',
    'tel:+44 7700 900123',
    '{{ found.link }}',
    '{{ found.link }}?x=1',
    ' https://a.example ',
  ];
  for (const link of good)
    it(`“${link}” leads somewhere`, () => expect(of(blocks(button('Go', link)))).to.deep.equal([]));
  for (const link of [
    'https://',
    'https://a',
    'a.example',
    'javascript:x',
    'mailto:a',
    'tel:x',
    'x https://a.example',
    '{{ a\nb }}',
  ])
    it(`“${link}” leads nowhere`, () => expect(of(blocks(button('Go', link)))).to.have.length(1));

  it('no way out and too heavy, told of the whole', () => {
    const layout = blocks(text('Hi'));
    expect(of(layout, 'lead.leave_links')[0]).to.match(/^No unsubscribe link/);
    expect(of(layout, OUT.padEnd(100 * 1024))).to.deep.equal([]);
    expect(of(layout, OUT.padEnd(100 * 1024 + 1))[0]).to.match(/^The email is heavier/);
    expect(of(layout, OUT + '€'.repeat(34_200))[0], 'bytes count, not letters').to.match(/^The email is heavier/);
  });
  it('a subject in capitals, with a row of marks, or longer than inboxes show', () => {
    const told = (subject: string) => subjectProblems(subject).map((problem) => problem.split(':')[0]!);
    expect(told('Your trial lesson, {{ lead.first_name }}!')).to.deep.equal([]);
    expect(told('RSVP: OK?')).to.deep.equal([]);
    expect(told('OPEN DAY NOW')).to.deep.equal(['The subject is in capitals']);
    expect(told('ABCDEFGabc'), 'seven of ten').to.deep.equal([]);
    expect(told('Come!!')).to.deep.equal(['The subject has a row of exclamation marks']);
    expect(told('Come! See! Hear!')).to.deep.equal(['The subject has a row of exclamation marks']);
    expect(told('Come! See!')).to.deep.equal([]);
    expect(told('x'.repeat(120))).to.deep.equal([]);
    expect(told('🎹'.repeat(121))).to.deep.equal(['The subject is longer than inboxes show']);
  });
});

describe('an email of blocks', () => {
  const made = (...list: Block[]) =>
    /<mj-body[^>]*>\n([\s\S]*)\n<\/mj-body>/.exec(toMjml(blocks(...list), (id) => `/kept/${id}`))![1]!;
  const words = (...list: Block[]) => layoutText(blocks(...list));
  it('paragraphs at empty lines, breaks at others, bold, and links that end before the full stop', () => {
    expect(made(text(' A\r\nb \r\r\n\n **C** https://a.example/x.'))).to.contain(
      '<p style="margin:0 0 1em">A<br>b</p>\n<p style="margin:0 0 1em"><strong>C</strong> <a href="https://a.example/x">https://a.example/x</a>.</p>',
    );
    expect(words(text('**C** and *d*'))).to.equal('C and *d*');
  });
  it('a picture is where it is kept, or at its address, linked where that is wished; without either it is nothing', () => {
    const file = '0199b3a0-0000-7000-8000-00000000000a';
    expect(made(picture({ file }))).to.contain(`<mj-image src="/kept/${file}" alt="A cello" />`);
    expect(made(picture({ link: ' {{ found["a b"] }} ' }))).to.contain(
      `<mj-image src="https://a.example/p.png" alt="A cello" href="{{ found['a b'] }}" />`,
    );
    expect(made(picture({ address: ' ' }))).to.contain('<mj-column></mj-column>');
    expect(words(picture({ link: 'https://b.example' }))).to.equal('A cello: https://b.example');
    expect([words(picture({ link: ' ' })), words(picture({ alt: ' ' }))]).to.deep.equal(['A cello', '']);
  });
  it('social links stand in a row; those without a name or an address are left out, and none are nothing', () => {
    const links = social(
      { name: 'A', address: 'https://a.example' },
      { name: ' ', address: 'https://b.example' },
      { name: 'C', address: ' ' },
      { name: 'D', address: 'https://d.example' },
    );
    expect(made(links)).to.contain('<a href="https://a.example">A</a> &nbsp;·&nbsp; <a href="https://d.example">D</a>');
    expect(made(social({ name: 'A', address: '' }))).to.contain('<mj-column></mj-column>');
    expect(
      words(social({ name: 'A', address: 'https://a.example' }, { name: 'B', address: 'https://b.example' })),
    ).to.equal('A: https://a.example\nB: https://b.example');
  });
  it('two columns stand side by side and are read one after the other', () => {
    const columns: Block = {
      id: 'c',
      kind: 'columns',
      left: [text('L') as never, blankBlock('divider', 'd') as never],
      right: [text('R') as never],
    };
    expect(made(columns)).to.match(
      /<mj-section[^>]*><mj-column><mj-text[^>]*><p[^>]*>L<\/p><\/mj-text><mj-divider [^>]*\/><\/mj-column><mj-column><mj-text[^>]*><p[^>]*>R<\/p>/,
    );
    expect(words(columns)).to.equal('L\n\n- - -\n\nR');
  });
  it('heading, button, divider and footer, each in its place and colour', () => {
    const heading: Block = { id: 'h', kind: 'heading', text: 'A < B', align: 'center' };
    expect(made(heading, button('Go', 'https://a.example'))).to.match(
      /<mj-text align="center" font-size="24px"[^>]*>A &lt; B<\/mj-text>[\s\S]*\n<mj-section[\s\S]*<mj-button align="left" href="https:\/\/a.example" background-color="#1c6e52">Go</,
    );
    expect(made(blankBlock('footer', 'f'))).to.match(
      /^<mj-section padding="12px 0"><mj-column><mj-text align="center" font-size="13px"[^>]*><p/,
    );
    expect(
      words(
        heading,
        button('Go', 'https://a.example'),
        blankBlock('divider', 'd'),
        text(' '),
        blankBlock('footer', 'f'),
      ),
    ).to.equal(
      'A < B\n\nGo: https://a.example\n\n- - -\n\n{{ business.name }}\n\nNo more of these emails: {{ lead.leave_link }}',
    );
  });
  it('its links are those that lead out: of words, buttons, pictures and rows, each once', () => {
    const all = blocks(
      text('See https://a.example/x, and https://a.example/x.'),
      button('Go', ' https://b.example '),
      picture({ link: 'https://c.example' }),
      social({ name: 'D', address: 'https://d.example' }),
      button('Write', 'mailto:a@b.example'),
      button('Field', '{{ found.link }}'),
    );
    expect(layoutLinks(all).map(({ blockId, address }) => `${blockId} ${address}`)).to.deep.equal([
      ...['t https://a.example/x', 'b https://b.example', 'p https://c.example', 's https://d.example'],
    ]);
    expect(
      layoutLinks({ as: 'html', html: '<a HREF = "https://a.example/x?">A</a> href=https://b.example href="#"' }),
    ).to.deep.equal([
      { blockId: null, address: 'https://a.example/x' },
      { blockId: null, address: 'https://b.example' },
    ]);
  });
});
