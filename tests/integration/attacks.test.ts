import { request } from 'node:http';
import { connect } from 'node:net';
import { expect } from 'chai';
import type { SourceView } from '../../src/app/sources/sources.ts';
import { deliveryId } from '../../src/engine/delivery/delivery-id.ts';
import { housekeeping } from '../../src/worker/housekeeping.ts';
import type { Coordinator } from '../stage/flow.ts';
import { adEntry, openStage, push, type Stage, signedIn, until } from '../stage/stage.ts';
import { workbook } from '../stage/workbook.ts';

/** A conversation with our mail listener, line by line; gives what it answers. */
async function speakSmtp(port: number, lines: string[]): Promise<string[]> {
  const socket = connect(port, '127.0.0.1');
  const said: string[] = [];
  let rest = '';
  let wake = () => {};
  socket.setEncoding('utf8').on('data', (chunk: string) => {
    const parts = (rest + chunk).split('\r\n');
    rest = parts.pop()!;
    said.push(...parts.filter((line) => /^\d{3} /.test(line)));
    wake();
  });
  try {
    for (let n = 0; ; n++) {
      while (said.length <= n) await new Promise<void>((resolve) => (wake = resolve));
      if (n === lines.length) return said;
      socket.write(`${lines[n]}\r\n`);
    }
  } finally {
    socket.destroy();
  }
}

describe('attacks on the doors that are open to everybody', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Coordinator;
  before(async () => {
    stage = await openStage();
    oona = await signedIn(stage);
  });
  after(() => stage.close());

  /** The slowest answer of /healthz while something else is done, in milliseconds. */
  async function slowestWhile(work: Promise<unknown>): Promise<number> {
    let going = true;
    let slowest = 0;
    const watching = (async () => {
      while (going) {
        const start = performance.now();
        await (await fetch(`${stage.url}/healthz`)).text();
        slowest = Math.max(slowest, performance.now() - start);
        await new Promise((resolve) => setTimeout(resolve, 10));
      }
    })();
    await work.finally(() => {
      going = false;
    });
    await watching;
    return slowest;
  }

  const asked = (method: string, path: string, headers: Record<string, string> = {}, body = '') =>
    new Promise<{ status: number; text: string }>((resolve, reject) => {
      const sent = request(stage.url + path, { method, headers, agent: false }, (answer) => {
        let text = '';
        answer.setEncoding('utf8').on('data', (chunk: string) => {
          text += chunk;
        });
        answer.on('end', () => resolve({ status: answer.statusCode!, text }));
      });
      sent.on('error', reject);
      sent.end(body);
    });

  it('bodies made to be dear hold nobody else up, and are answered', async () => {
    const open = await stage.source('Open day sign-in');
    const dear: [type: string, body: string][] = [
      ['application/x-www-form-urlencoded', 'a&'.repeat(500_000)],
      ['application/xml', '<!--'.repeat(250_000)],
      ['application/xml', `<r>${'<![CDATA['.repeat(110_000)}</r>`],
      ['application/xml', `<r>${'<a b="c" '.repeat(100_000)}`],
      ['application/json', `{"a":"${' '.repeat(1_000_000)}"}`],
      ['application/json', '['.repeat(20_000)],
      ['multipart/form-data; boundary=x', '--x\r\n'.repeat(200_000)],
    ];
    for (const [type, body] of dear) {
      let status = 0;
      const slowest = await slowestWhile(
        push(open, body, { 'content-type': type }, null).then((answer) => {
          status = answer.status;
        }),
      );
      expect(status, body.slice(0, 12)).to.be.oneOf([202, 400, 422]);
      // Not a measure of speed: what stopped the process took from a dozen seconds to minutes.
      expect(slowest, body.slice(0, 12)).to.be.below(2000);
    }
  });

  it('a form of ours is read within its limit; a file for nobody is not read at all', async () => {
    const big = 'x'.repeat(2 * 1024 * 1024);
    const form = { 'content-type': 'application/x-www-form-urlencoded', origin: stage.url };
    expect((await asked('POST', '/sign-in', form, `email=${big}`)).status).to.equal(413);
    expect(
      (await asked('POST', '/sign-in', { ...form, 'transfer-encoding': 'chunked' }, `email=${big}`)).status,
    ).to.equal(413);
    expect((await asked('POST', '/leave/xxxxxxxxxxxxxxxxxxxxxxxx', form, big)).status).to.equal(413);
    expect((await asked('PUT', '/files/made-up-key-of-nobody', {}, 'x')).status).to.equal(404);
    const { cookie } = oona;
    const json = { 'content-type': 'application/json', origin: stage.url, cookie, 'transfer-encoding': 'chunked' };
    expect((await asked('POST', '/api/tags', json, `{"name":"${'x'.repeat(3_000_000)}"}`)).status).to.equal(413);
  });

  it('odd requests are answered with a reason, never with a failure', async () => {
    const { cookie } = oona;
    const same = { origin: stage.url, cookie };
    const json = { ...same, 'content-type': 'application/json' };
    const form = await stage.db.query(`select key from source where kind = 'form-page' limit 1`);
    const odd: [string, string, Record<string, string>, string][] = [
      ['TRACE', '/', {}, ''],
      ['PROPFIND', '/', {}, ''],
      ['GET', '/leads/%00', { cookie }, ''],
      ['GET', '/leads?search=%00', { cookie }, ''],
      ['GET', '/%ff%fe', {}, ''],
      ['GET', `/kept/${'-'.repeat(36)}`, {}, ''],
      ['POST', '/sign-in', { origin: 'nonsense' }, 'email=a'],
      ['POST', '/sign-in', { origin: stage.url, 'content-type': 'text/plain' }, 'email=a'],
      [
        'POST',
        '/sign-in',
        { origin: stage.url, 'content-type': 'application/x-www-form-urlencoded' },
        'email=%00&password=x',
      ],
      ['POST', '/sign-in', { origin: stage.url, 'content-type': 'multipart/form-data' }, 'x'],
      ['POST', `/f/${form.rows[0].key}`, { origin: stage.url, 'content-type': 'application/json' }, ''],
      ['POST', '/api/tags', json, '{"name":"a\\u0000b"}'],
      ['POST', '/api/tags', json, '{"name":"a\\ud800b"}'],
      ['POST', '/api/tags', json, `${'['.repeat(20_000)}${']'.repeat(20_000)}`],
      ['POST', '/api/tags', json, '{"__proto__":{"name":"x"},"constructor":"y"}'],
      ['POST', '/api/calendar/appointments', json, '{"colleagueId":"x","title":"y","startsAt":"0000-01-01T00:00"}'],
    ];
    for (const week of ['0000-01-01', '9999999-01-01', '-000001-01-01', 'x'])
      expect((await asked('GET', `/api/calendar?week=${week}`, { cookie })).status, week).to.be.below(500);
    for (const [method, path, headers, body] of odd) {
      const answer = await asked(method, path, headers, body).catch((error: Error) => {
        throw new Error(`${method} ${path} ${body.slice(0, 40)}: ${error.message}`);
      });
      expect(answer.status, `${method} ${path} ${body.slice(0, 40)}: ${answer.text.slice(0, 200)}`).to.be.within(
        400,
        499,
      );
    }
    const open = await stage.source('Open day sign-in');
    for (const body of [
      '{"constructor":"x","__proto__":"y","toString":"z","hasOwnProperty":1,"email":"odd@example.org"}',
      '{"email":"a\\u0000b@example.org","name":"\\u0000"}',
      '{"name":"\\ud800","email":"half@example.org"}',
      '{"date":"0000-00-00","when":-1e308,"email":"year@example.org"}',
    ])
      expect((await push(open, body, { 'content-type': 'application/json' }, null)).status, body).to.equal(202);
  });

  it('who cannot sign does not starve who can, and what they send is kept shortly and in number', async () => {
    const ad = await stage.source('Trial lesson form');
    await oona.call('PUT', `/api/sources/${ad.id}`, { mostPerMinute: 30 });
    await new Promise((resolve) => setTimeout(resolve, 1200));
    const forged = await Promise.all(
      Array.from({ length: 60 }, (_, n) => push(ad, adEntry(`forged-${n}`, { email: 'eve@example.org' }), {}, null)),
    );
    expect(new Set(forged.map((answer) => answer.status))).to.deep.equal(new Set([401]));
    expect((await push(ad, adEntry('signed', { email: 'signed@example.org' }))).status).to.equal(202);
    const kept = async () =>
      (await stage.db.query(`select count(*)::int n from arrival where source_id = $1 and state = 'refused'`, [ad.id]))
        .rows[0].n;
    expect(await kept()).to.be.within(10, 12);
    await stage.db.query(
      `update arrival set received_at = received_at - interval '8 days' where source_id = $1 and state = 'refused'`,
      [ad.id],
    );
    await housekeeping({ pool: stage.db, secrets: stage.secrets, now: () => Date.now() });
    expect(await kept()).to.equal(0);
  });

  it('mail for addresses we never gave out is refused before it is read, and ten recipients are enough', async () => {
    const port = Number(stage.env.PINEBELL_MAIL_PORT);
    const bounce = (n: number) =>
      `bounce-${deliveryId('01999999-0000-7000-8000-0000000000aa', `s${n}`)}@in.wrenfield.example`;
    const mailboxes = await Promise.all(
      Array.from({ length: 11 }, async (_, n) => {
        const made = await oona.call<SourceView>('POST', '/api/sources', { kind: 'mailbox', name: `Box ${n}` });
        return made.body.address.replace(/^mailto:/, '');
      }),
    );
    const said = await speakSmtp(port, [
      'EHLO x.example',
      'MAIL FROM:<>',
      `RCPT TO:<${bounce(1)}>`,
      ...mailboxes.map((address) => `RCPT TO:<${address}>`),
    ]);
    expect(said[3], 'a delivery that never was').to.match(/^550 /);
    expect(said.slice(4, 14).every((line) => line.startsWith('250'))).to.equal(true);
    expect(said[14]).to.match(/^452 /);
  });

  it('a workbook whose rows are numbered by no number is refused aloud, and the next good one is read', async () => {
    const {
      rows: [source],
    } = await stage.db.query(`select id, key from source where kind = 'workbook' limit 1`);
    const sheet = (rows: string) =>
      workbook({ 'xl/worksheets/sheet1.xml': Buffer.from(`<worksheet><sheetData>${rows}</sheetData></worksheet>`) });
    const row = (r: string, ...cells: string[]) =>
      `<row r="${r}">${cells.map((text) => `<c t="inlineStr"><is><t>${text}</t></is></c>`).join('')}</row>`;
    const drop = async (bytes: Buffer) => {
      const answer = await fetch(`${stage.url}/files/${source.key}`, { method: 'PUT', body: new Uint8Array(bytes) });
      expect(answer.status).to.equal(202);
      return ((await answer.json()) as { id: string }).id;
    };
    const stateOf = async (id: string) =>
      (await stage.db.query('select state, problem from stored_file where id = $1', [id])).rows[0];
    const head = row('1', 'First name', 'Last name', 'Email', 'Phone');
    for (const odd of ['x', '-1', '0', '1e9', '2.5', 'NaN']) {
      const bad = await drop(sheet(head + row(odd, 'Ada', 'Odd', `odd${odd.length}@example.org`, '')));
      const refused = await until('the damaged workbook to be refused', async () => {
        await stage.db.query('update pull set next_at = now() where source_id = $1', [source.id]);
        const found = await stateOf(bad);
        return found.state === 'new' ? null : found;
      });
      expect(refused.state, odd).to.equal('refused');
      expect(refused.problem).to.match(/damaged: after row 1 comes one with the number/);
    }
    const good = await drop(sheet(head + row('2', 'Ada', 'Good', 'good@example.org', '')));
    await until('the good workbook', async () => {
      await stage.db.query('update pull set next_at = now() where source_id = $1', [source.id]);
      return (await stateOf(good)).state === 'read';
    });
    // Where it stopped cannot be read any more: it begins again, and says so where it cannot.
    await stage.db.query(`update pull set cursor = '{"row": null, "fileId": 7}' where source_id = $1`, [source.id]);
    const next = await drop(sheet(head + row('2', 'Bo', 'Next', 'next@example.org', '')));
    await until('the workbook after that', async () => {
      await stage.db.query('update pull set next_at = now() where source_id = $1', [source.id]);
      return (await stateOf(next)).state === 'read';
    });
  });

  it('a source that cannot be read for a reason nobody foresaw says so', async () => {
    const {
      rows: [source],
    } = await stage.db.query(`select id from source where kind = 'content-feed' limit 1`);
    await stage.db.query(`update source set settings = '{}' where id = $1`, [source.id]);
    await stage.db.query('update pull set next_at = now() where source_id = $1', [source.id]);
    const told = await until('the trouble to be noted', async () => {
      const { rows } = await stage.db.query(
        'select problem, failures, next_at > now() as later from pull where source_id = $1',
        [source.id],
      );
      return rows[0].failures > 0 && rows[0];
    });
    expect(told.problem).to.match(/did not foresee/);
    expect(told.later).to.equal(true);
  });

  it('one ticket of a form page with something else in it is another entry; sent in again as it was, the same', async () => {
    const {
      rows: [form],
    } = await stage.db.query(`select id, key from source where kind = 'form-page' limit 1`);
    const page = await (await fetch(`${stage.url}/f/${form.key}`)).text();
    const ticket = /name="ticket" value="([^"]*)"/.exec(page)![1]!.replaceAll('&#38;', '&').replaceAll('&amp;', '&');
    await new Promise((resolve) => setTimeout(resolve, 1600));
    const send = (who: string) =>
      fetch(`${stage.url}/f/${form.key}`, {
        method: 'POST',
        headers: { origin: stage.url },
        redirect: 'manual',
        body: new URLSearchParams({
          ...{ ticket, visit: '', referrer: '', website: '', instrument: 'Cello', phone: '07700 900641' },
          ...{ first_name: who, email: `${who}@example.org`, consent: 'true' },
        }),
      });
    const answers = [await send('ada'), await send('bea'), await send('bea')];
    expect(answers.map((answer) => answer.status)).to.satisfy(
      (all: number[]) => all.every((one) => one < 400),
      `${answers.map((answer) => answer.status)}`,
    );
    const { rows } = await stage.db.query<{ n: number }>('select count(*)::int n from arrival where source_id = $1', [
      form.id,
    ]);
    expect(rows[0]!.n).to.equal(2);
  });
});
