import { z } from 'zod';
import { readAs } from '../../core/read-as.ts';
import type { FeedEntry } from './feed-entry.ts';

/** Whatever is of another kind than it should be counts as not there: a feed is not thrown away for one wrong date. */
const text = z.string().catch('');
const list = <T extends z.ZodType>(of: T) => z.array(of).catch([]);
const Author = z.object({ name: text }).catch({ name: '' });

const Item = z.object({
  /** JSON Feed 1.1: a number is taken as its text. */
  id: z.union([z.string(), z.number().transform(String)]).catch(''),
  url: text,
  external_url: text,
  title: text,
  content_html: text,
  content_text: text,
  summary: text,
  date_published: text,
  date_modified: text,
  authors: list(Author),
  /** JSON Feed 1. */
  author: Author.optional().catch(undefined),
  tags: list(text),
  attachments: list(z.object({ url: text })),
});
const JsonFeed = z.object({
  version: z.string().startsWith('https://jsonfeed.org/version/1'),
  title: text,
  items: z.array(z.unknown()),
});

/**
 * A JSON Feed (versions 1 and 1.1, jsonfeed.org).
 *
 * @param plain what people would read of HTML
 * @param under an address by the one the feed was fetched from
 */
export function readJsonFeed(
  source: string,
  { plain, under }: { plain: (html: string) => string; under: (link: string) => string },
): { ok: true; title: string; entries: FeedEntry[] } | { ok: false; problem: string } {
  let value: unknown;
  try {
    value = JSON.parse(source);
  } catch {
    return { ok: false, problem: 'The feed is broken JSON.' };
  }
  const feed = readAs(JsonFeed, value);
  if (!feed.success)
    return { ok: false, problem: 'This is JSON, but no JSON Feed. Paste the address of the feed itself.' };
  const { title, items } = feed.data;
  return {
    ok: true,
    title,
    entries: items.flatMap((one): FeedEntry[] => {
      const read = readAs(Item, one);
      if (!read.success || read.data.id === '') return [];
      const item = read.data;
      const summary = item.summary || item.content_text || plain(item.content_html);
      return [
        {
          id: item.id,
          title: item.title || summary.split('\n')[0]!.slice(0, 100),
          link: under(item.url || item.external_url),
          summary,
          author: item.authors.map(({ name }) => name).find(Boolean) ?? item.author?.name ?? '',
          published: item.date_published || item.date_modified,
          categories: item.tags.filter(Boolean),
          enclosure: under(item.attachments[0]?.url ?? ''),
        },
      ];
    }),
  };
}
