import type pg from 'pg';
import { v7 as uuidv7 } from 'uuid';
import type { Rules } from '../../core/workflow/rules.ts';
import { emailToColleague } from '../../steps/email-to-colleague.ts';
import { type Outside, performSend } from '../../steps/performers.ts';
import { PlainLoop } from '../loop.ts';
import type { SettingsCache } from '../settings-cache.ts';

interface Told {
  id: string;
  name: string;
  business_id: string;
  key: string;
  tell: NonNullable<Rules['tell']>;
  told_before: Date | null;
}

const HOURS: Record<NonNullable<Rules['tell']>['every'], number> = { each: 0, hour: 1, day: 24 };

/** Tells colleagues by email what of a workflow needs a person, as often as its rules say. */
export class FailureNotices {
  readonly loop = new PlainLoop('failure notices', () => this.tellAll());

  constructor(
    private readonly parts: {
      pool: pg.Pool;
      settingsCache: SettingsCache;
      outside: Outside;
      publicUrl: string;
      now: () => number;
    },
  ) {}

  /** Looks once at every workflow that tells somebody. */
  async tellAll(): Promise<void> {
    const { rows } = await this.parts.pool.query<Omit<Told, 'told_before'>>(
      `select w.id, w.name, w.business_id, b.key, v.definition #> '{rules,tell}' as tell from workflow w join workflow_version v on v.id = w.live_version_id join business b on b.id = w.business_id and b.removed_at is null
       where v.definition #> '{rules,tell}' <> 'null'::jsonb`,
    );
    for (const row of rows) await this.tellOne(row);
  }

  private async tellOne(workflow: Omit<Told, 'told_before'>): Promise<void> {
    const { pool, now } = this.parts;
    // Whoever moves the mark tells; several processes cannot tell the same twice.
    const { rows } = await pool.query<{ before: Date | null }>(
      `with mine as (select id, failures_told_at as before from workflow where id = $1 and (failures_told_at is null or failures_told_at <= $2) for update skip locked)
       update workflow w set failures_told_at = $3 from mine where w.id = mine.id and exists (
         select from needs_you n join run r on r.id = n.run_id where r.workflow_id = w.id and n.settled_at is null
           and n.created_at > coalesce(mine.before, w.created_at) and n.created_at <= $3)
       returning mine.before`,
      [workflow.id, new Date(now() - HOURS[workflow.tell.every] * 3_600_000), new Date(now())],
    );
    if (!rows[0]) return;
    const until = new Date(now());
    const { rows: needs } = await pool.query<{ title: string; detail: string }>(
      `select n.title, n.detail from needs_you n join run r on r.id = n.run_id join workflow w on w.id = r.workflow_id
       where r.workflow_id = $1 and n.settled_at is null and n.created_at > coalesce($2, w.created_at) and n.created_at <= $3
       order by n.created_at limit 50`,
      [workflow.id, rows[0].before, until],
    );
    const { catalogue, accounts } = await this.parts.settingsCache.provisionsOf(workflow.business_id);
    const who = catalogue.colleagues.find((colleague) => colleague.id === workflow.tell.colleague);
    const account = catalogue.email ? accounts.get(catalogue.email.connectionId) : undefined;
    if (needs.length === 0 || !who || !catalogue.email || !account) return;
    const text = `${needs.map((need) => `${need.title}: ${need.detail}`).join('\n\n')}\n\nPut it right: ${this.parts.publicUrl}/at/${workflow.key}/workflows/${workflow.id}/log?show=needs_you\n`;
    const answer = await performSend(
      this.parts.outside,
      account,
      emailToColleague(
        catalogue.email,
        who,
        needs.length === 1
          ? `${workflow.name}: ${needs[0]!.title}`
          : `${workflow.name}: ${needs.length} things need you`,
        text,
      ),
      uuidv7(),
    );
    // Not told: the mark goes back, and the next look tries again.
    if (answer.kind !== 'accepted')
      await pool.query('update workflow set failures_told_at = $2 where id = $1', [workflow.id, rows[0].before]);
  }
}
