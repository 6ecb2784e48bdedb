import { summaryOf, type Waiting } from '../core/notices/telling.ts';
import { mayDo, type Role } from '../core/people/rights.ts';
import { type WorkingTime, worksOn } from '../core/people/working-time.ts';
import { wallClock } from '../core/time/zone.ts';
import { clockTime } from '../core/words/instant.ts';
import { uuidOf } from '../engine/uuid-of.ts';
import type { Machinery } from '../machinery.ts';
import { emailToColleague } from '../steps/email-to-colleague.ts';
import { performSend } from '../steps/performers.ts';

interface Due {
  id: string;
  business_id: string;
  person_id: string;
  business: string;
  key: string;
  locale: string;
  time_zone: string;
  role: Role;
  leads_of: string[] | null;
  summary_at: string;
  /** "YYYY-MM-DD" of the last, by the business's clock. */
  summary_on: string | null;
  working: WorkingTime | null;
}

type Parts = Pick<Machinery, 'pool' | 'settingsCache' | 'outside' | 'settings' | 'now'>;

/** A summary that could not go for so many hours is not one of the morning any more. */
const HOURS_LATE = 4;
/** Named at most. */
const MOST = 5;

/** Sends what waits for them to everybody whose hour for it has come, once a day, on days they work. */
export async function sendMorningSummaries(parts: Parts): Promise<void> {
  const { rows } = await parts.pool.query<Due>(
    `select m.id, m.business_id, m.person_id, b.name as business, b.key, b.locale, b.time_zone, m.role, leads_of(b.id, m.person_id) as leads_of,
       m.summary_at, m.summary_on::text as summary_on, m.working
     from membership m join business b on b.id = m.business_id where m.summary_at is not null and b.removed_at is null`,
  );
  for (const due of rows) {
    const clock = wallClock(parts.now(), due.time_zone);
    const today = clock.toPlainDate().toString();
    const late =
      clock.hour * 60 + clock.minute - (Number(due.summary_at.slice(0, 2)) * 60 + Number(due.summary_at.slice(3)));
    if (late < 0 || late > HOURS_LATE * 60 || due.summary_on === today || !worksOn(due.working, today)) continue;
    await sendOne(parts, due, today);
  }
}

async function sendOne({ pool, settingsCache, outside, settings }: Parts, due: Due, today: string): Promise<void> {
  const { catalogue, accounts } = await settingsCache.provisionsOf(due.business_id);
  const who = catalogue.colleagues.find(({ id }) => id === due.person_id);
  const account = catalogue.email && accounts.get(catalogue.email.connectionId);
  // Without a mail server the next look tries again, while it is still morning.
  if (!who || !catalogue.email || !account) return;
  const summary = summaryOf(due.business, await waiting(pool, due), `${settings.publicUrl}/at/${due.key}`);
  if (summary) {
    const message = emailToColleague(catalogue.email, who, summary.subject, summary.text);
    const answer = await performSend(outside, account, message, uuidOf(`morning ${due.id} ${today}`));
    if (answer.kind === 'again') return;
  }
  await pool.query('update membership set summary_on = $2 where id = $1', [due.id, today]);
}

async function waiting(pool: Machinery['pool'], due: Due): Promise<Waiting> {
  const name = `coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), nullif(l.email, ''), nullif(l.phone, ''), 'somebody')`;
  const theirs = [due.business_id, due.leads_of];
  const day = `date_trunc('day', now() at time zone $3)`;
  const [leads, conversations, tasks, appointments, needs] = await Promise.all([
    pool.query<{ name: string; total: number }>(
      `select ${name} as name, count(*) over ()::int as total from lead l
       where l.business_id = $1 and l.is_person and l.created_at > coalesce(($3::date + $4::time) at time zone $5, now() - interval '1 day') and is_theirs(l.business_id, l.id, l.owner_id, $2)
         and not exists (select from arrival a join source s on s.id = a.source_id where a.lead_id = l.id and s.kind = 'import')
       order by l.created_at desc limit ${MOST}`,
      // Since the one before, and over a weekend since Friday's.
      [...theirs, due.summary_on, due.summary_at, due.time_zone],
    ),
    pool.query<{ name: string; total: number }>(
      `select coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), c.sender) as name, count(*) over ()::int as total
       from conversation c left join lead l on l.id = c.lead_id where c.business_id = $1 and c.last_in and c.unread > 0
         and ($2::uuid[] is null or c.assignee_id = any($2) or c.taken_by_id = any($2) or is_theirs(c.business_id, l.id, l.owner_id, $2)) order by c.last_at limit ${MOST}`,
      theirs,
    ),
    pool.query<{ title: string; total: number }>(
      `select t.title, count(*) over ()::int as total from task t join lead l on l.id = t.lead_id
       where t.business_id = $1 and t.done_at is null and t.due_at < (${day} + interval '1 day') at time zone $3
         and (t.colleague_id = $4 or t.colleague_id is null and is_theirs(l.business_id, l.id, l.owner_id, $2)) order by t.due_at limit ${MOST}`,
      [...theirs, due.time_zone, due.person_id],
    ),
    pool.query<{ starts_at: Date; title: string; lead: string }>(
      `select e.starts_at, e.title, coalesce(trim(l.first_name || ' ' || l.last_name), '') as lead from calendar_entry e left join lead l on l.id = e.lead_id
       where e.business_id = $1 and e.colleague_id = $3 and e.starts_at >= ${day.replace('$3', '$2')} at time zone $2 and e.starts_at < (${day.replace('$3', '$2')} + interval '1 day') at time zone $2
       order by e.starts_at limit 30`,
      [due.business_id, due.time_zone, due.person_id],
    ),
    mayDo(due.role, 'see-setup')
      ? pool.query<{ n: number }>(
          'select count(*)::int as n from needs_you where business_id = $1 and settled_at is null',
          [due.business_id],
        )
      : null,
  ]);
  const counted = (rows: { total: number }[]) => rows[0]?.total ?? 0;
  const place = { locale: due.locale, timeZone: due.time_zone };
  return {
    leads: { total: counted(leads.rows), names: leads.rows.map((row) => row.name) },
    conversations: { total: counted(conversations.rows), names: conversations.rows.map((row) => row.name) },
    tasks: { total: counted(tasks.rows), titles: tasks.rows.map((row) => row.title) },
    appointments: appointments.rows.map(({ starts_at, title, lead }) =>
      [`${clockTime(starts_at.toISOString(), place)} ${title}`, lead].filter(Boolean).join(', '),
    ),
    needs: needs && needs.rows[0]!.n,
  };
}
