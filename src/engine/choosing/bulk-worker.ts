import type pg from 'pg';
import type { BulkAction } from '../../core/people/bulk-action.ts';
import type { LeadChoice } from '../../core/people/lead-choice.ts';
import type { Db } from '../../db/db.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import type { TableReader } from '../../tables/table-reader.ts';
import type { Bell } from '../bell.ts';
import { eraseFromFiles } from '../erasing/from-files.ts';
import { eraseFromRecord } from '../erasing/from-record.ts';
import { marksOf } from '../erasing/marks.ts';
import type { ListMembership } from '../lists/join-list.ts';
import { cleanFromList, leaveList } from '../lists/leave.ts';
import { LeasedLoop } from '../loop.ts';
import { tellOf } from '../runs/tell-of.ts';
import { ChosenLeads } from './chosen-leads.ts';
import { scopeOf } from './question-sql.ts';

/** Leads done in one transaction: few, so that what comes in about one of them hardly waits. */
const AT_ONCE = 50;
const LEASE_SECONDS = 60;

interface DueWork {
  id: string;
  business_id: string;
  choice: LeadChoice;
  action: BulkAction;
  last_lead: string | null;
  started_by_id: string | null;
  started_by: string | null;
}

export interface BulkParts {
  pool: pg.Pool;
  membership: ListMembership;
  bell: Bell;
  holder: string;
  now: () => number;
  tables: TableReader;
}

/** Does one thing with many leads, some at a time. Where it has come to moves with what it counts: nobody is done twice. */
export class BulkWorker {
  readonly loop = new LeasedLoop<DueWork>({
    name: 'work on many leads',
    atOnce: 1,
    due: `exists (select from bulk_work where state = 'running' and due_at <= now())`,
    lease: () => this.lease(),
    work: (work) => this.work(work).finally(() => this.parts.bell.ring(work.business_id)),
    about: ({ id }) => ({ work: id }),
  });

  constructor(private readonly parts: BulkParts) {}

  private async lease(): Promise<DueWork[]> {
    const { rows } = await this.parts.pool.query<DueWork>(
      `update bulk_work b set lease_by = $1, due_at = now() + $2::int * interval '1 s'
       where b.id = (select id from bulk_work where state = 'running' and due_at <= now() order by due_at limit 1 for update skip locked)
       returning b.id, b.business_id, b.choice, b.action, b.last_lead, b.started_by_id, (select name from person p where p.id = b.started_by_id) as started_by`,
      [this.parts.holder, LEASE_SECONDS],
    );
    return rows;
  }

  private async work(work: DueWork): Promise<void> {
    const { pool, now } = this.parts;
    const chosen = await ChosenLeads.open(pool, work.choice, await scopeOf(pool, work.business_id, now()));
    if (!chosen) {
      await pool.query(
        `update bulk_work set state = 'refused', problem = 'The segment, list or tag it went by is no longer there.', finished_at = now()
         where id = $1 and lease_by = $2 and state = 'running'`,
        [work.id, this.parts.holder],
      );
      return;
    }
    for (let last = work.last_lead; !this.loop.stopping; ) {
      const { ids, more } = await chosen.page('id', last, AT_ONCE);
      last = ids.at(-1) ?? last;
      if (work.action.does === 'erase')
        await eraseFromFiles(
          { db: this.parts.pool, tables: this.parts.tables },
          work.business_id,
          await marksOf(pool, work.business_id, ids),
        );
      if (!(await this.some(work, ids, last, more)) || !more) return;
    }
    // Given back at once, for whoever is still there.
    await pool.query('update bulk_work set due_at = now() where id = $1 and lease_by = $2', [
      work.id,
      this.parts.holder,
    ]);
  }

  /** False when it was stopped or belongs to another process by now; then nothing of this part is done. */
  private some(work: DueWork, ids: string[], last: string | null, more: boolean): Promise<boolean> {
    return inTransaction(this.parts.pool, async (client) => {
      const { rowCount } = await client.query(
        `select from bulk_work where id = $1 and lease_by = $2 and state = 'running' for update`,
        [work.id, this.parts.holder],
      );
      if (!rowCount) return false;
      let changed = 0;
      for (const id of ids) if (await this.one(client, work, id)) changed += 1;
      await client.query(
        `update bulk_work set last_lead = $2, done = done + $3, changed = changed + $4, due_at = now() + $5::int * interval '1 s',
           state = case when $6 then state else 'done' end, finished_at = case when $6 then null else now() end where id = $1`,
        [work.id, last, ids.length, changed, LEASE_SECONDS, more],
      );
      return true;
    });
  }

  /** What a list's own fields are of this lead: the answers of the same name. */
  private async fieldsFor(client: Db, leadId: string, listId: string): Promise<Record<string, string>> {
    const { rows } = await client.query<{
      fields: { key: string; label: string }[];
      answers: Record<string, string>;
    }>(
      'select t.fields, l.answers from nurture_list t, lead l where t.id = $1 and l.id = $2 and jsonb_array_length(t.fields) > 0',
      [listId, leadId],
    );
    if (!rows[0]) return {};
    const plain = (name: string) => name.toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '');
    const answers = new Map(Object.entries(rows[0].answers).map(([key, value]) => [plain(key), value]));
    return Object.fromEntries(
      rows[0].fields.flatMap(({ key, label }) => {
        const value = answers.get(plain(key)) ?? answers.get(plain(label)) ?? '';
        return value === '' ? [] : [[key, value]];
      }),
    );
  }

  /** Whether it changed anything about this lead. */
  private async one(client: Db, work: DueWork, leadId: string): Promise<boolean> {
    const { action, business_id: businessId } = work;
    const at = new Date(this.parts.now());
    const changes = async (sql: string, values: unknown[]) => ((await client.query(sql, values)).rowCount ?? 0) > 0;
    switch (action.does) {
      case 'tag': {
        const put = await changes(
          'insert into lead_tag (lead_id, tag_id, at) select $1, id, $3 from tag where id = $2 and business_id = $4 and removed_at is null on conflict do nothing',
          [leadId, action.tag, at, businessId],
        );
        if (put) await tellOf(client, leadId, { event: 'tag', tag: action.tag });
        return put;
      }
      case 'untag':
        return changes('delete from lead_tag where lead_id = $1 and tag_id = $2', [leadId, action.tag]);
      case 'join': {
        const came = await this.parts.membership.join(client, {
          businessId,
          listId: action.list,
          leadId,
          how: `Put on with others by ${work.started_by ?? 'a colleague'}`,
          runId: null,
          proven: action.proven,
          fields: await this.fieldsFor(client, leadId, action.list),
          now: at.getTime(),
        });
        return came === 'joined' || came === 'waiting';
      }
      case 'leave':
        return leaveList(client, leadId, action.list, at);
      case 'clean':
        return cleanFromList(client, leadId, action.list, at);
      case 'owner':
        return changes('update lead set owner_id = $2 where id = $1 and owner_id is distinct from $2', [
          leadId,
          action.person,
        ]);
      case 'erase':
        return eraseFromRecord(client, leadId, { businessId, personId: work.started_by_id });
    }
  }
}
