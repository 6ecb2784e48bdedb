import { expect } from 'chai';
import nodeIcal from 'node-ical';
import type { WeekView } from '../../src/app/calendar/calendar.ts';
import { stepKinds } from '../../src/steps/registry.ts';
import { atTheDesk, type Coordinator, liveFlow } from '../stage/flow.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { momentOf, stepOf } from '../stage/sheets.ts';
import { type Stage, until } from '../stage/stage.ts';

/** Judge of the feed: node-ical, which shares no code with what writes it. Source: RFC 5545. */
describe('the calendar: held time, out as a feed and in from a file', () => {
  let stage: Stage;
  let oona: Coordinator;
  let me: string;
  before(async function () {
    this.timeout(60_000);
    ({ stage, oona } = await sharedStage());
    me = (await stage.db.query(`select id from person where email = 'oona@wrenfield.example'`)).rows[0].id;
  });
  const upload = (text: string) =>
    fetch(`${stage.url}/api/calendar/${me}?name=mine.ics`, {
      method: 'POST',
      headers: { cookie: oona.cookie, 'sec-fetch-site': 'same-origin' },
      body: text,
    });
  const tomorrow = new Date(Date.now() + 86_400_000).toISOString().slice(0, 10).replaceAll('-', '');
  const file = (title: string) =>
    [
      'BEGIN:VCALENDAR',
      'VERSION:2.0',
      'PRODID:-//Test//EN',
      'BEGIN:VEVENT',
      'UID:one@test',
      'DTSTAMP:20260101T000000Z',
      `DTSTART;TZID=Europe/London:${tomorrow}T080000`,
      `DTEND;TZID=Europe/London:${tomorrow}T090000`,
      `SUMMARY:${title}`,
      'END:VEVENT',
      'BEGIN:VEVENT',
      'UID:every@test',
      'DTSTAMP:20260101T000000Z',
      `DTSTART:${tomorrow}T100000Z`,
      `DTEND:${tomorrow}T103000Z`,
      'RRULE:FREQ=DAILY;COUNT=3',
      'SUMMARY:Orchestra\\, all of it',
      'END:VEVENT',
      'END:VCALENDAR',
      '',
    ].join('\r\n');

  it('brings appointments in once, changed ones again, and holds time beside them', async () => {
    expect(await (await upload(file('Dentist'))).json()).to.deep.equal({ added: 4, changed: 0, removed: 0 });
    expect(await (await upload(file('Dentist, moved'))).json()).to.deep.equal({ added: 0, changed: 4, removed: 0 });
    const wrong = await upload('hello');
    expect(wrong.status).to.equal(422);
    const flow = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: {
          lead: [],
          record: [],
          team: [
            stepOf('hold-time', 'h', {
              ...(stepKinds.get('hold-time')!.blank() as object),
              colleague: me,
              title: 'Call {{ lead.first_name }}; “now”',
              time: '08:15',
              day: 'next_day',
              workingDays: false,
              minutes: 15,
            }),
          ],
        },
      }),
    ]);
    await flow.send({ name: 'Zoë', email: 'held@example.org' });
    await flow.over('held@example.org');
    const { rows } = await stage.db.query(
      `select title, to_char(starts_at at time zone 'Europe/London', 'HH24:MI') as at from calendar_entry where colleague_id = $1 order by starts_at`,
      [me],
    );
    expect(rows.map((row) => `${row.at} ${row.title}`))
      .to.include('08:00 Dentist, moved')
      .and.include('09:00 Call Zoë; “now”');
  });

  it('a broken calendar file is refused in words or read as far as it goes, never a failure', async function () {
    this.timeout(30_000);
    const whole = file('Fuzzed').split('\r\n');
    const worse = [
      ...whole.map((_, i) => whole.filter((__, at) => at !== i)),
      ...whole.map((line, i) => whole.toSpliced(i, 1, line.slice(0, Math.ceil(line.length / 2)))),
      whole.map((line) => line.replace('RRULE:FREQ=DAILY;COUNT=3', 'RRULE:FREQ=SECONDLY')),
      whole.map((line) => line.replace('FREQ=DAILY;COUNT=3', 'FREQ=NEVER;INTERVAL=-1')),
      whole.map((line) => line.replace(/^DTSTART:.*/, 'DTSTART:99999999T999999Z')),
    ];
    for (const lines of worse) {
      const answer = await upload(lines.join('\r\n'));
      expect(answer.status, lines.join('\n')).to.be.oneOf([200, 422]);
    }
    await stage.db.query('delete from calendar_entry where colleague_id = $1', [me]);
    expect(await (await upload(file('Dentist'))).json()).to.deep.equal({ added: 4, changed: 0, removed: 0 });
  });

  it('an appointment put in by hand stands by the business’s clock, and never over another of the same person', async () => {
    const on = (startsAt: string, minutes = 30) =>
      oona.call<{ id: string; detail?: string }>('POST', '/api/calendar/appointments', {
        ...{ colleagueId: me, title: 'Parents’ evening', startsAt, minutes },
      });
    const day = new Date(Date.now() + 9 * 86_400_000).toISOString().slice(0, 10);
    const tries = await Promise.all([on(`${day}T10:00`), on(`${day}T10:15`), on(`${day}T10:29`)]);
    expect(tries.map((one) => one.status).sort()).to.deep.equal([200, 409, 409]);
    expect(tries.find((one) => one.status === 409)!.body.detail).to.include('They have “Parents’ evening” at 10:');
    expect((await on(`${day}T10:59`, 15)).status).to.equal(200);
    expect((await on('soon')).status).to.equal(422);
    const made = tries.find((one) => one.status === 200)!.body.id;
    expect((await oona.call('DELETE', `/api/calendar/appointments/${made}`)).status).to.equal(200);
    expect((await oona.call('DELETE', `/api/calendar/appointments/${made}`)).status).to.equal(404);
  });

  it('bookings of an outside calendar stand in a colleague’s week: booked, moved, cancelled, and told twice, once', async () => {
    const [source] = (await oona.call<WeekView>('GET', '/api/calendar')).body.bookings;
    expect((await oona.call('PUT', '/api/calendar/bookings', { ...source, colleagueId: me })).status).to.equal(200);
    stage.desk.world.state.trouble.calendarSendsTwice = true;
    const day = new Date(Date.now() + 3 * 86_400_000).toISOString().slice(0, 10);
    const at = (hour: string) => ({ start: `${day}T${hour}:00:00Z`, end: `${day}T${hour}:30:00Z` });
    const person = { name: 'Booked Person', email: 'booked@example.org', phone: '' };
    await atTheDesk(stage, '/appointments', {
      calendar: 'cal-piano',
      title: 'Trial, piano',
      ...at('10'),
      person,
      bookedBy: 'self',
    });
    const entries = async () =>
      (
        await stage.db.query(
          `select e.title, e.starts_at, l.email, e.colleague_id from calendar_entry e left join lead l on l.id = e.lead_id where e.uid like 'booking:%'`,
        )
      ).rows;
    await until('the booking in the week', async () => (await entries()).length === 1);
    expect((await entries())[0]).to.deep.include({ email: 'booked@example.org', colleague_id: me });
    const appointment = stage.desk.world.state.appointments.at(-1)!;
    await atTheDesk(stage, `/appointments/${appointment.id}`, { status: 'moved' });
    const next = new Date(Date.parse(`${day}T10:00:00Z`) + 86_400_000).toISOString();
    await until('it to be moved', async () => (await entries())[0]?.starts_at.toISOString() === next);
    await atTheDesk(stage, `/appointments/${appointment.id}`, { status: 'cancelled' });
    await until('it to be gone', async () => (await entries()).length === 0);
    stage.desk.world.state.trouble.calendarSendsTwice = false;
  });

  it('an independent parser reads the feed back; another address ends the old one', async () => {
    const { feed } = (await oona.call<{ feed: string }>('POST', '/api/calendar/feed')).body;
    const text = await (await fetch(feed)).text();
    for (const line of text.split('\r\n'))
      expect(Buffer.byteLength(line), 'RFC 5545 §3.1: 75 octets a line').to.be.at.most(75);
    const events = Object.values(nodeIcal.sync.parseICS(text)).flatMap((one) => (one?.type === 'VEVENT' ? [one] : []));
    const { rows } = await stage.db.query(
      `select title, starts_at, ends_at from calendar_entry where colleague_id = $1`,
      [me],
    );
    const flat = (title: string, from: Date, to: Date) => `${title} ${from.toISOString()} ${to.toISOString()}`;
    expect(events.map((event) => flat(String(event.summary), event.start, event.end!))).to.have.members(
      rows.map((row) => flat(row.title, row.starts_at, row.ends_at)),
    );
    expect(rows.map((row) => row.title)).to.include('Orchestra, all of it');
    await oona.call('POST', '/api/calendar/feed');
    expect((await fetch(feed)).status).to.equal(404);
    const page = await (
      await fetch(`${stage.url}/calendar?week=nonsense`, { headers: { cookie: oona.cookie } })
    ).text();
    expect(page).to.include('Calendar');
  });
});
