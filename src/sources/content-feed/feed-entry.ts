/** One entry of a feed, in whichever format it was written. */
export interface FeedEntry {
  /** RSS: the guid, else the link, else the title, else what its description is (RSS 2.0). Atom: the id (RFC 4287 §4.2.6). JSON Feed: the id. */
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
