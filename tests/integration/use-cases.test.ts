import { expect } from 'chai';
import type { SampleView } from '../../src/app/sources/arrivals.ts';
import type { SourceView } from '../../src/app/sources/sources.ts';
import type { TodayView } from '../../src/app/today/today.ts';
import type { SheetView } from '../../src/app/workflows/run-sheet.ts';
import type { LeadCard } from '../../src/core/source/lead-card.ts';
import type { Definition } from '../../src/core/workflow/definition.ts';
import { adEntry, openStage, push, type Stage, signedIn, until } from '../stage/stage.ts';

type Refused = { detail: string; field?: string };

// The demo's people may have any British number of the range for fiction, so these have Australian ones.
describe('what a coordinator can do', () => {
  let stage: Stage;
  let oona: Awaited<ReturnType<typeof signedIn>>;
  before(async function () {
    this.timeout(60_000);
    stage = await openStage({ history: true });
    oona = await signedIn(stage);
  });
  after(() => stage.close());

  describe('sources', () => {
    let source: SourceView;
    it('a webhook waits until its card is confirmed; what comes before is kept as a sample, and writes to nobody', async () => {
      source = (
        await oona.call<SourceView>('POST', '/api/sources', { kind: 'webhook', name: 'Paper list', signed: true })
      ).body;
      expect(source).to.include({ state: 'waiting', signedBy: 'standard-webhooks', cardConfirmed: false });
      const { secret } = (await oona.call<{ secret: string }>('POST', `/api/sources/${source.id}/secret`)).body;
      expect(
        (
          await push(
            { url: source.address, secret },
            '{"Vorname":"Ada","Nachname":"Venn","handy":"+61491570156","optin":"ja"}',
          )
        ).status,
      ).to.equal(202);
      const [sample] = (
        await oona.call<(SampleView & { guess: LeadCard })[]>('GET', `/api/sources/${source.id}/arrivals`)
      ).body;
      expect(sample?.state).to.equal('held');
      expect(sample?.guess).to.deep.equal({
        fields: { first_name: 'Vorname', last_name: 'Nachname', phone: 'handy' },
        consent: { kind: 'field', key: 'optin', wordingKey: null },
      });
      expect((await stage.db.query(`select 1 from lead_identity where value = '+61491570156'`)).rowCount).to.equal(0);
    });
    it('a card without a way to reach anybody is refused; a good one puts the source live', async () => {
      const bad = await oona.call<Refused>('PUT', `/api/sources/${source.id}/card`, {
        fields: { first_name: 'Vorname' },
        consent: { kind: 'not_asked' },
      });
      expect([bad.status, bad.body.detail]).to.deep.equal([
        422,
        'Say which field is the email or the phone: without one of them nobody can be answered or recognised.',
      ]);
      const good = await oona.call<SourceView>('PUT', `/api/sources/${source.id}/card`, {
        fields: { first_name: 'Vorname', phone: 'handy' },
        consent: { kind: 'asked_elsewhere', note: 'on paper', wording: 'You may write to me about lessons and news.' },
      });
      expect(good.body).to.include({ state: 'live', cardConfirmed: true });
    });
    it('consent asked elsewhere is evidence on the lead, with its note', async () => {
      const { secret } = (await oona.call<{ secret: string }>('POST', `/api/sources/${source.id}/secret`)).body;
      await push({ url: source.address, secret }, '{"Vorname":"Ada","handy":"+61491570157"}');
      const { rows } = await until('the consent', async () => {
        const found = await stage.db.query(
          `select c.channel, c.state, c.wording from consent c join lead_identity i on i.lead_id = c.lead_id where i.value = '+61491570157' order by 1`,
        );
        return found.rowCount ? found : null;
      });
      expect(rows).to.deep.equal(
        ['email', 'text'].map((channel) => ({
          channel,
          state: 'given',
          wording: 'You may write to me about lessons and news.',
        })),
      );
    });
    it('an ad platform that is away is told as it is, and nothing half made is left', async () => {
      const before = (await oona.call<SourceView[]>('GET', '/api/sources')).body.length;
      const away = (
        await oona.call<{ id: string }>('POST', '/api/connections', {
          kind: 'ad_platform',
          name: 'Away',
          address: 'http://127.0.0.1:1',
          untried: true,
        })
      ).body;
      const answer = await oona.call<Refused>('POST', '/api/sources', {
        kind: 'ad-form',
        connectionId: away.id,
        scope: 'form',
        targetId: 'x',
        how: 'push',
      });
      expect([answer.status, answer.body.detail]).to.deep.equal([
        502,
        'The ad platform cannot be reached. The service does not answer: nothing listens at its address. Nothing was set up.',
      ]);
      expect((await oona.call<SourceView[]>('GET', '/api/sources')).body.length).to.equal(before);
    });
  });

  describe('connections', () => {
    const carrier = {
      kind: 'text_carrier',
      name: 'Carrier two',
      address: 'https://carrier.example/api',
      sender: 'Wrenfield',
      secret: 'k1',
      untried: true,
    };
    const bad: [string, Record<string, unknown>, string][] = [
      [
        'an address that is none',
        { ...carrier, address: 'carrier' },
        'Write the address as a web address, beginning with https://.',
      ],
      [
        'a mail address for the web',
        { ...carrier, kind: 'mail_server', address: 'https://mail.example' },
        'Write the address as smtp://name:port or smtps://name:port.',
      ],
      [
        'a sender no phone can show',
        { ...carrier, sender: 'Wrenfield Music School' },
        'The sender of texts is a number like +447700900000, or a name of at most 11 letters and digits.',
      ],
      [
        'a sender of mail that is no address',
        { ...carrier, kind: 'mail_server', address: 'smtp://mail.example:25', fromAddress: 'oona' },
        'The address emails come from is not an email address.',
      ],
      ['no name', { ...carrier, name: ' ' }, 'Give the connection a name.'],
    ];
    for (const [name, input, detail] of bad)
      it(`refuses ${name}`, async () => {
        const answer = await oona.call<Refused>('POST', '/api/connections', input);
        expect([answer.status, answer.body.detail]).to.deep.equal([422, detail]);
      });
    it('a change without a new secret keeps the old one', async () => {
      const made = (await oona.call<{ id: string; hasSecret: boolean }>('POST', '/api/connections', carrier)).body;
      await oona.call('PUT', `/api/connections/${made.id}`, { ...carrier, name: 'Renamed', secret: '' });
      const {
        rows: [kept],
      } = await stage.db.query('select name, secret from connection where id = $1', [made.id]);
      expect([kept.name, stage.secrets.open(kept.secret)]).to.deep.equal(['Renamed', 'k1']);
    });
  });

  describe('workflows', () => {
    const find = async (name: string) =>
      (await stage.db.query('select id from workflow where name = $1', [name])).rows[0].id as string;
    const sheet = async (id: string) => (await oona.call<SheetView>('GET', `/api/workflows/${id}`)).body;
    const withText = (draft: Definition, message: string): Definition => {
      const changed = structuredClone(draft);
      changed.moments[0]!.lanes.lead[0]!.settings.message = message;
      return changed;
    };

    it('versions are kept and can be brought back; runs stay on the one they began with', async () => {
      const id = await find('Open day follow-up');
      const first = await sheet(id);
      const saved = await oona.call<{ revision: number }>('PUT', `/api/workflows/${id}`, {
        revision: first.workflow.revision,
        draft: withText(first.workflow.draft, 'Second {{ lead.first_name }}'),
      });
      expect(saved.body.revision).to.equal(first.workflow.revision + 1);
      expect((await oona.call<{ version: number }>('POST', `/api/workflows/${id}/live`)).body.version).to.equal(2);
      const { rows } = await stage.db.query(
        'select v.number, count(r.id)::int as runs from workflow_version v left join run r on r.version_id = v.id where v.workflow_id = $1 group by 1 order by 1',
        [id],
      );
      expect(rows[0].runs).to.be.above(0);
      expect(rows[1]).to.deep.equal({ number: 2, runs: 0 });
      await push(
        await stage.source('Open day sign-in'),
        JSON.stringify({ name: 'Vera Two', contact_number: '+61491570158', agrees_to_texts: 'yes' }),
        {},
        null,
      );
      await until('a text by version 2', () =>
        stage.desk.world.state.phones['+61491570158']?.messages.some((message) => message.text === 'Second Vera'),
      );
      await oona.call('POST', `/api/workflows/${id}/restore`, { number: 1 });
      expect((await sheet(id)).workflow.draft).to.deep.equal(first.workflow.draft);
      expect(
        (
          await stage.db.query(
            'select v.number from workflow w join workflow_version v on v.id = w.live_version_id where w.id = $1',
            [id],
          )
        ).rows[0].number,
      ).to.equal(2);
    });

    it('paused, nothing new starts; going on, it does', async () => {
      const id = await find('Open day follow-up');
      const source = await stage.source('Open day sign-in');
      const arrive = (number: string) =>
        push(source, JSON.stringify({ name: 'Pia', contact_number: number, agrees_to_texts: 'yes' }), {}, null);
      await oona.call('PUT', `/api/workflows/${id}/live`, { paused: true });
      const { body } = await arrive('+61491570159');
      expect((await stage.db.query('select 1 from run where arrival_id = $1', [body.id])).rowCount).to.equal(0);
      expect(
        (await stage.db.query('select 1 from arrival where id = $1 and lead_id is not null', [body.id])).rowCount,
      ).to.equal(1);
      await oona.call('PUT', `/api/workflows/${id}/live`, { paused: false });
      const again = await arrive('+61491570110');
      expect((await stage.db.query('select 1 from run where arrival_id = $1', [again.body.id])).rowCount).to.equal(1);
    });

    it('a copy is a draft that listens to nothing', async () => {
      const { body } = await oona.call<{ id: string }>(
        'POST',
        `/api/workflows/${await find('Trial lesson: first reply')}/copy`,
      );
      const copy = await sheet(body.id);
      expect([copy.workflow.name, copy.workflow.state, copy.workflow.draft.sources]).to.deep.equal([
        'Copy of Trial lesson: first reply',
        'draft',
        [],
      ]);
      expect((await oona.call<Refused>('POST', `/api/workflows/${body.id}/live`)).status).to.equal(422);
    });

    it('two saves on the same revision: the second is refused and the first kept', async () => {
      const id = await find('Copy of Trial lesson: first reply');
      const { workflow } = await sheet(id);
      const save = (message: string) =>
        oona.call<Refused>('PUT', `/api/workflows/${id}`, {
          revision: workflow.revision,
          draft: withText(workflow.draft, message),
        });
      const statuses = (await Promise.all([save('one'), save('two')])).map((answer) => answer.status).sort();
      expect(statuses).to.deep.equal([200, 409]);
    });

    it('"send it to me" needs to know who I am, and a refusal by the carrier is told', async () => {
      const id = await find('Trial lesson: first reply');
      const send = () =>
        oona.call<Refused & { accepted: boolean }>('POST', `/api/workflows/${id}/send-to-me`, {
          stepId: 'text-1',
          arrivalId: null,
        });
      await stage.db.query(`update membership set test_phone = ''`);
      expect((await send()).body.detail).to.equal(
        'Say first which phone is yours: Settings, You, “Where you are reached”.',
      );
      await stage.db.query(`update membership set test_phone = '+447700900100'`);
      stage.desk.world.state.trouble = { ...stage.desk.world.state.trouble, refusedNumbers: ['+447700900100'] };
      expect((await send()).body).to.include({ accepted: false, detail: "The number can't receive texts" });
    });
  });

  describe('looking', () => {
    it('Today counts what the database holds, by the business’s own day', async () => {
      const { body: today } = await oona.call<TodayView>('GET', '/api/today');
      const { rows } =
        await stage.db.query(`select extract(epoch from first_reply_at - created_at) * 1000 as ms from run
        where from_step is null and first_reply_at is not null and (created_at at time zone 'Europe/London')::date = (now() at time zone 'Europe/London')::date order by 1`);
      const ms = rows.map((row) => Number(row.ms));
      const middle = ms.length % 2 ? ms[(ms.length - 1) / 2]! : (ms[ms.length / 2 - 1]! + ms[ms.length / 2]!) / 2;
      expect(today.middleReplyMs).to.be.closeTo(middle, 0.001);
      expect([today.answered, today.answeredInFive]).to.deep.equal([
        ms.length,
        ms.filter((one) => one <= 300_000).length,
      ]);
      const {
        rows: [leads],
      } = await stage.db.query(
        `select count(*)::int as n from lead where (created_at at time zone 'Europe/London')::date = (now() at time zone 'Europe/London')::date`,
      );
      expect(today.newLeads).to.equal(leads.n);
      expect(today.byHour.today.reduce((a, b) => a + b, 0)).to.be.at.least(today.newLeads);
      expect(today.needsCount).to.be.at.least(3);
    });

    it('the log pages through every run once, newest first, and finds by name, phone and outcome', async () => {
      const {
        rows: [workflow],
      } = await stage.db.query(
        `select id, (select count(*)::int from run r where r.workflow_id = w.id) as runs from workflow w where name = 'Trial lesson: first reply'`,
      );
      type Page = { rows: { id: string; name: string; state: string; createdAt: string }[]; more: boolean };
      const page = (query: Record<string, string>) =>
        oona
          .call<Page>('GET', `/api/workflows/${workflow.id}/runs?${new URLSearchParams(query)}`)
          .then(({ body }) => body);
      const all: Page['rows'] = [];
      for (let next = await page({}); ; next = await page({ before: all.at(-1)!.id })) {
        all.push(...next.rows);
        if (!next.more) break;
      }
      expect(new Set(all.map((row) => row.id)).size).to.equal(workflow.runs);
      expect(all.map((row) => row.createdAt)).to.deep.equal(
        all
          .map((row) => row.createdAt)
          .sort()
          .reverse(),
      );
      const someone = all[7]!;
      expect((await page({ search: someone.name })).rows.map((row) => row.id)).to.include(someone.id);
      const stopped = await page({ show: 'stopped' });
      expect(stopped.rows.length).to.be.above(0);
      expect(stopped.rows.every((row) => row.state === 'stopped')).to.equal(true);
      expect((await page({ search: '100%_' })).rows).to.deep.equal([]);
    });

    it('the live feed rings when somebody comes in, for this business only', async () => {
      const answer = await fetch(`${stage.url}/api/live`, { headers: { cookie: oona.cookie } });
      expect(answer.headers.get('content-type')).to.equal('text/event-stream');
      const reader = answer.body!.getReader();
      await push(
        await stage.source('Trial lesson form'),
        adEntry('ring', { email: 'ring@example.org', phone: '+61491570313' }),
      );
      let heard = '';
      while (!heard.includes('data: ring')) heard += Buffer.from((await reader.read()).value!).toString();
      await reader.cancel();
      expect((await fetch(`${stage.url}/api/live`)).status).to.equal(401);
    });

    it('everything a person did is on the audit trail, looks at secrets too', async () => {
      const { rows } = await stage.db.query('select distinct action from audit');
      expect(rows.map((row) => row.action)).to.include.members([
        'source.add',
        'source.card',
        'source.show_secret',
        'connection.add',
        'connection.change',
        'workflow.put_live',
        'workflow.pause',
        'workflow.resume',
        'workflow.restore',
        'workflow.create',
      ]);
    });
  });
});
