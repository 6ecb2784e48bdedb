import { createHash } from 'node:crypto';
import { XMLParser } from 'fast-xml-parser';
import { compile } from 'html-to-text';
import { decodeXml, xmlDanger } from '../body/xml.ts';

export interface FeedEntry {
  /** RSS: the guid, else the link, else the title, else what its description is (RSS 2.0). Atom: the id (RFC 4287 §4.2.6). */
  id: string;
  title: string;
  link: string;
  summary: string;
  author: string;
  /** ISO 8601 where the feed wrote a date of RFC 822 or RFC 3339, else as it wrote it. */
  published: string;
  categories: string[];
  /** Address of an enclosed file, like a podcast's sound. */
  enclosure: string;
}

export type Feed = { ok: true; title: string; entries: FeedEntry[] } | { ok: false; problem: string };

const LISTS = new Set(['item', 'entry', 'link', 'category', 'enclosure']);
const parser = new XMLParser({
  ignoreAttributes: false,
  attributeNamePrefix: '@',
  textNodeName: '#',
  parseTagValue: false,
  parseAttributeValue: false,
  htmlEntities: true,
  trimValues: true,
  isArray: (name) => LISTS.has(name),
  // Kept as they stand, so that elements within them (XHTML) stay in their place among the words.
  stopNodes: ['*.title', '*.summary', '*.content', '*.description'],
});

/** What people would read of HTML: no tags, no addresses of links and pictures, no shouting. */
const readHtml = compile({
  wordwrap: false,
  limits: { maxInputLength: 100_000, maxDepth: 60, maxChildNodes: 2000 },
  selectors: [
    { selector: 'a', options: { ignoreHref: true } },
    { selector: 'img', format: 'skip' },
    ...['h1', 'h2', 'h3', 'h4', 'h5', 'h6'].map((selector) => ({ selector, options: { uppercase: false } })),
  ],
});

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
function words(node: unknown): string {
  const type = Array.isArray(node) ? attribute(node[0], 'type') : attribute(node as Record<string, unknown>, 'type');
  const said = once(text(node));
  if (type === 'text' || type === 'xhtml') return said;
  return MARKUP.test(said) ? readHtml(said).trim() : said;
}

/** An address by the base it stands under (XML Base), "" for none. */
function under(bases: (Record<string, unknown> | undefined)[], start: string, link: string): string {
  if (link === '') return '';
  let base = start;
  for (const node of bases) {
    const own = attribute(node, 'xml:base');
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

type Node = Record<string, unknown> | string | undefined;
const text = (node: unknown): string => {
  if (typeof node === 'string') return node;
  if (Array.isArray(node)) return text(node[0]);
  if (node !== null && typeof node === 'object') {
    const inner = (node as Record<string, unknown>)['#'];
    return typeof inner === 'string' ? inner : '';
  }
  return '';
};
const list = (node: unknown): Record<string, unknown>[] =>
  (Array.isArray(node) ? node : node === undefined ? [] : [node]).map((one) =>
    typeof one === 'string' ? { '#': one } : (one as Record<string, unknown>),
  );
const attribute = (node: Record<string, unknown> | undefined, name: string): string => {
  const value = node?.[`@${name}`];
  return typeof value === 'string' ? value : '';
};

/** Reads RSS 2.0 or Atom (RFC 4287); newest first or oldest first, as the feed has it. `address` is where it was fetched from. */
export function readFeed(bytes: Uint8Array, address = ''): Feed {
  const source = decodeXml(bytes);
  if (source === null) return { ok: false, problem: 'The feed is not in the encoding it says.' };
  const danger = xmlDanger(source);
  if (danger) return { ok: false, problem: danger.problem };
  let value: Record<string, unknown>;
  try {
    value = parser.parse(source, true) as Record<string, unknown>;
  } catch (error) {
    const line = /line (\d+)/i.exec((error as Error).message)?.[1];
    return { ok: false, problem: `The feed is broken XML${line ? `, at line ${line}` : ''}.` };
  }
  const channel = (value.rss as Record<string, Node> | undefined)?.channel as Record<string, unknown> | undefined;
  if (channel !== undefined && typeof channel === 'object') {
    const bases = [value.rss as Record<string, unknown>, channel];
    const home = under(bases, address, text(channel.link));
    const entries = list(channel.item).map((item) => fromRss(item, bases, home || address));
    return { ok: true, title: words(channel.title), entries: entries.filter(hasId) };
  }
  const feed = value.feed as Record<string, unknown> | undefined;
  if (feed !== undefined && typeof feed === 'object') {
    const entries = list(feed.entry).map((entry) => fromAtom(entry, feed, address));
    return { ok: true, title: words(feed.title), entries: entries.filter(hasId) };
  }
  return { ok: false, problem: 'This is neither an RSS 2.0 nor an Atom feed. Paste the address of the feed itself.' };
}

const hasId = (entry: FeedEntry) => entry.id !== '';

function fromRss(item: Record<string, unknown>, bases: Record<string, unknown>[], home: string): FeedEntry {
  const link = text(item.link);
  const [title, description] = [text(item.title), text(item.description)];
  const at = (address: string) => under([...bases, item], home, address);
  return {
    id:
      text(item.guid) ||
      link ||
      once(title) ||
      // Nothing but a description: what it says is what it is.
      (description && `text:${createHash('sha256').update(description).digest('hex')}`),
    title: words(item.title) || words(item.description).split('\n')[0]!.slice(0, 100),
    link: at(link),
    summary: words(item.description),
    author: text(item.author) || text(item['dc:creator']),
    published: dateOf(text(item.pubDate) || text(item['dc:date'])),
    categories: list(item.category).map(text).filter(Boolean),
    enclosure: at(attribute(list(item.enclosure)[0], 'url')),
  };
}

function fromAtom(entry: Record<string, unknown>, feed: Record<string, unknown>, address: string): FeedEntry {
  const links = list(entry.link);
  const rel = (name: string) => links.find((one) => (attribute(one, 'rel') || 'alternate') === name);
  const at = (one: Record<string, unknown> | undefined) => under([feed, entry, one], address, attribute(one, 'href'));
  return {
    id: text(entry.id) || attribute(rel('alternate'), 'href'),
    title: words(entry.title),
    link: at(rel('alternate') ?? links[0]),
    summary: words(entry.summary) || words(entry.content),
    author: text(list(entry.author)[0]?.name),
    published: dateOf(text(entry.published) || text(entry.updated)),
    categories: list(entry.category)
      .map((one) => attribute(one, 'term'))
      .filter(Boolean),
    enclosure: at(rel('enclosure')),
  };
}
