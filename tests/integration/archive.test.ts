import { gunzipSync, gzipSync } from 'node:zlib';
import { expect } from 'chai';
import fc from 'fast-check';
import type { ArchiveView, ReadAgain } from '../../src/app/account/archive.ts';
import type { ArrivalView } from '../../src/app/sources/arrivals.ts';
import { monthKey, monthStart } from '../../src/core/archive/months.ts';
import { headLine, readSentLine, sentLine } from '../../src/core/archive/sent-line.ts';
import { prepareDatabase } from '../../src/db/prepare.ts';
import { keepArchive } from '../../src/engine/archive/pack-months.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { otherBusiness } from '../stage/other-business.ts';
import { momentOf, stepOf } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

/** Months from now, in the middle of the month. */
const inMonths = (months: number): number => monthStart(Date.now(), -months).getTime() + 15 * 86_400_000;

describe('an archive file', () => {
  it('gives every arrival back byte for byte, text or not', () => {
    fc.assert(
      fc.property(
        fc.record({
          id: fc.uuid(),
          receivedAt: fc.date({ min: new Date(0), max: new Date('2100-01-01'), noInvalidDate: true }),
          headers: fc.dictionary(fc.stringMatching(/^[a-z][a-z0-9-]{0,20}$/), fc.string()),
          body: fc.oneof(
            fc.uint8Array(),
            fc.string({ unit: 'binary' }).map((text) => new TextEncoder().encode(text)),
            fc.constant(new Uint8Array([0xef, 0xbb, 0xbf, 0x61, 0x0a, 0x0d])),
          ),
        }),
        (sent) => {
          const line = sentLine(sent);
          expect(line.indexOf('\n'), 'one line').to.equal(line.length - 1);
          const read = readSentLine(line)!;
          expect({ ...read, body: [...read.body] }).to.deep.equal({
            ...{ ...sent, headers: { ...sent.headers } },
            body: [...sent.body],
          });
        },
      ),
    );
  });
});

describe('what came in long ago', function () {
  this.timeout(90_000);
  let stage: Stage;
  let oona: Coordinator;
  let flow: Awaited<ReturnType<typeof liveFlow>>;
  before(async () => {
    stage = await openStage();
    oona = await signedIn(stage);
    flow = await liveFlow(stage, oona, [
      momentOf('a', { lanes: { lead: [], record: [stepOf('note', 'n', { text: 'came in' })], team: [] } }),
    ]);
  });
  after(() => stage.close());

  const MONTH = monthKey(Date.now());
  const archive = async () => (await oona.call<ArchiveView>('GET', '/api/archive')).body;
  const arrivalOf = async (email: string) =>
    (
      await stage.db.query<{ id: string }>(
        'select a.id from arrival a join lead l on l.id = a.lead_id where l.email = $1 order by a.received_at limit 1',
        [email],
      )
    ).rows[0]!.id;
  const look = async (id: string) =>
    (await oona.call<ArrivalView>('GET', `/api/sources/${flow.source.id}/arrivals/${id}`)).body;
  const again = (id: string) =>
    oona.call<{ detail?: string; started?: number }>('POST', `/api/sources/${flow.source.id}/again`, {
      arrivalIds: [id],
    });
  const file = async (who = oona, month = MONTH) => {
    const made = await fetch(`${stage.url}/api/archive?month=${month}`, { headers: { cookie: who.cookie } });
    return {
      status: made.status,
      name: made.headers.get('content-disposition'),
      bytes: Buffer.from(await made.arrayBuffer()),
    };
  };
  const readAgain = async (bytes: Buffer | string, who = oona) => {
    const made = await fetch(`${stage.url}/api/archive?name=a.ndjson.gz`, {
      method: 'POST',
      headers: { cookie: who.cookie, origin: stage.url, 'content-type': 'application/octet-stream' },
      body: new Uint8Array(Buffer.from(bytes)),
    });
    return { status: made.status, body: (await made.json()) as ReadAgain & { detail: string } };
  };
  const keeps = (keepsSentMonths: number | null) => oona.call('PUT', '/api/archive', { keepsSentMonths });
  const came = async (email: string, more: object = {}) => {
    await flow.send({ name: 'Ada', email, ...more });
    await flow.over(email);
    return arrivalOf(email);
  };

  it('is packed after three months, once, and can be looked at and handled again as before', async () => {
    const [ada, bo] = [await came('ada@example.org', { note: 'Grüße, 日本' }), await came('bo@example.org')];
    const before = await look(ada);
    await keepArchive(stage.db, inMonths(3));
    expect((await archive()).months, 'three months stand as they came').to.deep.equal([]);
    await Promise.all([keepArchive(stage.db, inMonths(4)), keepArchive(stage.db, inMonths(4))]);
    const { months } = await archive();
    expect(months.map(({ month, goesAt }) => [month, goesAt])).to.deep.equal([[MONTH, null]]);
    const { rows } = await stage.db.query<{ n: number; left: number }>(
      `select count(*)::int as n, count(*) filter (where body <> '' or headers <> '{}')::int as left from arrival where lead_id is not null`,
    );
    expect([months[0]!.arrivals, rows[0]!.left], 'each once').to.deep.equal([rows[0]!.n, 0]);
    expect(await look(ada)).to.deep.equal(before);
    expect(before.text).to.include('Grüße, 日本');
    const handled = await again(bo);
    expect([handled.status, handled.body.started], 'nobody is written to twice').to.deep.equal([200, 0]);
    expect((await look(bo)).text).to.include('bo@example.org');
    const { id } = (await stage.db.query<{ id: string }>(`select id from lead where email = 'ada@example.org'`))
      .rows[0]!;
    const theirs = (await oona.call<{ arrival: { body: string }[] }>('GET', `/api/leads/${id}/export`)).body;
    expect(theirs.arrival[0]!.body).to.include('ada@example.org');
  });

  it('is as it was after an update, and so is everything else when a part goes', async () => {
    await prepareDatabase(stage.databaseUrl);
    expect((await look(await arrivalOf('ada@example.org'))).text).to.include('ada@example.org');
  });

  it('what comes in late for a month that is packed gets a pack of its own', async () => {
    const id = await came('cleo@example.org');
    const before = await look(id);
    // As if it had come in before the last packing went by.
    await stage.db.query(`update archive_progress set packed_to = 'epoch'`);
    await keepArchive(stage.db, inMonths(4));
    expect(await look(id)).to.deep.equal(before);
    const { rows } = await stage.db.query('select from arrival_pack where month = $1', [MONTH]);
    expect(rows.length).to.equal(2);
  });

  it('goes to a file anybody can unpack; only an owner of the business gets it, and it stands in the trail', async () => {
    const { status, name, bytes } = await file();
    expect([status, name]).to.deep.equal([200, `attachment; filename*=UTF-8''arrivals-${MONTH.slice(0, 7)}.ndjson.gz`]);
    const [head, ...lines] = gunzipSync(bytes).toString('utf8').trimEnd().split('\n');
    expect(JSON.parse(head!)).to.deep.equal({ archive: 'arrivals', version: 1, month: MONTH });
    expect(lines.length).to.equal((await archive()).months[0]!.arrivals);
    expect(lines.map((line) => JSON.parse(line).text).join()).to.include('ada@example.org');
    expect((await stage.db.query(`select from audit where action = 'archive.download'`)).rowCount).to.equal(1);
    for (const month of ['2001-01-01', 'x', '']) expect((await file(oona, month)).status).to.equal(404);
  });

  it('is kept as long as the business says, whole months only; then handling it again says why it cannot', async () => {
    const id = await arrivalOf('ada@example.org');
    const { bytes } = await file();
    expect((await keeps(5)).status, 'not one of the list').to.equal(422);
    expect((await keeps(6)).status).to.equal(200);
    expect((await archive()).months[0]!.goesAt).to.equal(monthStart(Date.now(), -7).toISOString());
    await keepArchive(stage.db, inMonths(6));
    expect((await look(id)).kept, 'the sixth month').to.equal(true);
    const held = (
      await stage.db.query<{ id: string }>(
        `update arrival set state = 'refused', lead_id = null, kept_in = null, body = 'abc' where lead_id is not null and source_id <> $1 returning id`,
        [flow.source.id],
      )
    ).rows[0];
    await keepArchive(stage.db, inMonths(7));
    const after = await look(id);
    expect([after.kept, after.text, after.bytes]).to.deep.equal([false, null, 0]);
    expect(
      after.fields.map((field) => field.value),
      'what was understood stays',
    ).to.include('ada@example.org');
    const { rows } = await stage.db.query(`select from arrival where body <> ''`);
    expect([rows.length, held === undefined || held.id.length > 0], 'nor of what became no lead').to.deep.equal([
      0,
      true,
    ]);
    const { rows: parts } = await stage.db.query(`select from pg_class where relname ~ '^arrival_pack_\\d'`);
    expect(parts.length, 'its part of the table is dropped').to.equal(0);
    // Whatever was made while the part was there does without it.
    const refused = await again(id);
    expect([refused.status, refused.body.detail]).to.deep.equal([
      409,
      'Some of these are older than what comes in is kept for, so there is nothing left to read. Choose newer ones, or read an archive file again in the settings.',
    ]);

    // Read again, it is as it was; a second time nothing is left to do.
    await keeps(null);
    const lines = gunzipSync(bytes).toString('utf8').trimEnd().split('\n');
    const theirs = gzipSync(`${lines.find((line) => line.includes(id))}\n`);
    const broken = await readAgain(
      Buffer.concat([gzipSync(headLine(MONTH)), theirs, gzipSync('{"more').subarray(0, 12)]),
    );
    expect([broken.status, (await look(id)).kept], 'what was read before it breaks off is put back').to.deep.equal([
      422,
      true,
    ]);
    const { status, body } = await readAgain(bytes);
    expect([status, body.hereAlready, body.unknown, body.broken], body.detail).to.deep.equal([200, 1, 0, 0]);
    expect(body.putBack).to.equal(lines.length - 2);
    expect((await look(id)).text).to.include('Grüße, 日本');
    expect((await readAgain(gunzipSync(bytes))).body, 'unpacked as well').to.include({
      putBack: 0,
      hereAlready: body.putBack + 1,
    });
    await keepArchive(stage.db, inMonths(7));
    expect((await look(id)).kept, 'and stays, now that it is kept for good').to.equal(true);
  });

  it('whoever is erased is in no pack, and does not come back with a file that was kept', async () => {
    const { bytes } = await file();
    const { id } = (await stage.db.query<{ id: string }>(`select id from lead where email = 'bo@example.org'`))
      .rows[0]!;
    const before = (await archive()).months[0]!.arrivals;
    expect((await oona.call('POST', `/api/leads/${id}/erase`, { name: 'Ada' })).status).to.equal(200);
    expect((await archive()).months[0]!.arrivals).to.equal(before - 1);
    const now = gunzipSync((await file()).bytes).toString('utf8');
    expect(now).to.include('ada@example.org').and.not.include('bo@example.org');
    const { body } = await readAgain(bytes);
    expect(body).to.include({
      putBack: 0,
      unknown: 1,
      done: `0 put back, ${body.hereAlready} still here, 1 not known here, or erased since, and left out.`,
    });
    expect(gunzipSync((await file()).bytes).toString('utf8')).not.to.include('bo@example.org');
  });

  it('a file of another business, a broken, huge, future or foreign one changes nothing and says what is wrong', async () => {
    const { eve } = await otherBusiness(stage);
    const { bytes } = await file();
    const count = async () => (await stage.db.query('select from arrival_pack')).rowCount;
    const packs = await count();
    expect((await file(eve)).status, 'nobody else gets it').to.equal(404);
    expect((await readAgain(bytes, eve)).body).to.include({ putBack: 0, hereAlready: 0 });
    const line = sentLine({
      id: await arrivalOf('ada@example.org'),
      receivedAt: new Date(),
      headers: {},
      body: Buffer.from('x'),
    });
    for (const [wrong, words] of [
      ['', 'The file is empty.'],
      ['Name,Email\nAda,ada@example.org\n', 'This is no archive of arrivals: choose a file that was downloaded here.'],
      [
        gzipSync('{"archive":"arrivals","version":9,"month":"2026-03-01"}\n'),
        'This archive was written by a newer Pine Bell. Update this one, then read it again.',
      ],
      [
        bytes.subarray(0, bytes.length - 20),
        'The file is damaged or breaks off. What could be read of it was put back.',
      ],
      [
        Buffer.concat([gzipSync(headLine(MONTH)), gzipSync(Buffer.alloc(70 * 1024 * 1024, 0x20))]),
        'This is no archive of arrivals: a line in it is far too long.',
      ],
    ] as const) {
      const { status, body } = await readAgain(wrong as Buffer);
      expect([status, body.detail], words).to.deep.equal([422, words]);
    }
    const odd = await readAgain(`${headLine(MONTH)}{"id":1}\n\n${line}${line}not json\n`);
    expect(odd.body).to.include({ putBack: 0, hereAlready: 1, broken: 2 });
    const old = await readAgain(headLine('2001-01-01') + line);
    expect(old.body, 'a line of another month is none of this file').to.include({ putBack: 0, broken: 1 });
    await keeps(6);
    expect((await readAgain(headLine('2001-01-01'))).status, 'older than what is kept').to.equal(409);
    await keeps(null);
    expect(await count()).to.equal(packs);
  });

  it('the page tells of it', async () => {
    const page = await until('the page', async () => {
      const made = await fetch(`${stage.url}/settings/arrivals`, { headers: { cookie: oona.cookie } });
      return made.status === 200 ? made.text() : null;
    });
    expect(page).to.match(/What came in, as it was sent/);
    expect(page).to.include(`/api/archive?month=${MONTH}`);
  });
});
