import { expect } from 'chai';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { freshStep, momentOf, toTheLead } from '../stage/sheets.ts';
import { openStage, SIGN_IN, type Stage, signedIn, until } from '../stage/stage.ts';

/** The page each form stands on. */
const PAGE_OF: Record<string, string> = {
  business: '/settings',
  texts: '/settings/messages',
  marketing: '/settings/messages',
  counting: '/settings/messages',
  test: '/settings/you',
  theme: '/settings/you',
};

describe('settings, as their forms send them', () => {
  let stage: Stage;
  let oona: Coordinator;
  before(async function () {
    this.timeout(60_000);
    stage = await openStage();
    oona = await signedIn(stage);
  });
  after(() => stage.close());

  const save = async (form: string, fields: Record<string, string>, who = oona) => {
    const made = await fetch(`${stage.url}${PAGE_OF[form]}`, {
      method: 'POST',
      headers: { cookie: who.cookie, origin: stage.url },
      body: new URLSearchParams({ form, ...fields }),
      redirect: 'manual',
    });
    return { status: made.status, to: made.headers.get('location'), text: await made.text() };
  };
  const told = (page: { text: string }) => /role="alert"[^>]*>([^<]*)</.exec(page.text)?.[1];
  const SAVED = { status: 303 };
  const WRENFIELD = { name: 'Wrenfield Music School', country: 'GB', timeZone: 'Europe/London', holidays: '' };
  const business = async () =>
    (await stage.db.query('select name, country, time_zone, holidays from business')).rows[0];

  it('the business: saved as typed, in order and each day once; what cannot be is told, and stays in its form', async () => {
    expect(
      await save('business', { ...WRENFIELD, name: ' Wrenfield ', holidays: '2026-12-26\n2026-12-25, 2026-12-25' }),
    ).to.include(SAVED);
    expect(await business()).to.deep.include({ name: 'Wrenfield', holidays: ['2026-12-25', '2026-12-26'] });
    for (const [wrong, words] of [
      [{ name: ' ' }, 'Give the business a name.'],
      [{ timeZone: 'Europe/Atlantis' }, 'Choose a time zone from the list.'],
      [{ country: 'XX' }, 'Choose a country from the list.'],
      [{ holidays: '25 December' }, 'Write each holiday as 2026-12-25, one per line.'],
      [{ holidays: '2026-02-30' }, 'Write each holiday as 2026-12-25, one per line.'],
    ] as const) {
      const page = await save('business', { ...WRENFIELD, ...wrong });
      expect([page.status, told(page)], JSON.stringify(wrong)).to.deep.equal([422, words]);
      if ('holidays' in wrong) expect(page.text).to.include(wrong.holidays);
    }
    expect(await business(), 'none of it was saved').to.deep.include({ name: 'Wrenfield', time_zone: 'Europe/London' });
  });

  it('holidays are kept to from then on: the next working day is none of them', async () => {
    // Ten days from today are holidays.
    const dayOf = (days: number) =>
      new Intl.DateTimeFormat('en-CA', { timeZone: 'Europe/London' }).format(Date.now() + days * 86_400_000);
    const holidays = Array.from({ length: 11 }, (_, days) => dayOf(days));
    expect(await save('business', { ...WRENFIELD, holidays: holidays.join('\n') })).to.include(SAVED);
    const morning = {
      kind: 'time_of_day',
      time: '09:00',
      day: 'next_day',
      workingDays: true,
      whose: 'business',
    } as const;
    const flow = await liveFlow(stage, oona, [
      momentOf('a'),
      momentOf('b', { at: morning, ...toTheLead(freshStep('text', 't', { message: 'Good morning' })) }),
    ]);
    await flow.send({ name: 'Ida', email: 'holiday@example.org', phone: '+447700900611' });
    const due = (await flow.waits('holiday@example.org')).due_at;
    const day = new Intl.DateTimeFormat('en-CA', { timeZone: 'Europe/London' }).format(due);
    const weekday = new Intl.DateTimeFormat('en-GB', { timeZone: 'Europe/London', weekday: 'short' }).format(due);
    expect(day > holidays.at(-1)! && day <= dayOf(13), day).to.equal(true);
    expect(weekday).not.to.be.oneOf(['Sat', 'Sun']);
    await save('business', WRENFIELD);
  });

  it('what is counted: off, an email goes out as it was written; on, its links lead through us and its opening is seen', async () => {
    const flow = await liveFlow(stage, oona, [
      momentOf(
        'a',
        toTheLead(freshStep('email', 'e', { subject: 'Hi', message: 'See https://wrenfield.example/prices' })),
      ),
    ]);
    const mailTo = async (email: string) => {
      await flow.send({ name: 'Ida', email });
      return until('the email', () => stage.desk.world.state.mails.find((mail) => mail.mailbox === email));
    };
    expect(await save('counting', {})).to.include(SAVED);
    // The worker looks at its settings anew every few seconds.
    const plain = await until(
      'an email that is not counted',
      async () => {
        const mail = await mailTo(`plain-${Math.random()}@example.org`);
        return mail.html.includes('/o/') ? null : mail;
      },
      30_000,
    );
    expect(plain.html).to.include('https://wrenfield.example/prices').and.not.to.include(`${stage.url}/l/`);
    expect(await save('counting', { links: 'on', opens: 'on' })).to.include(SAVED);
    const counted = await until(
      'an email that is counted',
      async () => {
        const mail = await mailTo(`counted-${Math.random()}@example.org`);
        return mail.html.includes('/o/') ? mail : null;
      },
      30_000,
    );
    expect(counted.html).to.include(`${stage.url}/l/`);
  }).timeout(60_000);

  it('where tests go: a wrong address or number is told and stays as typed, a right one is written in full', async () => {
    for (const [typed, words] of [
      [{ testEmail: 'oona@', testPhone: '' }, 'Your test address is not an email address.'],
      [{ testEmail: '', testPhone: '12' }, 'Your test number is not a phone number that can be dialled.'],
      [{ testEmail: 'x'.repeat(300), testPhone: '' }, 'Your test address is too long.'],
    ] as const) {
      const page = await save('test', typed);
      expect([page.status, told(page)]).to.deep.equal([422, words]);
      expect(page.text).to.include(`value="${typed.testEmail || typed.testPhone}"`);
    }
    expect(await save('test', { testEmail: 'oona@wrenfield.example', testPhone: '07700 900 100' })).to.include(SAVED);
    const { rows } = await stage.db.query(
      `select test_phone from membership m join person p on p.id = m.person_id where p.email = $1`,
      [SIGN_IN.email],
    );
    expect(rows[0].test_phone).to.equal('+447700900100');
  });

  it('news a day: from 1 to 50, or without end; anything else is told', async () => {
    const limit = async () => (await stage.db.query('select marketing_per_day as most from business')).rows[0].most;
    expect(await save('marketing', { limited: 'on', most: '2' })).to.include(SAVED);
    expect(await limit()).to.equal(2);
    for (const most of ['51', '-1', '2.5', 'many'])
      expect((await save('marketing', { limited: 'on', most })).status, most).to.equal(422);
    expect(await limit()).to.equal(2);
    expect(await save('marketing', { most: '2' })).to.include(SAVED);
    expect(await limit()).to.equal(0);
  });

  it('are an owner’s or a manager’s to change; each change is on the trail with who made it', async () => {
    await stage.db.query(
      `update membership set role = 'coordinator' where person_id = (select id from person where email = 'tomas@wrenfield.example')`,
    );
    const tomas = await signedIn(stage, { ...SIGN_IN, email: 'tomas@wrenfield.example' });
    for (const [form, fields] of [
      ['business', { ...WRENFIELD, name: 'Mine' }],
      ['counting', { links: 'on' }],
      ['marketing', { limited: 'on', most: '50' }],
    ] as const) {
      const page = await save(form, fields, tomas);
      expect([page.status, told(page)], form).to.deep.equal([
        403,
        'Only a manager or an owner of this business can do that.',
      ]);
    }
    expect(await save('test', { testEmail: 'tomas@wrenfield.example', testPhone: '' }, tomas)).to.include(SAVED);
    expect(await business()).to.include({ name: WRENFIELD.name });
    const { rows } = await stage.db.query(
      `select distinct a.action, p.email from audit a join person p on p.id = a.person_id where a.action like 'business.%' order by 1`,
    );
    expect(rows).to.deep.equal(
      ['change', 'counting', 'marketing'].map((what) => ({ action: `business.${what}`, email: SIGN_IN.email })),
    );
  });
});
