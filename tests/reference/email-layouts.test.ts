import { expect } from 'chai';
import fc from 'fast-check';
import { parseDocument } from 'htmlparser2';
import mjmlCore from 'mjml-core';
import mjmlPreset from 'mjml-preset-core';
import {
  type Block,
  type BlockKind,
  blankBlock,
  copyBlock,
  EmailLayout,
  everyBlock,
} from '../../src/core/email/layout.ts';
import { layoutProblems } from '../../src/core/email/layout-problems.ts';
import { layoutText, toMjml } from '../../src/core/email/to-mjml.ts';
import { renderTemplate } from '../../src/core/template/template.ts';
import { scopeOf } from '../stage/sheets.ts';

const exportOf = <T>(module: T): T => (module as { default?: T }).default ?? module;
const mjml2html = exportOf(mjmlCore);
const options = { presets: [exportOf(mjmlPreset)], validationLevel: 'strict' as const };
const blocks = (...list: Block[]) =>
  EmailLayout.parse({ as: 'blocks', blocks: list }) as Extract<EmailLayout, { as: 'blocks' }>;
const html = async (layout: ReturnType<typeof blocks>) =>
  (
    await mjml2html(
      toMjml(layout, (id) => `https://bell.example/kept/${id}`),
      options,
    )
  ).html;

type Node = { type: string; name?: string; data?: string; attribs?: Record<string, string>; children?: Node[] };
const all = (node: Node): Node[] => [node, ...(node.children ?? []).flatMap(all)];
const read = (source: string) => all(parseDocument(source) as unknown as Node);
const words = (nodes: Node[]) =>
  nodes
    .filter((node) => node.type === 'text')
    .map((node) => node.data)
    .join('')
    .replace(/\s+/g, ' ');
const elements = (nodes: Node[], name: string) => nodes.filter((node) => node.name === name);

/** Judges: the validator of MJML (mjml-core, strict), and htmlparser2 reading back what it makes. */
describe('emails laid out of blocks', () => {
  it('every kind of block is valid MJML, and what it says is there to be read', async () => {
    const every = (['heading', 'text', 'button', 'divider', 'columns', 'social', 'footer'] as BlockKind[]).map(
      (kind, i) => blankBlock(kind, `b${i}`),
    );
    const layout = blocks(
      ...every,
      {
        id: 'p',
        kind: 'picture',
        file: '01999999-0000-7000-8000-000000000001',
        address: '',
        alt: 'A cello',
        link: 'https://wrenfield.example',
      },
      { id: 's', kind: 'social', links: [{ name: 'Podcast', address: 'https://wrenfield.example/hour?a=1&b=2' }] },
    );
    const nodes = read(await html(layout));
    expect(elements(nodes, 'img')[0]!.attribs).to.include({
      alt: 'A cello',
      src: 'https://bell.example/kept/01999999-0000-7000-8000-000000000001',
    });
    expect(elements(nodes, 'a').map((node) => node.attribs!.href)).to.include.members([
      'https://wrenfield.example',
      'https://wrenfield.example/hour?a=1&b=2',
    ]);
    expect(words(nodes)).to.include('A heading').and.include('See more').and.include('Podcast');
    expect(layoutText(layout))
      .to.include('See more: https://')
      .and.include('Podcast: https://wrenfield.example/hour?a=1&b=2');
  });

  it('what a coordinator writes and what a lead typed is never markup, in words, addresses and alternatives', async () => {
    const layout = blocks(
      {
        id: 'a',
        kind: 'text',
        text: 'Hi {{ lead.first_name | default: "you" }} <b>& "co"</b>, **bold** https://a.example/?x=1&y=2.',
        align: 'left',
      },
      {
        id: 'b',
        kind: 'button',
        label: '<i>Go</i>',
        link: 'https://a.example/?who={{ lead.first_name | default: "x" }}',
        align: 'center',
      },
      {
        id: 'c',
        kind: 'picture',
        file: null,
        address: 'https://a.example/p.png"onerror="x',
        alt: '"quoted"',
        link: '',
      },
    );
    const filled = renderTemplate(
      await html(layout),
      scopeOf({ lead: { first_name: '<script>alert(1)</script>"' } }),
      'html',
    );
    const nodes = read(filled.ok ? filled.text : '');
    expect(elements(nodes, 'script')).to.have.length(0);
    expect(elements(nodes, 'b')).to.have.length(0);
    expect(elements(nodes, 'strong').map((node) => words(all(node)))).to.deep.equal(['bold']);
    const [link, button] = elements(nodes, 'a').map((node) => node.attribs!.href);
    expect(link).to.equal('https://a.example/?x=1&y=2');
    expect(button).to.equal('https://a.example/?who=<script>alert(1)</script>"');
    const picture = elements(nodes, 'img')[0]!.attribs!;
    expect([picture.alt, picture.onerror]).to.deep.equal(['"quoted"', undefined]);
  });

  it('any words at all make valid MJML that reads back as those words', async () => {
    await fc.assert(
      fc.asyncProperty(fc.string({ unit: 'grapheme', maxLength: 40 }), async (typed) => {
        fc.pre(!/\{[{%]|[*]|https?:|\u0000/.test(typed));
        const nodes = read(await html(blocks({ id: 'a', kind: 'heading', text: typed, align: 'left' })));
        const plain = (text: string) => text.replace(/\s+/gu, ' ').trim();
        expect(plain(words(nodes))).to.include(plain(typed));
      }),
      { numRuns: 40 },
    );
  });

  it('a field in a link of a template that runs away is stopped', () => {
    const long = renderTemplate(
      '{{ lead.first_name }}'.repeat(30),
      scopeOf({ lead: { first_name: 'x'.repeat(1_000_000) } }),
      'html',
    );
    expect(long.ok).to.equal(false);
  });

  it('says what readers would stumble over, with the place', () => {
    const found = layoutProblems(
      blocks(
        { id: 'a', kind: 'picture', file: null, address: '', alt: '', link: '' },
        { id: 'b', kind: 'button', label: 'Go', link: 'https://', align: 'left' },
        { id: 'c', kind: 'text', text: 'Hi {{ lead.first_name', align: 'left' },
      ),
      'x'.repeat(200_000),
    );
    expect(found.map((layoutProblem) => layoutProblem.blockId)).to.deep.equal(['a', 'a', 'b', 'c', null, null]);
    expect(found.at(-2)!.text).to.match(/^No unsubscribe link/);
    expect(
      layoutProblems({ as: 'html', html: '<img src="x"><script>1</script><a href="#">x</a>' }, 'lead.leave_link').map(
        (layoutProblem) => layoutProblem.text,
      ),
    ).to.have.length(3);
    const columns: Block = { id: 'c', kind: 'columns', left: [{ id: 'l', kind: 'divider' }], right: [] };
    let n = 0;
    expect(everyBlock([copyBlock(columns, () => `n${n++}`)]).map((one) => one.id)).to.deep.equal(['n0', 'n1']);
  });
});
