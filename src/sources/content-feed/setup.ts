import { z } from 'zod';
import { retryAfterMs } from '../../core/delivery/retry-after.ts';
import {
  jsonRaw,
  type SourcePorts,
  type SourcePuller,
  type SourceSetup,
  type Trouble,
  trouble,
} from '../source-module.ts';
import type { FeedSettings } from './definition.ts';
import type { FeedEntry } from './feed-entry.ts';

const Input = z.object({
  address: z.string().trim().min(1, 'Paste the address of the feed').max(2000),
  everyMinutes: z.literal([1, 5, 15, 60]).default(15),
});
type Input = z.infer<typeof Input>;

/** Largest feed read, in bytes: 5 MiB. */
const MOST = 5 * 1024 * 1024;
const MOST_REDIRECTS = 3;
/** Ids remembered as seen; entries above it are long gone from any feed. */
const MOST_SEEN = 2000;

const Cursor = z.object({
  etag: z.string().nullable().default(null),
  modified: z.string().nullable().default(null),
  seen: z.array(z.string()).default([]),
});
type Cursor = z.infer<typeof Cursor>;

type Fetched =
  | { ok: true; unchanged: true }
  | { ok: true; unchanged: false; title: string; entries: FeedEntry[]; etag: string | null; modified: string | null };

/** Fetches a feed if it has changed since (RFC 9110 §13.1: If-None-Match, If-Modified-Since). */
async function fetchFeed(ports: SourcePorts, address: string, since: Cursor | null): Promise<Fetched | Trouble> {
  const headers: Record<string, string> = {
    accept:
      'application/rss+xml, application/atom+xml, application/feed+json, application/json;q=0.9, application/xml;q=0.8',
  };
  if (since?.etag) headers['if-none-match'] = since.etag;
  if (since?.modified) headers['if-modified-since'] = since.modified;
  let at = address;
  for (let hops = 0; ; hops++) {
    const outcome = await ports.http.call('GET', at, headers, undefined, MOST);
    if (!outcome.ok) return trouble(`The feed cannot be reached. ${outcome.detail}`);
    const { reply } = outcome;
    if (reply.status === 304) return { ok: true, unchanged: true };
    const to = reply.headers.location;
    if ([301, 302, 303, 307, 308].includes(reply.status) && to && hops < MOST_REDIRECTS && URL.canParse(to, at)) {
      at = new URL(to, at).href;
      continue;
    }
    if (reply.status !== 200)
      return {
        ...trouble(`The feed answered ${reply.status}.`),
        retryAfterMs: retryAfterMs(reply.retryAfter, ports.now),
      };
    if (reply.cut) return trouble('The feed is larger than 5 MB and was not read.');
    const feed = await ports.feed(reply.bytes, at);
    if (!feed.ok) return trouble(feed.problem);
    const { title, entries } = feed;
    return {
      ok: true,
      unchanged: false,
      title,
      entries,
      etag: reply.headers.etag ?? null,
      modified: reply.headers['last-modified'] ?? null,
    };
  }
}

export const feedSetup: SourceSetup<Input, FeedSettings> = {
  input: Input,
  async prepare(ports, input) {
    const address = /^https?:\/\//i.test(input.address) ? input.address : `https://${input.address}`;
    if (!URL.canParse(address)) return trouble('This is not a web address.');
    const feed = await fetchFeed(ports, address, null);
    if (!feed.ok) return feed;
    if (feed.unchanged) return trouble('The feed did not show itself.');
    const cursor: Cursor = {
      etag: feed.etag,
      modified: feed.modified,
      // New ones only: what is there now has been seen.
      seen: feed.entries.map((entry) => entry.id).slice(0, MOST_SEEN),
    };
    return {
      ok: true,
      name: (feed.title || new URL(address).host).slice(0, 100),
      settings: { address, feedTitle: feed.title },
      pull: { everyMinutes: input.everyMinutes, cursor, backlog: 0 },
    };
  },
};

export const feedPuller: SourcePuller<FeedSettings> = {
  async *pull(ports, settings, stored) {
    const cursor = Cursor.parse(stored ?? {});
    const feed = await fetchFeed(ports, settings.address, cursor);
    if (!feed.ok || feed.unchanged) {
      yield feed.ok ? { ok: true, raws: [], cursor, more: false, unfetched: null } : feed;
      return;
    }
    const known = new Set(cursor.seen);
    const fresh = feed.entries.filter((entry) => !known.has(entry.id));
    const seen = [...feed.entries.map((entry) => entry.id), ...cursor.seen];
    yield {
      ok: true,
      // Feeds stand newest first by custom; they come in as they were written.
      raws: fresh.reverse().map(jsonRaw),
      cursor: { etag: feed.etag, modified: feed.modified, seen: [...new Set(seen)].slice(0, MOST_SEEN) },
      more: false,
      unfetched: null,
    };
  },
  async newest(ports, settings) {
    const feed = await fetchFeed(ports, settings.address, null);
    if (!feed.ok) return feed;
    const entry = feed.unchanged ? undefined : feed.entries[0];
    return { ok: true, raw: entry ? jsonRaw(entry) : null };
  },
};
