import { createHash, randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import type { World } from './world.ts';
import type { Episode } from './world-state.ts';

const escaped = (text: string) => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);

/** The school's podcast, as RSS 2.0 and as Atom, with validators for conditional requests. */
export class FeedDesk {
  constructor(private readonly world: World) {}

  take(path: string, request: IncomingMessage, response: ServerResponse): void {
    const { trouble, episodes } = this.world.state;
    if (trouble.feedDown || trouble.feedAsksWeeks) {
      response.writeHead(503, { 'retry-after': trouble.feedAsksWeeks ? '2000000' : '30' }).end();
      return;
    }
    if (path !== '/podcast.rss' && path !== '/podcast.atom') {
      response.writeHead(404).end();
      return;
    }
    const rss = path === '/podcast.rss';
    if (trouble.feedHuge) {
      response.writeHead(200, { 'content-type': 'application/rss+xml' });
      response.write('<?xml version="1.0"?><rss version="2.0"><channel>');
      // As much as anybody cares to read.
      const more = () => {
        while (
          !response.writableEnded &&
          !response.destroyed &&
          response.write(`<item><title>${'x'.repeat(65_000)}</title></item>`)
        );
      };
      response.on('drain', more);
      more();
      return;
    }
    const whole = rss ? asRss(episodes) : asAtom(episodes);
    const body = trouble.feedBroken ? whole.slice(0, Math.floor(whole.length * 0.7)) : whole;
    const etag = `"${createHash('sha256').update(body).digest('hex').slice(0, 16)}"`;
    if (request.headers['if-none-match'] === etag) {
      response.writeHead(304, { etag }).end();
      return;
    }
    response.writeHead(200, { 'content-type': rss ? 'application/rss+xml' : 'application/atom+xml', etag }).end(body);
  }

  publish(title: string, summary: string): Episode {
    const made = { id: randomUUID(), title, summary, at: new Date().toISOString() };
    this.world.state.episodes.push(made);
    this.world.changed();
    return made;
  }
}

const newestFirst = (episodes: Episode[]) => [...episodes].reverse().slice(0, 50);
const link = (episode: Episode) => `https://podcast.wrenfield.example/${episode.id}`;

const asRss = (episodes: Episode[]) => `<?xml version="1.0" encoding="UTF-8"?>
<rss version="2.0"><channel><title>The Wrenfield Hour</title><link>https://podcast.wrenfield.example/</link><description>Music lessons, heard</description>
${newestFirst(episodes)
  .map(
    (episode) =>
      `<item><title>${escaped(episode.title)}</title><link>${link(episode)}</link><guid isPermaLink="false">${episode.id}</guid><pubDate>${new Date(episode.at).toUTCString()}</pubDate><description>${escaped(episode.summary)}</description><enclosure url="${link(episode)}.mp3" length="18350080" type="audio/mpeg"/></item>`,
  )
  .join('\n')}
</channel></rss>`;

const asAtom = (episodes: Episode[]) => `<?xml version="1.0" encoding="UTF-8"?>
<feed xmlns="http://www.w3.org/2005/Atom"><title>The Wrenfield Hour</title><id>urn:uuid:9c1e2f0a-5a4b-4d0e-8f6f-2d9d8e1b7a11</id><updated>${episodes.at(-1)?.at ?? new Date(0).toISOString()}</updated>
${newestFirst(episodes)
  .map(
    (episode) =>
      `<entry><title>${escaped(episode.title)}</title><link href="${link(episode)}"/><id>urn:uuid:${episode.id}</id><updated>${episode.at}</updated><summary>${escaped(episode.summary)}</summary></entry>`,
  )
  .join('\n')}
</feed>`;
