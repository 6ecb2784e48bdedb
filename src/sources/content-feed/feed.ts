import { XMLParser } from 'fast-xml-parser';
import { decodeXml, xmlDanger } from '../body/xml.ts';

export interface FeedEntry {
  /** RSS: the guid, else the link (RSS 2.0). Atom: the id (RFC 4287 §4.2.6). */
  id: string;
  title: string;
  link: string;
  summary: string;
  author: string;
  /** As the feed wrote it. */
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
});

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

/** Reads RSS 2.0 or Atom (RFC 4287); newest first or oldest first, as the feed has it. */
export function readFeed(bytes: Uint8Array): Feed {
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
  if (channel !== undefined && typeof channel === 'object')
    return { ok: true, title: text(channel.title), entries: list(channel.item).map(fromRss).filter(hasId) };
  const feed = value.feed as Record<string, unknown> | undefined;
  if (feed !== undefined && typeof feed === 'object')
    return { ok: true, title: text(feed.title), entries: list(feed.entry).map(fromAtom).filter(hasId) };
  return { ok: false, problem: 'This is neither an RSS 2.0 nor an Atom feed. Paste the address of the feed itself.' };
}

const hasId = (entry: FeedEntry) => entry.id !== '';

function fromRss(item: Record<string, unknown>): FeedEntry {
  const link = text(item.link);
  return {
    id: text(item.guid) || link || text(item.title),
    title: text(item.title),
    link,
    summary: text(item.description),
    author: text(item.author) || text(item['dc:creator']),
    published: text(item.pubDate),
    categories: list(item.category).map(text).filter(Boolean),
    enclosure: attribute(list(item.enclosure)[0], 'url'),
  };
}

function fromAtom(entry: Record<string, unknown>): FeedEntry {
  const links = list(entry.link);
  const rel = (name: string) => links.find((one) => (attribute(one, 'rel') || 'alternate') === name);
  return {
    id: text(entry.id) || attribute(rel('alternate'), 'href'),
    title: text(entry.title),
    link: attribute(rel('alternate') ?? links[0], 'href'),
    summary: text(entry.summary) || text(entry.content),
    author: text(list(entry.author)[0]?.name),
    published: text(entry.published) || text(entry.updated),
    categories: list(entry.category)
      .map((one) => attribute(one, 'term'))
      .filter(Boolean),
    enclosure: attribute(rel('enclosure'), 'href'),
  };
}
