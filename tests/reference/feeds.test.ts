import { expect } from 'chai';
import { readFeed } from '../../src/sources/content-feed/feed.ts';

/** RFC 4287 §1.1, the brief single-entry feed, as the standard prints it. */
const ATOM = `<?xml version="1.0" encoding="utf-8"?>
<feed xmlns="http://www.w3.org/2005/Atom">

  <title>Example Feed</title>
  <link href="http://example.org/"/>
  <updated>2003-12-13T18:30:02Z</updated>
  <author>
    <name>John Doe</name>
  </author>
  <id>urn:uuid:60a76c80-d399-11d9-b93C-0003939e0af6</id>

  <entry>
    <title>Atom-Powered Robots Run Amok</title>
    <link href="http://example.org/2003/12/13/atom03"/>
    <id>urn:uuid:1225c695-cfb8-4ebb-aaaa-80da344efa6a</id>
    <updated>2003-12-13T18:30:02Z</updated>
    <summary>Some text.</summary>
  </entry>

</feed>`;

describe('content feeds', () => {
  it('Atom: the example of RFC 4287 §1.1', () => {
    const feed = readFeed(Buffer.from(ATOM));
    expect(feed).to.deep.equal({
      ok: true,
      title: 'Example Feed',
      entries: [
        {
          id: 'urn:uuid:1225c695-cfb8-4ebb-aaaa-80da344efa6a',
          title: 'Atom-Powered Robots Run Amok',
          link: 'http://example.org/2003/12/13/atom03',
          summary: 'Some text.',
          author: '',
          published: '2003-12-13T18:30:02Z',
          categories: [],
          enclosure: '',
        },
      ],
    });
  });
  it('RSS 2.0: the guid is the identity, else the link (RSS 2.0 specification, "guid"; from memory)', () => {
    const feed = readFeed(
      Buffer.from(
        `<rss version="2.0"><channel><title>T</title>
        <item><title>A &amp; B</title><link>https://x.example/1</link><guid isPermaLink="false">g1</guid><pubDate>Sat, 07 Sep 2002 00:00:01 GMT</pubDate><category>c1</category><category>c2</category></item>
        <item><title><![CDATA[<b>Bold</b>]]></title><link>https://x.example/2</link><enclosure url="https://x.example/2.mp3" length="1" type="audio/mpeg"/></item>
        <item><description>neither title nor link</description></item></channel></rss>`,
      ),
    );
    expect(
      feed.ok && feed.entries.map((one) => [one.id, one.title, one.categories.join(), one.enclosure]),
    ).to.deep.equal([
      ['g1', 'A & B', 'c1,c2', ''],
      ['https://x.example/2', '<b>Bold</b>', '', 'https://x.example/2.mp3'],
    ]);
  });
  it('tells broken, foreign and dangerous ones in words', () => {
    const problem = (text: string | Buffer) => {
      const feed = readFeed(Buffer.from(text));
      return feed.ok ? null : feed.problem;
    };
    expect(problem('<html><body>no feed</body></html>')).to.match(/neither an RSS 2.0 nor an Atom/);
    expect(problem(ATOM.slice(0, 300))).to.match(/broken XML/);
    expect(problem('<!DOCTYPE r [<!ENTITY a "b">]><rss><channel/></rss>')).to.match(/entities/);
    expect(problem(Buffer.from([0x3c, 0xff, 0xfe, 0xff]))).to.match(/encoding/);
    expect(problem('')).to.be.a('string');
  });
  it('keeps to the encoding it declares', () => {
    const latin = Buffer.from(
      '<?xml version="1.0" encoding="ISO-8859-1"?><rss version="2.0"><channel><title>Caf\u00e9</title></channel></rss>',
      'latin1',
    );
    expect(readFeed(latin)).to.deep.include({ ok: true, title: 'Caf\u00e9' });
  });
});
