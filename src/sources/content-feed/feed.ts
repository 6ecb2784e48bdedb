import { createHash } from 'node:crypto';
import { compile } from 'html-to-text';
import { decodeXml, xmlDanger } from '../../core/xml/xml.ts';
import { BrokenXml, childOf, childrenOf, ownText, readXmlTree, type XmlElement } from '../../core/xml/xml-tree.ts';
import type { FeedEntry } from './feed-entry.ts';
import { readJsonFeed } from './json-feed.ts';

export type Feed = { ok: true; title: string; entries: FeedEntry[] } | { ok: false; problem: string };

/** What people would read of HTML: no tags, no addresses of links and pictures, no shouting. */
const compiled = compile({
  wordwrap: false,
  limits: { maxDepth: 60, maxChildNodes: 2000 },
  selectors: [
    { selector: 'a', options: { ignoreHref: true } },
    { selector: 'img', format: 'skip' },
    ...['h1', 'h2', 'h3', 'h4', 'h5', 'h6'].map((selector) => ({ selector, options: { uppercase: false } })),
  ],
});
const MOST_HTML = 100_000;
const readHtml = (html: string) => compiled(html.slice(0, MOST_HTML));

/** The characters of a piece of XML: elements within it are left out with their words kept, entities read once, CDATA as it is. */
function once(raw: string): string {
  const words: string[] = [];
  for (let at = 0; at < raw.length; ) {
    const open = raw.indexOf('<![CDATA[', at);
    const shut = open < 0 ? -1 : raw.indexOf(']]>', open);
    const plain = raw.slice(at, shut < 0 ? raw.length : open);
    words.push(plain.trim() === '' ? plain : readHtml(plain));
    if (shut < 0) break;
    words.push(raw.slice(open + 9, shut));
    at = shut + 3;
  }
  return words.join('').trim();
}

const MARKUP = /<\/?[a-z][^<>]*>|&(?:#\d+|#x[\da-f]+|[a-z]+\d*);/i;

/** Words of an element for people. RSS says nothing of what its text is, and everybody writes HTML there; Atom says (RFC 4287 §3.1.1). */
function words(element: XmlElement | undefined): string {
  const type = attribute(element, 'type');
  const said = once(element?.inner ?? '');
  if (type === 'text' || type === 'xhtml') return said;
  return MARKUP.test(said) ? readHtml(said).trim() : said;
}

/** An address by the base it stands under (XML Base), "" for none. */
function under(bases: (XmlElement | undefined)[], start: string, link: string): string {
  if (link === '') return '';
  let base = start;
  for (const element of bases) {
    const own = attribute(element, 'xml:base');
    if (own !== '' && URL.canParse(own, base || undefined)) base = new URL(own, base || undefined).href;
  }
  return URL.canParse(link, base || undefined) ? new URL(link, base || undefined).href : link;
}

/** RFC 822 §5: the zone by its offset, or by one of the names it has. Other names mean different things to different people. */
const RFC_822 =
  /^(?:[a-z]{3},\s*)?\d{1,2} [a-z]{3} \d{2,4} \d{2}:\d{2}(?::\d{2})? (?:[+-]\d{4}|ut|gmt|z|[ecmp][sd]t)$/i;
function dateOf(written: string): string {
  const plain = written.trim().replace(/\s+/g, ' ');
  const at = RFC_822.test(plain) ? Date.parse(plain.replace(/ ut$/i, ' GMT')) : Number.NaN;
  return Number.isNaN(at) ? plain : new Date(at).toISOString().replace('.000Z', 'Z');
}

/** The words of the first child of that name; "" when there is none. */
const said = (element: XmlElement, name: string): string => ownText(childOf(element, name));
const attribute = (element: XmlElement | undefined, name: string): string => element?.attributes[name]?.trim() ?? '';

/** Reads RSS 2.0, Atom (RFC 4287) or JSON Feed; newest first or oldest first, as the feed has it. `address` is where it was fetched from. */
export function readFeed(bytes: Uint8Array, address = ''): Feed {
  const source = decodeXml(bytes);
  if (source === null) return { ok: false, problem: 'The feed is not in the encoding it says.' };
  if (/^\s*\{/.test(source))
    return readJsonFeed(source, {
      plain: (html) => readHtml(html).trim(),
      under: (link) => under([], address, link),
    });
  const danger = xmlDanger(source);
  if (danger) return { ok: false, problem: danger.problem };
  let root: XmlElement;
  try {
    root = readXmlTree(source);
  } catch (error) {
    if (!(error instanceof BrokenXml)) throw error;
    return { ok: false, problem: `The feed is broken XML, at line ${error.line}.` };
  }
  const channel = root.name === 'rss' ? childOf(root, 'channel') : undefined;
  if (channel) {
    const bases = [root, channel];
    const home = under(bases, address, said(channel, 'link'));
    const entries = childrenOf(channel, 'item').map((item) => fromRss(item, bases, home || address));
    return { ok: true, title: words(childOf(channel, 'title')), entries: entries.filter(hasId) };
  }
  if (root.name === 'feed') {
    const entries = childrenOf(root, 'entry').map((entry) => fromAtom(entry, root, address));
    return { ok: true, title: words(childOf(root, 'title')), entries: entries.filter(hasId) };
  }
  return {
    ok: false,
    problem: 'This is neither an RSS 2.0 nor an Atom nor a JSON feed. Paste the address of the feed itself.',
  };
}

const hasId = (entry: FeedEntry) => entry.id !== '';

function fromRss(item: XmlElement, bases: XmlElement[], home: string): FeedEntry {
  const link = said(item, 'link');
  const [title, description] = [childOf(item, 'title'), childOf(item, 'description')];
  const inner = description?.inner.trim() ?? '';
  const at = (address: string) => under([...bases, item], home, address);
  return {
    id:
      said(item, 'guid') ||
      link ||
      once(title?.inner ?? '') ||
      // Nothing but a description: what it says is what it is.
      (inner && `text:${createHash('sha256').update(inner).digest('hex')}`),
    title: words(title) || words(description).split('\n')[0]!.slice(0, 100),
    link: at(link),
    summary: words(description),
    author: said(item, 'author') || said(item, 'dc:creator'),
    published: dateOf(said(item, 'pubDate') || said(item, 'dc:date')),
    categories: childrenOf(item, 'category').map(ownText).filter(Boolean),
    enclosure: at(attribute(childOf(item, 'enclosure'), 'url')),
  };
}

function fromAtom(entry: XmlElement, feed: XmlElement, address: string): FeedEntry {
  const links = childrenOf(entry, 'link');
  const rel = (name: string) => links.find((link) => (attribute(link, 'rel') || 'alternate') === name);
  const at = (one: XmlElement | undefined) => under([feed, entry, one], address, attribute(one, 'href'));
  const author = childOf(entry, 'author');
  return {
    id: said(entry, 'id') || attribute(rel('alternate'), 'href'),
    title: words(childOf(entry, 'title')),
    link: at(rel('alternate') ?? links[0]),
    summary: words(childOf(entry, 'summary')) || words(childOf(entry, 'content')),
    author: author ? said(author, 'name') : '',
    published: dateOf(said(entry, 'published') || said(entry, 'updated')),
    categories: childrenOf(entry, 'category')
      .map((xmlElement) => attribute(xmlElement, 'term'))
      .filter(Boolean),
    enclosure: at(rel('enclosure')),
  };
}
