import type pg from 'pg';
import type { Answer } from '../../core/delivery/answer.ts';
import type { RecordKind } from '../../core/described/description.ts';
import { mayRepeat } from '../../core/described/outcome.ts';
import { storableText } from '../../core/fields/field.ts';
import { columnKeys } from '../../core/outside/table-look-up.ts';
import { cellsOf } from '../../core/outside/written-table.ts';
import type { Called, CallSeen, DescribedAccount, DescribedCaller } from '../../gateways/described/described-caller.ts';
import type { OutsideDatabases } from '../../gateways/outside-database.ts';
import type { ElsewhereAnswer, ElsewherePort, LookUpAsk, RecordAsk } from '../../steps/performers.ts';
import type { CallAnswer } from '../../steps/step-performer.ts';
import type { KnownDatabase, SettingsCache } from '../settings-cache.ts';
import type { RowsElsewhere } from './rows-elsewhere.ts';

/** Longer than any call takes, in seconds: after it whoever began to make a record has died. */
const MAKING_SECONDS = 120;
const SOON_MS = 2000;
const GONE = {
  kind: 'refused',
  code: 'connection-gone',
  detail: 'The service is no longer connected.',
} as const satisfies ElsewhereAnswer;
const UNSURE =
  'Nobody can tell whether it was made there: the service did not say, and has no way to be asked. Look there; if it is not there, run this step again.';

/** What is asked of services a business has described itself: look-ups, and records that are made once and brought up to date after. */
export class Elsewhere implements ElsewherePort {
  constructor(
    private readonly parts: {
      pool: pg.Pool;
      settingsCache: SettingsCache;
      services: DescribedCaller;
      databases: OutsideDatabases;
      rows: RowsElsewhere;
      seen: (call: CallSeen) => void;
      now: () => number;
    },
  ) {}

  async lookUp({ businessId, connectionId, lookUp, given }: LookUpAsk): Promise<ElsewhereAnswer> {
    const { databases } = await this.parts.settingsCache.provisionsOf(businessId);
    const database = databases.get(connectionId);
    if (database) return this.findRow(connectionId, database, lookUp, given.value ?? '');
    const account = await this.account(businessId, connectionId);
    const what = account?.description.lookUps.find(({ key }) => key === lookUp);
    if (!account || !what) return GONE;
    const called = await this.parts.services.call(account, what.call, given);
    const { answer } = called;
    const nothing = Object.fromEntries(what.gives.map(({ key }) => [key, '']));
    // Not there is an answer to a question.
    if (answer.kind === 'refused' && (answer.code === 'http-404' || answer.code === 'http-410'))
      return { kind: 'answered', found: nothing };
    if (answer.kind === 'unsure') return { kind: 'again', code: answer.code, detail: answer.detail, afterMs: null };
    if (answer.kind !== 'accepted') return answer;
    if (called.data && !called.data.ok)
      return { kind: 'again', code: called.data.code, detail: called.data.problem, afterMs: null };
    const read = account.description.calls[what.call]!.items === '' ? called.values : (called.items[0] ?? {});
    return {
      kind: 'answered',
      found: { ...nothing, ...Object.fromEntries(what.gives.map(({ key }) => [key, String(read[key] ?? '')])) },
    };
  }

  /** A row of a database of theirs. */
  private async findRow(
    connectionId: string,
    { account, lookUps }: KnownDatabase,
    lookUp: string,
    value: string,
  ): Promise<ElsewhereAnswer> {
    const { databases, seen, now } = this.parts;
    const what = lookUps.find(({ key }) => key === lookUp);
    if (!what) return GONE;
    const keys = columnKeys(what.gives);
    const began = now();
    const answer = value === '' ? ({ ok: true, value: null } as const) : await databases.find(account, what, value);
    if (value !== '')
      seen({
        ...{ connectionId, answered: answer.ok, well: answer.ok, ms: now() - began, at: now() },
        problem: answer.ok ? '' : answer.problem,
      });
    if (!answer.ok)
      return answer.refused
        ? { kind: 'refused', code: 'database', detail: answer.problem }
        : { kind: 'again', code: 'database', detail: answer.problem, afterMs: null };
    const row = answer.value;
    return { kind: 'answered', found: Object.fromEntries(keys.map(({ key, label }) => [key, row?.[label] ?? ''])) };
  }

  async putOnRecord(ask: RecordAsk): Promise<CallAnswer> {
    const { businessId, connectionId, record, given, key } = ask;
    const { places } = await this.parts.settingsCache.provisionsOf(businessId);
    const place = places.get(connectionId);
    if (place) {
      const table = place.tables.find((one) => one.key === record);
      return table ? this.parts.rows.put(connectionId, place.account, table, cellsOf(table, given, key)) : GONE;
    }
    const account = await this.account(businessId, connectionId);
    const kind = account?.description.records.find(({ key }) => key === record);
    if (!account || !kind) return GONE;
    return new OneRecord(this.parts, account, kind, ask).put();
  }

  private async account(businessId: string, connectionId: string): Promise<DescribedAccount | null> {
    const { services } = await this.parts.settingsCache.provisionsOf(businessId);
    return services.get(connectionId) ?? null;
  }
}

/**
 * One record of one lead at one service. Its name there is kept on the lead: the second time changes the first. Before it is made it is written down who
 * makes it, so that two runs of one lead make one, and one that was begun when a process died is looked for before it is made again.
 */
class OneRecord {
  private readonly place: string;

  constructor(
    private readonly parts: { pool: pg.Pool; services: DescribedCaller },
    private readonly account: DescribedAccount,
    private readonly kind: RecordKind,
    private readonly ask: RecordAsk,
  ) {
    this.place = `${ask.connectionId}:${kind.key}`;
  }

  async put(): Promise<CallAnswer> {
    const { leadId, key } = this.ask;
    const { pool } = this.parts;
    // Whoever begins to make it, alone; who died over it has had their time.
    const { rows } = await pool.query<{
      remote_id: string | null;
      begun_by: string;
      mine: boolean;
      before: string | null;
    }>(
      `with old as (select begun_by from elsewhere_record where lead_id = $1 and place = $2),
         claimed as (insert into elsewhere_record (lead_id, place, business_id, connection_id, begun_by, begun_at) values ($1, $2, $3, $4, $5, now())
           on conflict (lead_id, place) do update set begun_by = excluded.begun_by, begun_at = now()
             where elsewhere_record.remote_id is null
               and (elsewhere_record.begun_by = excluded.begun_by or elsewhere_record.begun_at < now() - interval '${MAKING_SECONDS} seconds')
           returning remote_id, begun_by)
       select remote_id, begun_by, true as mine, (select begun_by from old) as before from claimed
       union all select remote_id, begun_by, false, null from elsewhere_record where lead_id = $1 and place = $2 and not exists (select from claimed)`,
      [leadId, this.place, this.ask.businessId, this.ask.connectionId, key],
    );
    const row = rows[0];
    // Taken off by somebody in the same instant.
    if (!row) return { kind: 'again', code: 'busy', detail: 'Somebody else changed it just now', afterMs: SOON_MS };
    if (row.remote_id !== null) return this.update(row.remote_id);
    if (!row.mine)
      return { kind: 'again', code: 'busy', detail: 'Another run is making it just now', afterMs: SOON_MS };
    // Begun before by this very step, and never ended: it may have been made.
    return this.make(row.before === key);
  }

  private async update(id: string): Promise<CallAnswer> {
    const { update, label } = this.kind;
    if (update === null) return { kind: 'accepted', code: 'there', detail: `It is on record there already (${id})` };
    const called = await this.call(update, { id });
    const { answer } = called;
    if (answer.kind === 'refused' && (answer.code === 'http-404' || answer.code === 'http-410')) {
      // Somebody removed it there: it is made anew.
      await this.parts.pool.query(
        'update elsewhere_record set remote_id = null, begun_by = $3, begun_at = now() where lead_id = $1 and place = $2 and remote_id = $4',
        [this.ask.leadId, this.place, this.ask.key, id],
      );
      return this.make(false);
    }
    // Bringing it up to date twice is bringing it up to date.
    if (answer.kind === 'unsure') return { kind: 'again', code: answer.code, detail: answer.detail, afterMs: null };
    return answer.kind === 'accepted' ? done(called, `${label} brought up to date there`) : answer;
  }

  private async make(begunBefore: boolean): Promise<CallAnswer> {
    const { find, create, update, label } = this.kind;
    if (find !== null) {
      const found = await this.call(find);
      const { answer } = found;
      if (answer.kind === 'accepted') {
        const data = found.data;
        if (data && !data.ok) return { kind: 'again', code: data.code, detail: data.problem, afterMs: null };
        const ids = idsOf(this.account, find, found);
        if (ids.length > 1)
          return this.give({
            kind: 'refused',
            code: 'several',
            detail: `Several there fit this lead (${ids.slice(0, 3).join(', ')}): nobody can tell which is meant.`,
          });
        if (ids[0]) {
          await this.keep(ids[0]);
          return update === null ? done(found, `${label} was there already`) : this.update(ids[0]);
        }
      } else if (answer.kind !== 'refused' || (answer.code !== 'http-404' && answer.code !== 'http-410')) {
        // Asking changes nothing: what is not known is asked again.
        if (answer.kind === 'unsure') return { kind: 'again', code: answer.code, detail: answer.detail, afterMs: null };
        return answer.kind === 'refused' ? this.give(answer) : answer;
      }
    } else if (begunBefore && !mayRepeat(this.account.description.calls[create]!))
      return { kind: 'refused', code: 'unsure', detail: UNSURE };
    const called = await this.call(create);
    const { answer } = called;
    if (answer.kind === 'unsure')
      return find === null
        ? { kind: 'refused', code: 'unsure', detail: UNSURE }
        : {
            kind: 'again',
            code: answer.code,
            detail: `${answer.detail} It is looked for there before it is made again.`,
            afterMs: SOON_MS,
          };
    if (answer.kind === 'refused') return this.give(answer);
    if (answer.kind === 'again') {
      // Nothing was made: the next try is a first one.
      await this.forget();
      return answer;
    }
    // One that has no names is added to each time: nothing is kept to be brought up to date.
    if (!this.account.description.calls[create]!.reads.id) {
      await this.forget();
      return done(called, `${label} added there`);
    }
    const id = answer.remoteId ?? '';
    if (id === '')
      return {
        kind: 'refused',
        code: 'no-id',
        detail: 'It was made there, and the service did not say under which name: it cannot be brought up to date.',
      };
    await this.keep(id);
    return done(called, `${label} made there`);
  }

  /** Given up: whoever comes next begins anew. */
  private async give(answer: Extract<Answer, { kind: 'refused' }>): Promise<CallAnswer> {
    await this.forget();
    return answer;
  }

  private async forget(): Promise<void> {
    await this.parts.pool.query(
      'delete from elsewhere_record where lead_id = $1 and place = $2 and remote_id is null and begun_by = $3',
      [this.ask.leadId, this.place, this.ask.key],
    );
  }

  private async keep(id: string): Promise<void> {
    await this.parts.pool.query(
      'update elsewhere_record set remote_id = $3, made_at = now() where lead_id = $1 and place = $2',
      [this.ask.leadId, this.place, storableText(id).slice(0, 300)],
    );
  }

  private call(name: string, more: { id?: string } = {}): Promise<Called> {
    return this.parts.services.call(this.account, name, { ...this.ask.given, reference: this.ask.key, ...more });
  }
}

function idsOf({ description }: DescribedAccount, call: string, { values, items }: Called): string[] {
  const all = description.calls[call]!.items === '' ? [values] : items;
  return [...new Set(all.map(({ id }) => String(id ?? '')).filter(Boolean))];
}

const done = (called: Called, detail: string): CallAnswer => ({
  kind: 'accepted',
  code: called.answer.code,
  detail,
  ...(called.data?.ok && called.data.value !== null
    ? { told: storableText(JSON.stringify(called.data.value)).slice(0, 500) }
    : {}),
});
