import { firstFree } from '../../core/appointments/first-free.ts';
import type { StepPerformer } from '../step-performer.ts';
import type { HoldTimeDone } from './definition.ts';

export const holdInCalendar: StepPerformer = {
  shared: (what) => (what as HoldTimeDone).colleagueId,
  async record(client, what, { businessId, leadId, runId, key, now }) {
    const { colleagueId, title, startsAt, minutes } = what as HoldTimeDone;
    // One hold of a colleague at a time: nobody is held twice for the same minutes.
    await client.query('select pg_advisory_xact_lock(hashtextextended($1, 18))', [colleagueId]);
    const length = minutes * 60_000;
    const { rows } = await client.query<{ starts_at: Date; ends_at: Date }>(
      'select starts_at, ends_at from calendar_entry where colleague_id = $1 and ends_at > $2 and starts_at < $3 order by starts_at',
      [colleagueId, new Date(startsAt), new Date(startsAt + 86_400_000)],
    );
    const taken = rows.map((row) => ({ start: row.starts_at.getTime(), end: row.ends_at.getTime() }));
    const start = firstFree(taken, startsAt, length);
    await client.query(
      `insert into calendar_entry (id, business_id, colleague_id, lead_id, title, starts_at, ends_at, run_id, created_at)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
      [key, businessId, colleagueId, leadId, title, new Date(start), new Date(start + length), runId, new Date(now)],
    );
    return { detail: start === startsAt ? 'Held' : 'Held later that day: the time asked for was taken' };
  },
};
