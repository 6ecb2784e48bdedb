import { z } from 'zod';
import { storableText } from '../../core/fields/field.ts';
import type { SourceKind, SourceReading } from '../../core/source/source-kind.ts';
import { readBodyAs } from '../body/read-body-as.ts';

const Settings = z.object({
  address: z.string(),
  feedTitle: z.string(),
});
export type FeedSettings = z.infer<typeof Settings>;

const Entry = z.object({
  id: z.string().min(1),
  title: z.string(),
  link: z.string(),
  summary: z.string(),
  author: z.string(),
  published: z.string(),
  categories: z.array(z.string()),
  enclosure: z.string(),
});

/** New entries of an RSS, Atom or JSON feed: an article, a podcast episode. Nobody is in it, so its runs text nobody by themselves. */
export const contentFeed: SourceKind<FeedSettings> = {
  kind: 'content-feed',
  label: 'Content feed',
  about: 'New articles or episodes of a feed (RSS, Atom or JSON Feed), to tell the team or to write about.',
  icon: 'rss',
  settings: Settings,
  brings: 'news',
  comesBy: 'fetched',
  changeable: [],
  contentType: 'application/json',
  signedBy: () => ({ way: 'nobody' }),
  read: async (raw): Promise<SourceReading> => {
    const read = await readBodyAs(raw, Entry, 'an entry of a feed');
    if (!read.ok) return read;
    const { id, categories, ...entry } = read.data;
    const field = (key: string, label: string, value: string) => ({
      key,
      label,
      value: storableText(value).slice(0, 20_000),
    });
    return {
      ok: true,
      entries: [
        {
          externalId: id,
          fields: [
            field('title', 'Title', entry.title),
            field('link', 'Link', entry.link),
            field('summary', 'Summary', entry.summary),
            field('author', 'Author', entry.author),
            field('published', 'Published', entry.published),
            field('categories', 'Categories', categories.join(', ')),
            field('enclosure', 'Enclosed file', entry.enclosure),
          ],
          whereFrom: {},
        },
      ],
    };
  },
};
