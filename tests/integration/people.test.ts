import { expect } from 'chai';
import type { PersonView } from '../../src/app/people/people.ts';
import { type Coordinator, liveFlow } from '../stage/flow.ts';
import { otherBusiness } from '../stage/other-business.ts';
import { sharedStage } from '../stage/shared-stage.ts';
import { freshStep, momentOf } from '../stage/sheets.ts';
import { type Stage, signedIn, until } from '../stage/stage.ts';

const PASSWORD = 'violet tuba harvest';

describe('people of a business', function () {
  this.timeout(60_000);
  let stage: Stage;
  let oona: Coordinator;
  before(async () => {
    ({ stage } = await sharedStage());
    // What is dangerous asks for a sign-in of late.
    oona = await signedIn(stage);
  });

  /** Sends a form of a page nobody is signed in at. */
  const post = async (path: string, fields: Record<string, string>) => {
    const answer = await fetch(stage.url + path, {
      method: 'POST',
      headers: { origin: stage.url },
      body: new URLSearchParams(fields),
      redirect: 'manual',
    });
    return {
      status: answer.status,
      to: answer.headers.get('location') ?? '',
      cookie: answer.headers.get('set-cookie')?.split(';')[0] ?? '',
      text: await answer.text(),
    };
  };
  const invite = async (more: Record<string, unknown> = {}) => {
    const answer = await oona.call<{ id: string; link: string | null; detail?: string }>('POST', '/api/invitations', {
      ...{ email: '', role: 'desk', ...more },
    });
    expect(answer.status, answer.body.detail).to.equal(200);
    return { id: answer.body.id, path: answer.body.link?.replace(stage.url, '') ?? '' };
  };
  /** Somebody new, signed in. */
  const join = async (name: string, more: Record<string, unknown> = {}) => {
    const email = `${name.toLowerCase()}@wrenfield.example`;
    const { path } = await invite(more);
    const came = await post(path, { name, email, password: PASSWORD });
    expect(came.status, came.text).to.equal(303);
    const person = await signedIn(stage, { email, password: PASSWORD });
    const people = (await oona.call<PersonView[]>('GET', '/api/people')).body;
    return { ...person, email, id: people.find((one) => one.email === email)!.id };
  };
  const mailTo = (email: string, subject: RegExp) =>
    stage.desk.world.state.mails.filter((mail) => mail.mailbox === email && subject.test(mail.subject));
  const linkIn = (text: string) =>
    /https?:\/\/\S+\/(?:join|new-password)\/[\w-]+/.exec(text)![0].replace(stage.url, '');
  const number = async (sql: string, values: unknown[] = []) =>
    (await stage.db.query<{ n: number }>(sql, values)).rows[0]!.n;

  describe('are invited', () => {
    it('by an email whose link lets them in once, into their role and team', async () => {
      const team = (await oona.call<{ id: string }>('POST', '/api/teams', { name: 'Brass', people: [] })).body.id;
      const email = 'horn@wrenfield.example';
      await invite({ email: 'HORN@wrenfield.example', name: 'Hana', role: 'coordinator', teams: [team] });
      const mail = await until('the invitation', () => mailTo(email, /invites you/)[0]);
      const path = linkIn(mail.text);
      const page = await fetch(stage.url + path);
      expect(page.headers.get('cache-control')).to.equal('no-store');
      expect(await page.text())
        .to.include('Wrenfield Music School')
        .and.to.include('Hana');
      expect(
        (await post(path, { name: 'Hana', email: 'other@wrenfield.example', password: 'password123' })).status,
      ).to.equal(422);
      const came = await post(path, { name: 'Hana', email: 'other@wrenfield.example', password: PASSWORD });
      expect([came.status, came.to]).to.deep.equal([303, '/']);
      // The address it was sent to is theirs, whatever was put in.
      const people = (await oona.call<PersonView[]>('GET', '/api/people')).body;
      const hana = people.find((one) => one.email === email)!;
      expect([hana.name, hana.role, hana.teams]).to.deep.equal(['Hana', 'coordinator', [team]]);
      for (const again of [
        await post(path, { name: 'Two', email, password: PASSWORD }),
        await post(path, {} as never),
      ]) {
        expect(again.status).to.equal(404);
        expect(again.text).to.include('no longer good');
      }
      expect(
        (await oona.call<{ detail: string }>('POST', '/api/invitations', { email, role: 'desk' })).body.detail,
      ).to.match(/belongs to this business already/);
    });

    it('by a link to hand over that lets in one of two who follow it at the same moment', async () => {
      const { path } = await invite();
      const both = await Promise.all(
        ['race1', 'race2'].map((name) => post(path, { name, email: `${name}@wrenfield.example`, password: PASSWORD })),
      );
      expect(both.map(({ status }) => status).sort()).to.deep.equal([303, 404]);
      expect(await number(`select count(*)::int as n from person where email like 'race_@wrenfield.example'`)).to.equal(
        1,
      );
    });

    it('and are not let in by a link that was withdrawn, renewed, has run out, or that we have not signed', async () => {
      const withdrawn = await invite();
      expect((await oona.call('DELETE', `/api/invitations/${withdrawn.id}`)).status).to.equal(200);
      const renewed = await invite();
      const fresh = (await oona.call<{ link: string }>('POST', `/api/invitations/${renewed.id}/again`)).body.link;
      const late = await invite();
      await stage.db.query(`update invitation set expires_at = now() - interval '1 second' where id = $1`, [late.id]);
      const forged = `/join/${renewed.id.replaceAll('-', '')}${'A'.repeat(43)}`;
      for (const path of [
        withdrawn.path,
        renewed.path,
        late.path,
        forged,
        fresh.replace(stage.url, '').replace('/join/', '/new-password/'),
      ]) {
        expect((await fetch(stage.url + path)).status, path).to.equal(404);
        expect(
          (await post(path, { name: 'X', email: 'x@wrenfield.example', password: PASSWORD, again: PASSWORD })).status,
          path,
        ).to.equal(404);
      }
      expect((await fetch(fresh)).status).to.equal(200);
      expect((await oona.call('POST', `/api/invitations/${withdrawn.id}/again`)).status).to.equal(404);
      expect(await number(`select count(*)::int as n from person where email = 'x@wrenfield.example'`)).to.equal(0);
    });

    it('with the sign-in they have elsewhere, once they prove that it is theirs', async () => {
      const { eve, business, person } = await otherBusiness(stage);
      const { path } = await invite({ role: 'viewer' });
      expect(
        (await post(path, { name: 'Eve', email: 'eve@other.example', password: 'not hers at all' })).status,
      ).to.equal(401);
      expect(
        (await post(path, { name: 'Eve', email: 'eve@other.example', password: 'other-password' })).status,
      ).to.equal(303);
      const { rows } = await stage.db.query('select business_id from membership where person_id = $1', [person]);
      expect(rows.length).to.equal(2);
      // Where she was signed in she still is, in her own business; which of the two is meant she says from now on.
      expect((await eve.call('GET', '/api/people')).status).to.equal(409);
      const { rows: named } = await stage.db.query<{ key: string }>('select key from business where id = $1', [
        business,
      ]);
      expect((await eve.call<{ name: string }[]>('GET', `/at/${named[0]!.key}/api/people`)).body.length).to.equal(1);
      await stage.db.query('delete from membership where person_id = $1 and business_id <> $2', [person, business]);
      await stage.db.query('delete from session where person_id = $1 and business_id <> $2', [person, business]);
    });
  });

  it('of the last two owners who stop at the same moment, one stays', async () => {
    const [ann, ben] = [await join('Annot', { role: 'owner' }), await join('Benet', { role: 'owner' })];
    const people = (await oona.call<PersonView[]>('GET', '/api/people')).body;
    const others = people
      .filter(({ role, id }) => role === 'owner' && id !== ann.id && id !== ben.id)
      .map(({ id }) => id);
    await stage.db.query(`update membership set role = 'manager' where person_id = any($1::uuid[])`, [others]);
    try {
      const change = { role: 'viewer', whoseLeads: 'all', teams: [] };
      const answers = await Promise.all([
        ann.call<{ detail?: string }>('PUT', `/api/people/${ann.id}`, change),
        ben.call<{ detail?: string }>('POST', `/api/people/${ben.id}/leave`, { to: null }),
      ]);
      expect(answers.map(({ status }) => status).sort(), JSON.stringify(answers)).to.deep.equal([200, 409]);
      expect(answers.find(({ status }) => status === 409)!.body.detail).to.match(/is the only owner/);
      expect(
        await number(`select count(*)::int as n from membership where role = 'owner' and person_id = any($1::uuid[])`, [
          [ann.id, ben.id],
        ]),
      ).to.equal(1);
    } finally {
      await stage.db.query(`update membership set role = 'owner' where person_id = any($1::uuid[])`, [others]);
    }
  });

  it('who leave hand over their leads, tasks, conversations, appointments and turns in one step, and are out at once', async () => {
    const [gone, heir] = [await join('Gonda'), await join('Heiko')];
    const flow = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: {
          lead: [],
          record: [],
          team: [
            freshStep('assign', 'who', { colleague: 'rota', among: [gone.id, heir.id] }),
            freshStep('task', 'call', { title: 'Ring them', colleague: gone.id }),
          ],
        },
      }),
    ]);
    await flow.send({ name: 'Lea', email: 'leaving@example.org' });
    const run = await flow.over('leaving@example.org');
    await stage.db.query('update lead set owner_id = $1 where id = $2', [gone.id, run.lead_id]);
    const startsAt = '2031-03-04T09:00';
    expect(
      (
        await oona.call('POST', '/api/calendar/appointments', {
          colleagueId: gone.id,
          leadId: run.lead_id,
          title: 'Talk',
          startsAt,
        })
      ).status,
    ).to.equal(200);
    const look = (
      await oona.call<{ leads: number; tasks: number; appointments: number; workflows: string[] }>(
        'GET',
        `/api/people/${gone.id}/leaving`,
      )
    ).body;
    expect([look.leads, look.tasks, look.appointments, look.workflows.length]).to.deep.equal([1, 1, 1, 1]);
    expect((await gone.call('GET', '/api/leads')).status).to.equal(200);
    expect((await oona.call('POST', `/api/people/${gone.id}/leave`, { to: gone.id })).status).to.equal(422);
    expect((await oona.call('POST', `/api/people/${gone.id}/leave`, { to: heir.id })).status).to.equal(200);
    expect((await gone.call('GET', '/api/leads')).status).to.equal(401);
    expect((await post('/sign-in', { email: gone.email, password: PASSWORD })).status).to.equal(403);
    const { rows } = await stage.db.query(
      `select (select owner_id from lead where id = $1) as owner, (select colleague_id from task where lead_id = $1) as task, (select colleague_id from calendar_entry where lead_id = $1) as entry`,
      [run.lead_id],
    );
    expect(rows[0]).to.deep.equal({ owner: heir.id, task: heir.id, entry: heir.id });
    // The workflow goes on with who is left, as a version of its own.
    await flow.send({ name: 'Mia', email: 'after@example.org' });
    const next = await flow.over('after@example.org');
    expect(next.version_id).not.to.equal(run.version_id);
    expect(
      await number('select count(*)::int as n from task where lead_id = $1 and colleague_id = $2', [
        next.lead_id,
        heir.id,
      ]),
    ).to.equal(1);
    const { body } = await oona.call('GET', `/api/workflows/${flow.id}`);
    expect(JSON.stringify(body)).not.to.include(gone.id);
  });

  it('are not told on their day off: the turn passes on, and what is for them alone waits', async () => {
    const [off, here] = [await join('Offday'), await join('Heretoo')];
    const today = new Intl.DateTimeFormat('en-CA', { timeZone: 'Europe/London' }).format(new Date());
    const always = { from: '00:00', to: '23:59' };
    const working = { week: Array(7).fill(always), off: [{ from: today, to: today }] };
    expect((await off.call('PUT', '/api/my-working-time', { working })).status).to.equal(200);
    expect(
      (await here.call('PUT', `/api/people/${off.id}/working-time`, { working: null })).status,
      'a colleague’s',
    ).to.equal(403);
    expect((await off.call<{ working: unknown }>('GET', '/api/my-working-time')).body.working).to.deep.equal(working);
    const told = { by: 'email', subject: 'New: {{ lead.full_name }}', message: 'See to them' };
    const flow = await liveFlow(stage, oona, [
      momentOf('a', {
        lanes: {
          lead: [],
          record: [],
          team: [
            freshStep('tell', 'turn', { colleague: 'rota', among: [off.id, here.id], ...told }),
            freshStep('tell', 'alone', { colleague: off.id, ...told }),
          ],
        },
      }),
    ]);
    for (const n of [1, 2]) await flow.send({ name: `Dayoff ${n}`, email: `dayoff${n}@example.org` });
    await until('both turns to pass on', () => mailTo(here.email, /New: Dayoff/).length === 2);
    expect(mailTo(off.email, /New: Dayoff/)).to.deep.equal([]);
    const waits = await until('it to wait', async () => {
      const { rows } = await stage.db.query(
        `select s.state, s.next_try_at from step_result s join run r on r.id = s.run_id where r.workflow_id = $1 and s.step_id = 'alone' and s.state = 'held'`,
        [flow.id],
      );
      return rows.length === 2 ? rows : null;
    });
    const tomorrow = new Date(Date.now() + 86_400_000);
    expect(Math.abs(waits[0].next_try_at - new Date(tomorrow.toISOString().slice(0, 10)).getTime())).to.be.below(
      3_600_001,
    );
    // Back earlier than they thought: the hours are asked anew, and the turns come to them again.
    await off.call('PUT', '/api/my-working-time', { working: null });
    await flow.send({ name: 'Dayoff 3', email: 'dayoff3@example.org' });
    await until('them to be told again', () => mailTo(off.email, /New: Dayoff 3/)[0]);
  });

  describe('their passwords', () => {
    it('are changed by who knows the one of now, and elsewhere they are signed out', async () => {
      const one = await join('Pasco');
      const elsewhere = await signedIn(stage, { email: one.email, password: PASSWORD });
      const change = (body: unknown) => one.call<{ detail?: string; ended?: number }>('PUT', '/api/password', body);
      expect((await change({ current: 'no', password: 'oboe pickle sunrise' })).body.detail).to.match(
        /not your password of now/,
      );
      expect((await change({ current: PASSWORD, password: 'pasco12345' })).body.detail).to.match(/guessed easily/);
      expect((await change({ current: PASSWORD, password: PASSWORD })).status).to.equal(422);
      const done = await change({ current: PASSWORD, password: 'oboe pickle sunrise' });
      expect([done.status, done.body.ended! > 0]).to.deep.equal([200, true]);
      expect((await one.call('GET', '/api/sessions')).status).to.equal(200);
      expect((await elsewhere.call('GET', '/api/sessions')).status).to.equal(401);
      expect((await post('/sign-in', { email: one.email, password: PASSWORD })).status).to.equal(401);
    });

    it('when forgotten are made anew by a link that is good once, for half an hour, and the newest only', async () => {
      const one = await join('Forgo');
      expect((await post('/forgotten', { email: one.email })).text).to.include('If somebody here has the address');
      const first = await until('the first link', () => mailTo(one.email, /new password/)[0]);
      await post('/forgotten', { email: one.email });
      const second = await until('the second link', () =>
        mailTo(one.email, /new password/).find((mail) => mail.text !== first.text),
      );
      const fresh = { password: 'oboe pickle sunrise', again: 'oboe pickle sunrise' };
      expect((await post(linkIn(first.text), fresh)).status).to.equal(404);
      expect((await post(linkIn(second.text), { ...fresh, again: 'another' })).status).to.equal(422);
      expect((await post(linkIn(second.text), { password: 'forgo12345', again: 'forgo12345' })).status).to.equal(422);
      const both = await Promise.all([post(linkIn(second.text), fresh), post(linkIn(second.text), fresh)]);
      expect(both.map(({ status }) => status).sort()).to.deep.equal([303, 404]);
      expect((await one.call('GET', '/api/sessions')).status, 'signed out everywhere').to.equal(401);
      expect((await post('/sign-in', { email: one.email, password: PASSWORD })).status).to.equal(401);
      expect((await post('/sign-in', { email: one.email, password: fresh.password })).status).to.equal(303);
      await post('/forgotten', { email: one.email });
      const third = await until('the third link', () =>
        mailTo(one.email, /new password/).find((mail) => mail.text !== first.text && mail.text !== second.text),
      );
      await stage.db.query(`update password_reset set expires_at = now() - interval '1 second' where person_id = $1`, [
        one.id,
      ]);
      expect((await post(linkIn(third.text), fresh)).status).to.equal(404);
    });

    it('are asked for by nobody who is not here, and the page says the same', async () => {
      const known = await post('/forgotten', { email: 'tomas@wrenfield.example' });
      const unknown = await post('/forgotten', { email: 'nobody@wrenfield.example' });
      const without = (text: string) =>
        text.replace(/(tomas|nobody)@wrenfield\.example/g, '').replace(/uid="[^"]*"/g, '');
      expect(without(unknown.text)).to.equal(without(known.text));
      expect(unknown.status).to.equal(known.status);
      await until('the one that is known', () => mailTo('tomas@wrenfield.example', /new password/)[0]);
      expect(mailTo('nobody@wrenfield.example', /./)).to.deep.equal([]);
      // The link is in no table and no job: who reads the database cannot follow it.
      const mail = mailTo('tomas@wrenfield.example', /new password/)[0]!;
      const token = linkIn(mail.text).split('/').at(-1)!;
      const { rows } = await stage.db.query<{ name: string }>(
        `select table_name as name from information_schema.tables where table_schema in ('public', 'graphile_worker') and table_type = 'BASE TABLE'`,
      );
      for (const { name } of rows.filter((row) => /deliver|audit|invitation|password|outbox/.test(row.name)))
        expect(
          await number(`select count(*)::int as n from "${name}" t where t::text like '%' || $1 || '%'`, [
            token.slice(32),
          ]),
          name,
        ).to.equal(0);
    });
  });

  it('see where they are signed in, and end any of it', async () => {
    const one = await join('Sesso');
    const other = await signedIn(stage, { email: one.email, password: PASSWORD });
    type Sign = { id: string; here: boolean; network: string };
    const list = (await one.call<Sign[]>('GET', '/api/sessions')).body;
    expect(list.filter(({ here }) => here).length).to.equal(1);
    expect(list.every(({ network }) => network === '127.0.0.1')).to.equal(true);
    const strangers = (await oona.call<Sign[]>('GET', '/api/sessions')).body;
    expect((await one.call('DELETE', `/api/sessions/${strangers[0]!.id}`)).status, 'somebody else’s').to.equal(404);
    const theirs = (await other.call<Sign[]>('GET', '/api/sessions')).body.find(({ here }) => here)!;
    expect((await one.call('DELETE', `/api/sessions/${theirs.id}`)).status).to.equal(200);
    expect((await other.call('GET', '/api/sessions')).status).to.equal(401);
    expect((await one.call('GET', '/api/sessions')).status).to.equal(200);
  });
});
