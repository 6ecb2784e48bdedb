import type pg from 'pg';
import { storableText } from '../core/fields/field.ts';
import type { DescribedCaller } from '../gateways/described/described-caller.ts';
import type { CompanyAnswer, CompanyPort } from '../steps/performers.ts';
import type { SettingsCache } from './settings-cache.ts';

/** Asks a business's company directory, and remembers what it said for as long as the step wants. */
export class CompanyDirectory implements CompanyPort {
  constructor(
    private readonly parts: {
      pool: pg.Pool;
      settingsCache: SettingsCache;
      services: DescribedCaller;
      now: () => number;
    },
  ) {}

  async find(businessId: string, domain: string, keepDays: number): Promise<CompanyAnswer> {
    const { pool, settingsCache, services, now } = this.parts;
    const key = `company:${domain}`;
    const kept = await pool.query<{ value: Record<string, string> | null; at: Date }>(
      'select value, at from looked_up where business_id = $1 and key = $2 and at > $3',
      [businessId, key, new Date(now() - keepDays * 86_400_000)],
    );
    if (kept.rows[0] && keepDays > 0)
      return { kind: 'answered', company: kept.rows[0].value, detail: 'Known from an earlier look' };
    const { directoryAccount } = await settingsCache.provisionsOf(businessId);
    if (!directoryAccount)
      return { kind: 'refused', code: 'no-connection', detail: 'No company directory is connected.' };
    const { answer, data, values } = await services.call(directoryAccount, 'company', { domain });
    if (answer.kind === 'again') return { ...answer, code: 'directory' };
    // Asking changes nothing there: whatever is wrong with an answer may be right with the next.
    if (answer.kind !== 'accepted' || !data?.ok) {
      const detail = data && !data.ok ? `The company directory: ${data.problem}` : answer.detail;
      return { kind: 'again', code: 'directory', detail, afterMs: null };
    }
    const known = Object.entries(values).map(([name, one]) => [name, storableText(String(one ?? '')).slice(0, 500)]);
    const value: Record<string, string> | null = known.some(([, one]) => one !== '') ? Object.fromEntries(known) : null;
    await pool.query(
      `insert into looked_up (business_id, key, value, at) values ($1, $2, $3, $4)
       on conflict (business_id, key) do update set value = excluded.value, at = excluded.at`,
      [businessId, key, value === null ? null : JSON.stringify(value), new Date(now())],
    );
    return { kind: 'answered', company: value, detail: value ? 'Found in the directory' : 'Not in the directory' };
  }
}
