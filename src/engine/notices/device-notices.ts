import type pg from 'pg';
import { retryDelayMs, retryFor } from '../../core/delivery/backoff.ts';
import { type NoticeKind, noticesOf, type SinceThen } from '../../core/notices/notices.ts';
import { mayDo, type Role } from '../../core/people/rights.ts';
import type { PushSender } from '../../gateways/push-service.ts';
import { LeasedLoop } from '../loop.ts';

interface Device {
  id: string;
  /** Of its business: where its pages are, and how it is called where somebody has several. */
  key: string;
  of: string | null;
  business_id: string;
  endpoint: string;
  p256dh: string;
  auth: string;
  wants: NoticeKind[];
  told_until: Date;
  failures: number;
}

/** What has come is told once it has stood for so long, in milliseconds: by then whoever wrote it at the same time has written too. */
const STANDS_MS = 2000;
/** After a notice the next waits for so long, in milliseconds: what comes meanwhile is told together. */
const PAUSE_MS = 15_000;
const LEASE_MS = 60_000;
/** Tried for a day; then what would have been told is old, and the next news begins anew. */
const RETRY = retryFor(24 * 60);
/** Named in a notice at most; the rest is counted. */
const NEWEST = 3;

/** Something has come since the device was told last, up to $1. Who was brought in by a file or by hand is no news. */
const NEWS = `(
  'leads' = any(d.wants) and exists (select from lead l where l.business_id = d.business_id and l.created_at > d.told_until and l.created_at <= $1 and l.is_person)
  or 'conversations' = any(d.wants) and exists (select from conversation c where c.business_id = d.business_id and c.last_at > d.told_until and c.last_at <= $1 and c.last_in and c.unread > 0)
  or 'needs' = any(d.wants) and exists (select from needs_you n where n.business_id = d.business_id and n.created_at > d.told_until and n.created_at <= $1 and n.settled_at is null)
)`;

/** Tells people on their own devices what has come in, wherever they are. */
export class DeviceNotices {
  readonly loop: LeasedLoop<Device & { until: Date }>;

  constructor(private readonly parts: { pool: pg.Pool; push: PushSender; now: () => number; random: () => number }) {
    this.loop = new LeasedLoop({
      name: 'device notices',
      atOnce: 8,
      // It looks by itself: nothing has to wake it, and two seconds are soon enough.
      due: 'false',
      lease: (most) => this.lease(most),
      work: (device) => this.tell(device),
      about: ({ id }) => ({ device: id }),
    });
  }

  private async lease(most: number): Promise<(Device & { until: Date })[]> {
    const now = this.parts.now();
    const until = new Date(now - STANDS_MS);
    const { rows } = await this.parts.pool.query<Device>(
      `update push_device set lease_until = $2 from (
         select d.id, b.key, case when (select count(*) from membership m where m.person_id = d.person_id) > 1 then b.name end as of
         from push_device d join business b on b.id = d.business_id and b.removed_at is null where (d.not_before is null or d.not_before <= $3) and (d.lease_until is null or d.lease_until < $3) and ${NEWS}
         order by d.told_until limit $4 for update of d skip locked) due
       where push_device.id = due.id returning push_device.id, due.key, due.of, business_id, endpoint, p256dh, auth, wants, told_until, failures`,
      [until, new Date(now + LEASE_MS), new Date(now), most],
    );
    return rows.map((row) => ({ ...row, until }));
  }

  /** Told before it is noted: after a crash in between it is told again, and takes the place of the first by its tag. */
  private async tell(device: Device & { until: Date }): Promise<void> {
    const { pool, push, now, random } = this.parts;
    const notices = noticesOf(await this.since(device), new Set(device.wants));
    for (const { title, url, tag, ...notice } of notices) {
      // Of two with one tag the later takes the place of the earlier: those of one business never that of another's.
      const answer = await push.send(device, {
        ...notice,
        ...{
          title: device.of === null ? title : `${device.of}: ${title}`,
          url: `/at/${device.key}${url}`,
          tag: `${tag} ${device.key}`,
        },
      });
      if (answer.kind === 'gone') {
        await pool.query('delete from push_device where id = $1', [device.id]);
        return;
      }
      if (answer.kind === 'later') {
        const wait = retryDelayMs(RETRY, device.failures, answer.afterMs, random());
        const tooOld = now() - device.told_until.getTime() > RETRY.giveUpAfterMs;
        await pool.query(
          `update push_device set lease_until = null, failures = failures + 1, problem = $2, not_before = $3, told_until = case when $4 then $5 else told_until end where id = $1`,
          [device.id, answer.problem.slice(0, 300), new Date(now() + wait), tooOld, device.until],
        );
        return;
      }
    }
    await pool.query(
      `update push_device set lease_until = null, failures = 0, problem = null, told_until = $2, told_at = case when $3 then $4 else told_at end, not_before = case when $3 then $5 else not_before end where id = $1`,
      [device.id, device.until, notices.length > 0, new Date(now()), new Date(now() + PAUSE_MS)],
    );
  }

  /** What its owner may see of what has come. */
  private async since({ id, business_id, told_until, until }: Device & { until: Date }): Promise<SinceThen> {
    const { pool } = this.parts;
    const owner = await pool.query<{ role: Role; leads_of: string[] | null }>(
      `select m.role, leads_of(d.business_id, d.person_id) as leads_of from push_device d
       join membership m on m.business_id = d.business_id and m.person_id = d.person_id where d.id = $1`,
      [id],
    );
    const nothing = { total: 0, newest: [] };
    const member = owner.rows[0];
    if (!member) return { leads: nothing, conversations: nothing, needs: nothing };
    const of = [business_id, told_until, until];
    const theirs = [...of, member.leads_of];
    const [leads, conversations, needs] = await Promise.all([
      pool.query<{ id: string; name: string; source: string; total: number }>(
        `select l.id, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), nullif(l.email, ''), nullif(l.phone, ''), 'somebody') as name, s.name as source, count(*) over ()::int as total
         from lead l join lateral (select s.name, s.kind from arrival a join source s on s.id = a.source_id where a.lead_id = l.id order by a.received_at limit 1) s on s.kind <> 'import'
         where l.business_id = $1 and l.created_at > $2 and l.created_at <= $3 and l.is_person and is_theirs(l.business_id, l.id, l.owner_id, $4)
         order by l.created_at desc limit ${NEWEST}`,
        theirs,
      ),
      pool.query<{ id: string; name: string; text: string; total: number }>(
        `select c.id, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), c.sender) as name, c.last_text as text, count(*) over ()::int as total
         from conversation c left join lead l on l.id = c.lead_id
         where c.business_id = $1 and c.last_at > $2 and c.last_at <= $3 and c.last_in and c.unread > 0
           and ($4::uuid[] is null or c.assignee_id = any($4) or c.taken_by_id = any($4) or is_theirs(c.business_id, l.id, l.owner_id, $4))
         order by c.last_at desc limit ${NEWEST}`,
        theirs,
      ),
      pool.query<{ title: string; total: number }>(
        `select title, count(*) over ()::int as total from needs_you where business_id = $1 and created_at > $2 and created_at <= $3 and settled_at is null
         order by created_at desc limit ${NEWEST}`,
        of,
      ),
    ]);
    const told = <Row extends { total: number }>({ rows }: { rows: Row[] }) => ({
      total: rows[0]?.total ?? 0,
      newest: rows,
    });
    return {
      leads: told(leads),
      conversations: told(conversations),
      needs: mayDo(member.role, 'see-setup') ? told(needs) : nothing,
    };
  }
}
