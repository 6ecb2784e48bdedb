import { expect } from 'chai';
import { addressGuard } from '../../src/gateways/address-guard.ts';
import { CalendarAccounts } from '../../src/gateways/calendar-account.ts';
import { HttpCaller } from '../../src/gateways/http.ts';
import { CALENDAR_USER, type CalendarServer, eventOf, openCalendarServer } from '../stage/calendar-server.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { type Invented, invented } from '../stage/invented-services.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { openStage, type Stage, signedIn, until } from '../stage/stage.ts';

const DAY_MS = 86_400_000;
/** "20261203T090000Z" */
const stamp = (at: Date) => at.toISOString().replace(/[-:]|\.\d+/g, '');
const between = (start: Date, minutes: number) => [
  `DTSTART:${stamp(start)}`,
  `DTEND:${stamp(new Date(start.getTime() + minutes * 60_000))}`,
];
/** Some days from now, at an hour in UTC. */
const at = (days: number, hour: number, minute = 0) => {
  const day = new Date(Date.now() + days * DAY_MS);
  return new Date(Date.UTC(day.getUTCFullYear(), day.getUTCMonth(), day.getUTCDate(), hour, minute));
};

describe('calendars colleagues keep elsewhere, on a server nobody here wrote (Radicale)', function () {
  this.timeout(60_000);
  let server: CalendarServer;
  let work: string;
  before(async () => {
    server = await openCalendarServer();
    work = await server.make('Work');
    await server.make('People', 'addressbook');
  });
  after(() => server?.close());

  describe('the server', () => {
    const accounts = new CalendarAccounts(new HttpCaller(addressGuard(true)));
    const account = () => ({ address: server.address, ...CALENDAR_USER });
    const year = { from: at(-31, 0), to: at(366, 0) };

    it('is found by its address alone (RFC 6764, RFC 4791 §6.2.1); other collections are none', async () => {
      const found = await accounts.calendars(account());
      expect(found).to.deep.equal({ ok: true, value: [{ href: work, name: 'Work', writable: true }] });
      const wrong = await accounts.calendars({ ...account(), password: 'wrong' });
      expect(wrong).to.deep.include({ ok: false, refused: true });
      expect(wrong.ok ? '' : wrong.problem).to.include('user name and password');
      const inside = new CalendarAccounts(new HttpCaller(addressGuard(false)));
      const guarded = await inside.calendars(account());
      expect(guarded.ok ? '' : guarded.problem).to.include('not a public address');
    });

    it('takes what is new, what is changed by its mark only, and takes out', async () => {
      const one = eventOf('one', [...between(at(2, 9), 30), 'SUMMARY:One']);
      const put = await accounts.write(account(), { calendar: work, name: 'one.ics', href: null, etag: null }, one);
      if (!put.ok || put.value === 'conflict') throw new Error('not taken');
      const again = await accounts.write(account(), { calendar: work, name: 'one.ics', href: null, etag: null }, one);
      expect(again).to.deep.equal({ ok: true, value: 'conflict' });
      const got = await accounts.read(account(), work, null, year);
      if (!got.ok) throw new Error(got.problem);
      expect(got.value.things?.map(({ href }) => href)).to.deep.equal([`${work}one.ics`]);
      const same = await accounts.read(account(), work, got.value.tag, year);
      expect(same).to.deep.equal({ ok: true, value: { tag: got.value.tag, things: null } });
      const { href, etag } = got.value.things![0]!;
      const moved = one.replace('SUMMARY:One', 'SUMMARY:Another');
      const change = (mark: string | null) =>
        accounts.write(account(), { calendar: work, name: 'one.ics', href, etag: mark }, moved);
      expect((await change(etag)).ok).to.equal(true);
      expect(await change(etag)).to.deep.equal({ ok: true, value: 'conflict' });
      expect(await accounts.remove(account(), href, etag)).to.deep.equal({ ok: true, value: 'conflict' });
      expect(await accounts.remove(account(), href, null)).to.deep.equal({ ok: true, value: 'gone' });
      expect(await accounts.remove(account(), href, null)).to.deep.equal({ ok: true, value: 'gone' });
    });

    it('one that answers something else is told as such', async () => {
      const answers: [string, number, string][] = [
        ['text/html', 200, '<html>Back soon</html>'],
        ['application/xml', 207, '<?xml version="1.0"?><multistatus xmlns="DAV:"><response>'],
        [
          'application/xml',
          207,
          `<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b "${'x'.repeat(1000)}">]><multistatus xmlns="DAV:">${'&b;'.repeat(500)}</multistatus>`,
        ],
        ['application/xml', 500, ''],
      ];
      for (const [type, status, body] of answers) {
        const odd = await invented(() => ({ status, headers: { 'content-type': type }, body }));
        const got = await accounts.read({ address: odd.address, ...CALENDAR_USER }, `${odd.address}/c/`, null, year);
        const found = await accounts.calendars({ address: odd.address, ...CALENDAR_USER });
        await odd.close();
        expect(found.ok && found.value.length > 0, body.slice(0, 60)).to.equal(false);
        expect(got.ok, body.slice(0, 60)).to.equal(false);
        expect(got.ok ? '' : got.problem).to.match(/\.$/);
      }
    });

    it('a page or half a list instead of what is in it is never taken for nothing in it', async () => {
      const list = (inside: string) =>
        `<?xml version="1.0"?><d:multistatus xmlns:d="DAV:" xmlns:c="x">${inside}</d:multistatus>`;
      const marked = list(
        '<d:response><d:href>/c/</d:href><d:propstat><d:prop><c:getctag>7</c:getctag></d:prop><d:status>HTTP/1.1 200 OK</d:status></d:propstat></d:response>',
      );
      const one = list(
        '<d:response><d:href>/c/one</d:href><d:propstat><d:prop><d:getetag>"1"</d:getetag></d:prop><d:status>HTTP/1.1 200 OK</d:status></d:propstat></d:response>',
      );
      const asked = async (listed: [number, string], got: [number, string] = listed) => {
        const said = ([status, body]: [number, string]) => ({
          status,
          headers: { 'content-type': 'application/xml' },
          body,
        });
        const odd = await invented(({ method, body }) =>
          method === 'PROPFIND' ? said([207, marked]) : said(/multiget/.test(body) ? got : listed),
        );
        const answer = await accounts.read({ address: odd.address, ...CALENDAR_USER }, `${odd.address}/c/`, '6', year);
        await odd.close();
        return answer;
      };
      for (const odd of [
        [200, '<html>Back soon</html>'],
        [200, one],
        [207, one.slice(0, -20)],
        [207, ''],
        [503, ''],
        [302, ''],
      ] as [number, string][]) {
        expect((await asked(odd)).ok, JSON.stringify(odd)).to.equal(false);
        expect((await asked([207, one], odd)).ok, `the things: ${JSON.stringify(odd)}`).to.equal(false);
      }
      // Nothing in it is nothing in it, and a thing may be called anything.
      for (const empty of [list(''), '<multistatus xmlns="DAV:"/>'])
        expect(await asked([207, empty])).to.deep.equal({ ok: true, value: { tag: '7', things: [] } });
      const whole = list(
        '<d:response><d:href>/c/one</d:href><d:propstat><d:prop><d:getetag>"1"</d:getetag><c:calendar-data>BEGIN:VCALENDAR</c:calendar-data></d:prop><d:status>HTTP/1.1 200 OK</d:status></d:propstat></d:response>',
      );
      const named = await asked([207, one], [207, whole]);
      expect(named.ok && named.value.things?.map(({ text }) => text)).to.deep.equal(['BEGIN:VCALENDAR']);
    });
  });

  describe('and ours, in step, in real processes', () => {
    let stage: Stage;
    let oona: Coordinator;
    let person: string;
    let business: string;
    let own: string;
    let file: Invented;
    before(async () => {
      stage = await openStage();
      oona = await signedIn(stage);
      const { rows } = await stage.db.query<{ id: string; business: string }>(
        `select p.id, m.business_id as business from person p join membership m on m.person_id = p.id where p.email = 'oona@wrenfield.example'`,
      );
      person = rows[0]!.id;
      business = rows[0]!.business;
      await stage.db.query('delete from calendar_entry');
    });
    after(async () => {
      await file?.close();
      await stage?.close();
    });
    const entries = async () =>
      (
        await stage.db.query<{ id: string; title: string; starts_at: Date; ends_at: Date; uid: string | null }>(
          'select id, title, starts_at, ends_at, uid from calendar_entry where colleague_id = $1 order by starts_at',
          [person],
        )
      ).rows;
    const look = () => stage.db.query('update own_calendar set next_at = now()');
    /** Looked at again and again: a look that has gone wrong puts the next one off. */
    const looking = (what: string, test: () => Promise<boolean>) => {
      let last = 0;
      return until(what, async () => {
        if (Date.now() - last > 1000) {
          last = Date.now();
          await look();
        }
        return test();
      });
    };
    const seen = (what: string, test: (all: Awaited<ReturnType<typeof entries>>) => boolean) =>
      looking(what, async () => test(await entries()));

    it('what stands there takes time here, a series as its single times, and as busy only', async () => {
      await server.put(work, 'dentist.ics', eventOf('dentist', [...between(at(3, 10), 60), 'SUMMARY:Dentist']));
      await server.put(
        work,
        'class.ics',
        eventOf('class', [...between(at(4, 8), 45), 'SUMMARY:Class', 'RRULE:FREQ=DAILY;COUNT=3']),
      );
      await server.put(work, 'free.ics', eventOf('free', [...between(at(3, 12), 60), 'TRANSP:TRANSPARENT']));
      const made = await oona.call<{ id: string; found: string; detail: string }>('POST', '/api/connections', {
        ...{ kind: 'calendar_account', name: 'Diary', address: server.address },
        ...{ user: CALENDAR_USER.user, secret: CALENDAR_USER.password },
      });
      expect(made.body.found, made.body.detail).to.equal('It lets us in: one calendar.');
      const choices = await oona.call<{ calendars: { href: string }[] }>(
        'GET',
        `/api/calendar/own/choices?connection=${made.body.id}`,
      );
      const input = { connectionId: made.body.id, colleagueId: person, writes: true, titles: false };
      const added = await oona.call<{ id: string; detail: string }>('POST', '/api/calendar/own', {
        ...{ ...input, href: choices.body.calendars[0]!.href },
      });
      expect(added.status, added.body.detail).to.equal(200);
      own = added.body.id;
      await seen('all four', (all) => all.length === 4);
      expect((await entries()).map(({ title }) => title)).to.deep.equal(Array(4).fill('Busy'));
      expect((await entries())[0]!.starts_at).to.deep.equal(at(3, 10));
      // What stands there is taken out there.
      const out = await oona.call<{ detail: string }>(
        'DELETE',
        `/api/calendar/appointments/${(await entries())[0]!.id}`,
      );
      expect([out.status, out.body.detail]).to.deep.equal([
        409,
        'It stands in their own calendar. Take it out there, and it goes here within a minute.',
      ]);
      await server.remove(work, 'class.ics');
      await server.put(work, 'dentist.ics', eventOf('dentist', [...between(at(3, 11), 60), 'SUMMARY:Dentist']));
      await seen('the changes', (all) => all.length === 1 && all[0]!.starts_at.getTime() === at(3, 11).getTime());
      // The connection is not removed from under it.
      const gone = await oona.call<{ detail: string }>('DELETE', `/api/connections/${made.body.id}`);
      expect(gone.body.detail).to.include('the calendar “Work” of Oona');
    });

    it('nothing is put over it by hand, and what is put here stands there within moments', async () => {
      const put = (startsAt: Date, title: string) =>
        oona.call<{ id: string; detail: string }>('POST', '/api/calendar/appointments', {
          ...{ colleagueId: person, title, startsAt: localOf(startsAt), minutes: 30 },
        });
      expect((await put(at(3, 11, 15), 'Over it')).body.detail).to.include('They have “Busy”');
      const made = await put(at(3, 14), 'Call, about “Grüße”; and more');
      expect(made.status, made.body.detail).to.equal(200);
      // Nobody looks by hand here: putting it in is enough.
      await until('it to stand there', async () => (await server.things(work)).has(`${made.body.id}.ics`));
      const text = (await server.things(work)).get(`${made.body.id}.ics`)!;
      expect(text).to.include(`UID:${made.body.id}@pine-bell`);
      expect(text.replace(/\r?\n /g, '')).to.include('SUMMARY:Call\\, about “Grüße”\\; and more');
      // It is not read back as something that takes time beside itself.
      await look();
      await until('a look', async () => {
        const { rows } = await stage.db.query(`select from own_calendar where next_at > now() and lease_until is null`);
        return rows.length === 1;
      });
      expect((await entries()).map(({ title }) => title)).to.deep.equal(['Busy', 'Call, about “Grüße”; and more']);
    });

    it('moved there it is moved here, changed here it is changed there, and what is changed in both goes by ours', async () => {
      const [, ours] = await entries();
      const name = `${ours!.id}.ics`;
      const moveThere = async (to: Date) => {
        const text = (await server.things(work)).get(name)!;
        const moved = text
          .replace(/DTSTART[^\r\n]*/, `DTSTART:${stamp(to)}`)
          .replace(/DTEND[^\r\n]*/, `DTEND:${stamp(new Date(to.getTime() + 30 * 60_000))}`);
        await server.put(work, name, moved.replaceAll('\r\n', '\n'));
      };
      await moveThere(at(3, 16));
      await seen('it to be moved here', (all) =>
        all.some(({ starts_at }) => starts_at.getTime() === at(3, 16).getTime()),
      );
      await stage.db.query('update calendar_entry set starts_at = $2, ends_at = $3 where id = $1', [
        ...[ours!.id, at(3, 17), at(3, 17, 30)],
      ]);
      const stands = async (when: Date) =>
        (await server.things(work)).get(name)?.includes(`DTSTART:${stamp(when)}`) ?? false;
      await until('it to be changed there', () => stands(at(3, 17)));
      // In both: another process holds our look until theirs is there.
      await stage.db.query(
        `update own_calendar set lease_until = now() + interval '1 hour', next_at = now() + interval '1 hour'`,
      );
      await moveThere(at(3, 18));
      await stage.db.query('update calendar_entry set starts_at = $2, ends_at = $3 where id = $1', [
        ...[ours!.id, at(3, 19), at(3, 19, 30)],
      ]);
      await stage.db.query(`update own_calendar set lease_until = null, next_at = now()`);
      await until('ours to stand there', () => stands(at(3, 19)));
      expect((await entries()).at(-1)!.starts_at).to.deep.equal(at(3, 19));
    });

    it('taken out here it goes there, taken out there it goes here; a calendar that was emptied takes nothing along', async () => {
      const [, ours] = await entries();
      await server.remove(work, `${ours!.id}.ics`);
      await seen('it to go here', (all) => all.length === 1);
      const many = await Promise.all(
        [0, 1, 2, 3, 4].map((n) =>
          oona.call<{ id: string }>('POST', '/api/calendar/appointments', {
            ...{ colleagueId: person, title: `Held ${n}`, startsAt: localOf(at(5, 9 + n)), minutes: 30 },
          }),
        ),
      );
      const names = many.map(({ body }) => `${body.id}.ics`);
      await until('all of them there', async () => {
        const there = await server.things(work);
        return names.every((name) => there.has(name));
      });
      expect((await oona.call('DELETE', `/api/calendar/appointments/${many[0]!.body.id}`)).status).to.equal(200);
      await until('it to go there', async () => !(await server.things(work)).has(names[0]!));
      for (const name of names.slice(1)) await server.remove(work, name);
      await look();
      await until('them to be put there anew', async () => {
        const there = await server.things(work);
        return names.slice(1).every((name) => there.has(name));
      });
      expect((await entries()).filter(({ title }) => title.startsWith('Held'))).to.have.length(4);
      await stage.db.query(`delete from calendar_entry where title like 'Held%'`);
      await until('them to go', async () => (await server.things(work)).size === 2);
    });

    it('a step holds time past what stands there, and what it held before it could know makes room', async () => {
      const flow = await liveFlow(stage, oona, [
        momentOf('m', {
          lanes: {
            lead: [],
            record: [],
            team: [
              freshStep('hold-time', 'h', {
                ...{ colleague: person, title: 'Call {{ lead.first_name }}', time: '09:00', day: 'next_day' },
                ...{ workingDays: false, minutes: 30 },
              }),
            ],
          },
        }),
      ]);
      const { rows } = await stage.db.query<{ nine: Date }>(
        `select ((now() at time zone time_zone)::date + 1 + time '09:00') at time zone time_zone as nine from business where id = $1`,
        [business],
      );
      const nine = rows[0]!.nine;
      await server.put(work, 'early.ics', eventOf('early', [...between(nine, 60), 'SUMMARY:Early']));
      await seen('it', (all) => all.some(({ uid }) => uid?.endsWith(':early')));
      const held = async (title: string) => (await entries()).find((entry) => entry.title === title);
      await flow.send({ name: 'Ada', email: 'ada.hold@example.com', phone: '07700 900185' });
      await flow.over('ada.hold@example.com');
      expect((await held('Call Ada'))!.starts_at).to.deep.equal(new Date(nine.getTime() + 60 * 60_000));
      // Theirs comes a moment later than the hold.
      const late = new Date(nine.getTime() + 90 * 60_000);
      await flow.send({ name: 'Bo', email: 'bo.hold@example.com', phone: '07700 900186' });
      await flow.over('bo.hold@example.com');
      expect((await held('Call Bo'))!.starts_at).to.deep.equal(late);
      await server.put(work, 'late.ics', eventOf('late', [...between(late, 30), 'SUMMARY:Late']));
      await looking('it to make room', async () => (await held('Call Bo'))!.starts_at > late);
      expect((await held('Call Bo'))!.starts_at).to.deep.equal(new Date(late.getTime() + 30 * 60_000));
      const { id } = (await held('Call Bo'))!;
      await until('it to stand there where it is now', async () =>
        ((await server.things(work)).get(`${id}.ics`) ?? '').includes(
          `DTSTART:${stamp(new Date(late.getTime() + 30 * 60_000))}`,
        ),
      );
    });

    it('a server that is away is told, loses nothing, and catches up', async () => {
      await server.stop();
      await looking('the trouble', async () => {
        const { rows } = await stage.db.query(`select problem from own_calendar where id = $1 and problem <> ''`, [
          own,
        ]);
        return rows.length === 1;
      });
      const before = (await entries()).length;
      const made = await oona.call<{ id: string }>('POST', '/api/calendar/appointments', {
        ...{ colleagueId: person, title: 'While away', startsAt: localOf(at(6, 9)), minutes: 30 },
      });
      expect((await entries()).length).to.equal(before + 1);
      await server.start();
      await looking('it to stand there', async () => (await server.things(work)).has(`${made.body.id}.ics`));
      const { body } = await oona.call<{ calendars: { problem: string; lastOkAt: string | null }[] }>(
        'GET',
        '/api/calendar/own',
      );
      await looking('all to be well', async () => {
        const again = await oona.call<typeof body>('GET', '/api/calendar/own');
        return again.body.calendars[0]!.problem === '' && again.body.calendars[0]!.lastOkAt !== null;
      });
    });

    it('is read whole once a day, though its mark says that nothing is new: series go on', async () => {
      const busy = async () => (await entries()).filter(({ uid }) => uid?.startsWith(`own:${own}:`)).length;
      const before = await busy();
      expect(before).to.be.greaterThan(0);
      const lookedAt = async () => {
        const since = new Date();
        await looking('a look', async () => {
          const { rows } = await stage.db.query(
            `select from own_calendar where last_ok_at > $1 and lease_until is null`,
            [since],
          );
          return rows.length === 1;
        });
      };
      // What was written there last has been read, and nothing is new.
      await lookedAt();
      await lookedAt();
      await stage.db.query(`delete from calendar_entry where uid like 'own:%'`);
      await lookedAt();
      expect(await busy()).to.equal(0);
      await stage.db.query(`update own_calendar set tag = '2020-01-01 ' || substr(tag, 12)`);
      await looking('all of it', async () => (await busy()) === before);
    });

    it('an address that gives a calendar is read as well, and shown to nobody', async () => {
      let text = eventOf('gig', [...between(at(8, 19), 120), 'SUMMARY:Gig']);
      file = await invented(() => ({
        headers: { 'content-type': 'text/calendar', etag: `"${text.length}"` },
        body: text,
      }));
      const made = await oona.call<{ id: string; found: string; detail: string; settings: { address: string } }>(
        'POST',
        '/api/connections',
        { kind: 'calendar_account', name: 'Gigs', address: `${file.address}/private-7f3a/gigs.ics` },
      );
      expect(made.body.found, made.body.detail).to.equal('It gives a calendar: Calendar.');
      expect(made.body.settings.address).to.equal(`${file.address}/…`);
      const input = { connectionId: made.body.id, colleagueId: person, href: '', titles: true };
      const writes = await oona.call<{ detail: string }>('POST', '/api/calendar/own', { ...input, writes: true });
      expect(writes.body.detail).to.include('can only be read');
      const added = await oona.call<{ id: string }>('POST', '/api/calendar/own', { ...input, writes: false });
      await seen('the gig', (all) => all.some(({ title }) => title === 'Gig'));
      text = eventOf('gig', [...between(at(8, 20), 120), 'SUMMARY:Gig, later']);
      await seen('it to be later', (all) => all.some(({ title }) => title === 'Gig, later'));
      // Half of it, as it breaks off: what was known stays, and it is told.
      const whole = text;
      text = text.slice(0, text.indexOf('END:VEVENT'));
      await looking('the trouble', async () => {
        const { rows } = await stage.db.query(`select from own_calendar where id = $1 and problem <> ''`, [
          added.body.id,
        ]);
        return rows.length === 1;
      });
      expect((await entries()).some(({ title }) => title === 'Gig, later')).to.equal(true);
      text = whole;
      const twice = await oona.call<{ detail: string }>('POST', '/api/calendar/own', { ...input, writes: false });
      expect([twice.status, twice.body.detail]).to.deep.equal([409, 'This calendar of theirs is there already.']);
      expect((await oona.call('DELETE', `/api/calendar/own/${added.body.id}`)).status).to.equal(200);
      expect((await entries()).some(({ title }) => title.startsWith('Gig'))).to.equal(false);
    });

    /** By the business's clock, as the form sends it. */
    function localOf(when: Date): string {
      const parts = new Intl.DateTimeFormat('sv-SE', {
        timeZone: 'Europe/London',
        dateStyle: 'short',
        timeStyle: 'short',
      });
      return parts.format(when).replace(' ', 'T');
    }
  });
});
