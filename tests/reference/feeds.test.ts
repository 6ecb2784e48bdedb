import { createHash } from 'node:crypto';
import { expect } from 'chai';
import { Feed } from 'feed';
import { readFeed } from '../../src/sources/content-feed/feed.ts';

const sha = (text: string) => createHash('sha256').update(text).digest('hex');

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
      feed.ok && feed.entries.map((entry) => [entry.id, entry.title, entry.categories.join(), entry.enclosure]),
    ).to.deep.equal([
      ['g1', 'A & B', 'c1,c2', ''],
      ['https://x.example/2', 'Bold', '', 'https://x.example/2.mp3'],
      [`text:${sha('neither title nor link')}`, 'neither title nor link', '', ''],
    ]);
  });
  /** RFC 4287 §1.1 "a more extensive, single-entry feed": XHTML content, HTML subtitle, xml:base, an enclosure (shortened). */
  it('Atom: XHTML is read as words in their order, HTML without its tags, text as text; links by xml:base (RFC 4287 §2, §3.1.1)', () => {
    const feed = readFeed(
      Buffer.from(`<feed xmlns="http://www.w3.org/2005/Atom" xml:base="/blog/">
        <title type="html">&lt;em&gt;dive into&lt;/em&gt; mark &amp;amp; more</title>
        <entry><title type="text">Less: &lt;b&gt; is a tag, AT&amp;T not</title><id>a</id>
          <link rel="alternate" href="2005/04/02/atom"/><link rel="enclosure" href="../files/ph34r.mp3"/>
          <updated>2005-07-31T12:29:29Z</updated>
          <content type="xhtml" xml:lang="en"><div xmlns="http://www.w3.org/1999/xhtml"><p><i>[Update: The <b>Atom</b> draft is finished.]</i></p></div></content></entry>
        <entry xml:base="http://elsewhere.example/x/"><title>Plain</title><id>b</id><link href="y"/><summary type="html">&lt;p&gt;One&lt;/p&gt;&lt;h2&gt;Two&lt;/h2&gt;</summary></entry></feed>`),
      'http://example.org/feed.xml',
    );
    expect(
      feed.ok && [
        feed.title,
        ...feed.entries.map((entry) => [entry.title, entry.link, entry.enclosure, entry.summary]),
      ],
    ).to.deep.equal([
      'dive into mark & more',
      [
        'Less: <b> is a tag, AT&T not',
        'http://example.org/blog/2005/04/02/atom',
        'http://example.org/files/ph34r.mp3',
        '[Update: The Atom draft is finished.]',
      ],
      ['Plain', 'http://elsewhere.example/x/y', '', 'One\n\n\nTwo'],
    ]);
  });
  it('RSS: HTML in titles and descriptions, links from the site on, dates by every zone RFC 822 §5 names', () => {
    const item = (date: string) => `<item><guid>${date}</guid><pubDate>${date}</pubDate></item>`;
    const feed = readFeed(
      Buffer.from(`<rss version="2.0"><channel><title>Piano &amp;amp; strings</title><link>https://site.example/news/</link>
        <item><title>Rock &amp; roll: 3 &lt; 4, I &lt;3 it</title><link>today</link><description>&lt;p&gt;Fish &amp;amp; chips&lt;/p&gt;</description></item>
        ${['Sat, 07 Sep 2002 00:00:01 EST', '7 Sep 02 00:00 UT', 'Sat, 07 Sep 2002 00:00:01 PDT', 'Sat, 07 Sep 2002 00:00:01 +0200', 'Sat, 07 Sep 2002 00:00:01 CET'].map(item).join('')}</channel></rss>`),
    );
    expect(
      feed.ok && [feed.title, feed.entries[0]!.title, feed.entries[0]!.link, feed.entries[0]!.summary],
    ).to.deep.equal([
      'Piano & strings',
      'Rock & roll: 3 < 4, I <3 it',
      'https://site.example/news/today',
      'Fish & chips',
    ]);
    expect(feed.ok && feed.entries.slice(1).map((entry) => entry.published)).to.deep.equal([
      '2002-09-07T05:00:01Z',
      '2002-09-07T00:00:00Z',
      '2002-09-07T07:00:01Z',
      '2002-09-06T22:00:01Z',
      'Sat, 07 Sep 2002 00:00:01 CET',
    ]);
  });
  it('JSON Feed 1.1: the simple example of its specification (jsonfeed.org/version/1.1, from memory)', () => {
    const feed = readFeed(
      Buffer.from(
        JSON.stringify({
          version: 'https://jsonfeed.org/version/1.1',
          title: 'My Example Feed',
          home_page_url: 'https://example.org/',
          feed_url: 'https://example.org/feed.json',
          items: [
            { id: '2', content_text: 'This is a second item.', url: 'https://example.org/second-item' },
            { id: '1', content_html: '<p>Hello, world!</p>', url: 'https://example.org/initial-post' },
          ],
        }),
      ),
    );
    expect(
      feed.ok && [feed.title, ...feed.entries.map(({ id, title, link, summary }) => [id, title, link, summary])],
    ).to.deep.equal([
      'My Example Feed',
      ['2', 'This is a second item.', 'https://example.org/second-item', 'This is a second item.'],
      ['1', 'Hello, world!', 'https://example.org/initial-post', 'Hello, world!'],
    ]);
  });
  it('JSON Feed: an id that is a number is a text, authors of both versions, addresses below the feed’s own, and what is of a wrong kind is not there', () => {
    const feed = readFeed(
      Buffer.from(
        JSON.stringify({
          version: 'https://jsonfeed.org/version/1',
          title: 7,
          items: [
            {
              id: 12,
              title: 'Winter concert',
              author: { name: 'Oona' },
              url: '/concert',
              tags: ['news', 3],
              attachments: [{ url: 'concert.mp3' }],
            },
            {
              id: 'b',
              title: 'Second',
              authors: [{ name: '' }, { name: 'Tomas' }],
              date_published: 5,
              date_modified: '2026-11-30T09:00:00Z',
            },
            { title: 'Without an id' },
            'nothing',
          ],
        }),
      ),
      'https://wrenfield.example/news/feed.json',
    );
    expect(feed).to.deep.equal({
      ok: true,
      title: '',
      entries: [
        {
          ...{
            id: '12',
            title: 'Winter concert',
            link: 'https://wrenfield.example/concert',
            summary: '',
            author: 'Oona',
            published: '',
          },
          ...{ categories: ['news'], enclosure: 'https://wrenfield.example/news/concert.mp3' },
        },
        {
          ...{ id: 'b', title: 'Second', link: '', summary: '', author: 'Tomas', published: '2026-11-30T09:00:00Z' },
          ...{ categories: [], enclosure: '' },
        },
      ],
    });
  });
  it('one and the same feed, as the package “feed” writes it in RSS 2.0, Atom and JSON Feed, is read the same', () => {
    const made = new Feed({
      title: 'Wrenfield & friends',
      id: 'https://wrenfield.example/',
      link: 'https://wrenfield.example/',
      copyright: '',
    });
    for (const n of [1, 2, 3])
      made.addItem({
        ...{
          title: `Concert ${n} <& more>`,
          id: `urn:x:${n}`,
          guid: `urn:x:${n}`,
          link: `https://wrenfield.example/${n}`,
        },
        ...{ description: `All of “${n}” & encores`, date: new Date(Date.UTC(2026, 10, n, 9, 30)) },
      });
    const read = [made.rss2(), made.atom1(), made.json1()].map((text) => {
      const feed = readFeed(Buffer.from(text), 'https://wrenfield.example/feed');
      if (!feed.ok) throw new Error(feed.problem);
      return [
        feed.title,
        ...feed.entries.map(({ id, title, link, summary, published }) => [
          id,
          title,
          link,
          summary,
          new Date(published).toISOString(),
        ]),
      ];
    });
    expect(read[0]).to.have.length(4);
    expect(read[0]![1]).to.deep.equal([
      'urn:x:1',
      'Concert 1 <& more>',
      'https://wrenfield.example/1',
      'All of “1” & encores',
      '2026-11-01T09:30:00.000Z',
    ]);
    expect(read[1]).to.deep.equal(read[0]);
    expect(read[2]).to.deep.equal(read[0]);
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
    expect(problem('{"version":')).to.match(/broken JSON/);
    expect(problem('{"items":[]}')).to.match(/no JSON Feed/);
  });
  it('keeps to the encoding it declares', () => {
    const latin = Buffer.from(
      '<?xml version="1.0" encoding="ISO-8859-1"?><rss version="2.0"><channel><title>Caf\u00e9</title></channel></rss>',
      'latin1',
    );
    expect(readFeed(latin)).to.deep.include({ ok: true, title: 'Caf\u00e9' });
  });
});
