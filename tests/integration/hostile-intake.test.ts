import { expect } from 'chai';
import { startPostgres } from '../../scripts/setup/postgres.mjs';
import { testCluster } from '../stage/postgres.ts';
import { adEntry, openStage, push, type Stage, signedIn, until } from '../stage/stage.ts';

describe('intake under hostile input', () => {
  let stage: Stage;
  let open: { id: string; url: string; secret: string };
  let ad: { id: string; url: string; secret: string };
  before(async function () {
    this.timeout(60_000);
    stage = await openStage();
    [open, ad] = await Promise.all([stage.source('Open day sign-in'), stage.source('Trial lesson form')]);
  });
  after(() => stage.close());

  const send = (body: string | Uint8Array, headers: Record<string, string> = {}) => push(open, body, headers, null);
  const arrival = (id: string | undefined) =>
    stage.db.query('select * from arrival where id = $1', [id]).then(({ rows }) => rows[0]);
  const lead = (email: string) =>
    until(
      `the lead ${email}`,
      async () =>
        (
          await stage.db.query('select l.* from lead l join lead_identity i on i.lead_id = l.id where i.value = $1', [
            email,
          ])
        ).rows[0],
    );

  it('refuses a body over 1 MiB with 413, with and without a content length, and goes on working', async () => {
    const big = Buffer.alloc(1024 * 1024 + 1, 120);
    expect((await send(big)).status).to.equal(413);
    const chunked = await fetch(open.url, {
      method: 'POST',
      body: new Blob([big]).stream(),
      duplex: 'half',
    } as RequestInit & { duplex: 'half' });
    expect(chunked.status).to.equal(413);
    expect((await send(JSON.stringify({ email: 'after@example.org' }))).status).to.equal(202);
  });

  const refused: [string, string | Uint8Array, Record<string, string>, number, string][] = [
    ['broken JSON', '{"name": "Ayla", ', {}, 400, 'not-json'],
    ['an empty body', '', {}, 422, 'empty'],
    ['invalid UTF-8', Buffer.from([0x7b, 0x22, 0xc3, 0x28, 0x22, 0x7d]), {}, 400, 'not-utf8'],
    ['a thousand levels of nesting', '['.repeat(1000) + ']'.repeat(1000), {}, 422, 'too-deep'],
    [
      'more fields than anybody asks for',
      JSON.stringify(Object.fromEntries(Array.from({ length: 2000 }, (_, i) => [`f${i}`, i]))),
      {},
      422,
      'too-many',
    ],
    ['a kind of body that is not understood', 'GIF89a', { 'content-type': 'image/gif' }, 400, 'content-type'],
    [
      'XML that declares entities of its own',
      '<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;">]><lead><name>&b;</name></lead>',
      { 'content-type': 'application/xml' },
      400,
      'entities',
    ],
    [
      'XML nested two hundred deep',
      `<lead>${'<a>'.repeat(200)}${'</a>'.repeat(200)}</lead>`,
      { 'content-type': 'text/xml' },
      422,
      'too-deep',
    ],
    ['broken XML', '<lead><name>Ada</lead>', { 'content-type': 'application/xml' }, 400, 'not-xml'],
    [
      'multipart without its boundary',
      '--x\r\ncontent-disposition: form-data; name="a"\r\n\r\n1\r\n--x--',
      { 'content-type': 'multipart/form-data' },
      400,
      'multipart',
    ],
    ['an enormous list', JSON.stringify(Array.from({ length: 501 }, (_, i) => ({ i }))), {}, 422, 'too-many'],
  ];
  for (const [name, body, headers, status, code] of refused)
    it(`refuses ${name} with a reason, keeps it, and shows it`, async () => {
      const answer = await send(body, headers);
      expect(answer).to.include({ status });
      expect(answer.body.type).to.equal(`urn:pine-bell:${code}`);
      expect(answer.body.detail).to.match(/\.$/);
      const {
        rows: [kept],
      } = await stage.db.query(
        `select a.body, a.state, a.problem, n.detail from arrival a join needs_you n on n.arrival_id = a.id where a.id = $1`,
        [(answer.body as { arrival?: string }).arrival],
      );
      expect(kept.state).to.equal('refused');
      expect(Buffer.compare(kept.body, Buffer.from(body as string))).to.equal(0);
      expect(kept.detail).to.contain(kept.problem);
    });

  it('keeps NUL bytes and lone surrogates out of the text and in the evidence', async () => {
    const body = '{"name":"Nu\\u0000l \\ud800 Person","email":"nul@example.org"}';
    const answer = await send(body);
    expect(answer.status).to.equal(202);
    expect((await lead('nul@example.org')).first_name).to.equal('Nu\uFFFDl \uFFFD');
    expect((await arrival(answer.body.id)).body.toString()).to.equal(body);
  });

  it('takes __proto__ and constructor as the names they are', async () => {
    const answer = await send(
      '{"__proto__":{"polluted":"yes"},"constructor":{"prototype":{"x":"y"}},"email":"proto@example.org"}',
    );
    expect(answer.status).to.equal(202);
    const { fields } = await arrival(answer.body.id);
    expect(fields.map((field: { key: string }) => field.key)).to.deep.equal([
      '__proto__.polluted',
      'constructor.prototype.x',
      'email',
    ]);
    expect((await (await fetch(`${stage.url}/healthz`)).json()) as object).to.include({ ok: true });
  });

  it('reads a list where text was', async () => {
    await send(JSON.stringify({ name: ['Ada', 'Venn'], email: 'list@example.org', wants: ['Piano', null, 3] }));
    const found = await lead('list@example.org');
    expect(found.answers.wants).to.equal('Piano, , 3');
  });

  it('takes form fields, repeated ones too', async () => {
    await send('name=Teo+Venn&email=form%40example.org&wants=Piano&wants=Drums', {
      'content-type': 'application/x-www-form-urlencoded',
    });
    expect((await lead('form@example.org')).answers.wants).to.equal('Piano, Drums');
  });

  it('never sends to an address with a line break in it', async () => {
    const answer = await push(
      ad,
      adEntry('break', { email: 'b@example.org\r\nBcc: evil@example.net', phone: '07700 900301' }),
    );
    expect(answer.status).to.equal(202);
    const {
      rows: [run],
    } = await until('the run', async () => {
      const found = await stage.db.query(`select r.* from run r where r.arrival_id = $1 and r.due_at is null`, [
        answer.body.id,
      ]);
      return found.rowCount ? found : null;
    });
    expect(run.state).to.equal('needs_you');
    // Other leads' mail may go out meanwhile; of this one's, only the desk's heads-up may have left.
    const { rows: left } = await stage.db.query(
      `select recipient from delivery where run_id = $1 and channel = 'email' and state <> 'failed'`,
      [run.id],
    );
    expect(left).to.deep.equal([{ recipient: 'piano.desk@wrenfield.example' }]);
    const { mails } = stage.desk.world.state;
    expect(mails.filter((mail) => /b@example\.org|evil@example\.net/.test(mail.mailbox))).to.deep.equal([]);
    expect(mails.flatMap((mail) => mail.headers.map((header) => header.name))).not.to.include('bcc');
  });

  it('shows an HTML tag as typed and escapes it in the email', async () => {
    const name = '<img src=x onerror=alert(1)>';
    await push(ad, adEntry('tag', { first_name: name, email: 'tag@example.org', phone: '07700 900302' }));
    const mail = await until('the email', () =>
      stage.desk.world.state.mails.find((mail) => mail.mailbox === 'tag@example.org'),
    );
    expect(mail.html).to.contain('&lt;img src=x onerror=alert(1)&gt;').and.not.contain('<img src=x');
    expect(mail.text).to.contain(name);
    const { call } = await signedIn(stage);
    const page = await call<string>('GET', '/leads');
    expect(page.body).to.contain('&lt;img src=x onerror').and.not.contain('<img src=x');
  });

  it('refuses wrong, old, future and missing signatures and does not act on them', async () => {
    const body = adEntry('forged', { email: 'forged@example.org', phone: '07700 900303' });
    const now = Math.floor(Date.now() / 1000);
    const results = [
      await push(ad, body, {}, { id: 'm1', secret: 'whsec_d3Jvbmctc2VjcmV0' }),
      await push(ad, body, {}, { id: 'm2', at: now - 301 }),
      await push(ad, body, {}, { id: 'm3', at: now + 302 }),
      await push(ad, body, {}, null),
    ];
    expect(results.map((result) => `${result.status} ${result.body.type}`)).to.deep.equal(
      ['wrong', 'too-old', 'too-new', 'missing'].map((problem) => `401 urn:pine-bell:signature-${problem}`),
    );
    const { rowCount } = await stage.db.query(`select 1 from lead where email = 'forged@example.org'`);
    expect(rowCount).to.equal(0);
    // The real entry is not kept out by the forged ones before it.
    expect((await push(ad, body)).body.repeat).to.equal(false);
  });

  it('a replayed good request inside its five minutes does nothing twice', async () => {
    const body = adEntry('replay', { email: 'replay@example.org', phone: '07700 900304' });
    const signed = { id: 'replay-1', at: Math.floor(Date.now() / 1000) };
    const [first, second] = [await push(ad, body, {}, signed), await push(ad, body, {}, signed)];
    expect(second.body).to.deep.equal({ id: first.body.id, repeat: true, count: 0 });
  });

  it('keeps what comes in while a source is paused, and sends nothing', async () => {
    const { call } = await signedIn(stage);
    await call('PUT', `/api/sources/${open.id}`, { paused: true });
    const answer = await until('the pause to hold', async () => {
      const sent = await send(
        JSON.stringify({
          name: 'Held',
          email: `held${Math.random()}@example.org`,
          contact_number: '07700900305',
          agrees_to_texts: 'yes',
        }),
      );
      return (await arrival(sent.body.id)).state === 'held' ? sent : null;
    });
    expect(answer.status).to.equal(202);
    expect((await arrival(answer.body.id)).lead_id).to.equal(null);
    await call('PUT', `/api/sources/${open.id}`, { paused: false });
  });

  it('answers an unknown address and a wrong method plainly', async () => {
    expect((await push({ url: `${stage.url}/in/${'x'.repeat(32)}`, secret: 'whsec_eA==' }, '{}')).status).to.equal(404);
    expect((await fetch(open.url)).status).to.equal(405);
  });

  it('says 503 with Retry-After while the database is away, and takes it afterwards', async () => {
    await stage.db.query('select 1');
    const cluster = await testCluster();
    cluster.stop('immediate');
    const answer = await fetch(open.url, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{"email":"away@example.org"}',
    });
    expect(answer.status).to.equal(503);
    expect(answer.headers.get('retry-after')).to.equal('5');
    await startPostgres(cluster.folder);
    await until(
      'the database to be taken back',
      async () => (await send('{"email":"away@example.org"}')).status === 202,
    );
  }).timeout(40_000);
});
