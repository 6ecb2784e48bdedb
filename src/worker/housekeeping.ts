import { REMOVED_DAYS } from '../app/account/removed.ts';
import { SIGNATURE_PROBLEMS } from '../core/signing/standard-webhooks.ts';
import { COUNT_DAYS } from '../db/day-counts.sql.ts';
import { keepArchive } from '../engine/archive/pack-months.ts';
import { warnOfEnds } from '../engine/services/ends.ts';
import type { Machinery } from '../machinery.ts';
import { takeOutRemoved } from './removed-businesses.ts';

/** What was sent with a wrong signature is kept this long, and so many of each source: enough to see what is wrong. */
const UNSIGNED_DAYS = 7;
const MOST_UNSIGNED = 100;
/** What nothing else goes on naming once it can no longer be put back: it goes with all that is in it. */
const GONE_FOR_GOOD = {
  ...{ sheet: '', email_template: '', chat_template: '', segment: '', tag: '', canned_answer: '' },
  // What people have agreed to points to the wording of the form they filled in: it stays, and is seen nowhere.
  chat_form:
    'and not exists (select from form_answer a join chat_form_version v on v.id = a.version_id where v.form_id = t.id)',
};
/** Visits of the business's pages by people nobody knows; those of people who are known stand with them. */
const VISIT_DAYS = 90;

/**
 * Throws out what is past its time, sign-ins that have ended and failed ones older than a day, counts the arrivals of days that are over, and
 * packs what came in long ago.
 */
export async function housekeeping(
  { pool, secrets, now }: Pick<Machinery, 'pool' | 'secrets' | 'now'>,
  stopping?: () => boolean,
): Promise<void> {
  await pool.query(`delete from session where expires_at < now()`);
  await pool.query(
    `delete from arrival where id in (select id from (
       select id, received_at, row_number() over (partition by source_id order by received_at desc) as n from arrival
       where state = 'refused' and lead_id is null and received_at > now() - ($3::int + 2) * interval '1 day' and (problem = any($1) or problem like 'The header % with the signature is missing.')) unsigned
       where n > $2 or received_at < now() - $3::int * interval '1 day')`,
    [Object.values(SIGNATURE_PROBLEMS), MOST_UNSIGNED, UNSIGNED_DAYS],
  );
  await pool.query(`delete from errand where expires_at < now()`);
  await pool.query(`delete from password_reset where expires_at < now()`);
  await pool.query('select retire_audit()');
  // What can no longer be put back keeps no key.
  await pool.query(
    `update connection set secret = null where secret is not null and removed_at < now() - $1::int * interval '1 day'`,
    [REMOVED_DAYS],
  );
  await pool.query(
    `delete from service_grant g using connection c where c.id = g.connection_id and c.removed_at < now() - $1::int * interval '1 day'`,
    [REMOVED_DAYS],
  );
  for (const [table, but] of Object.entries(GONE_FOR_GOOD))
    await pool.query(`delete from ${table} t where removed_at < now() - $1::int * interval '1 day' ${but}`, [
      REMOVED_DAYS,
    ]);
  await pool.query(`delete from connection_hour where hour < now() - interval '8 days'`);
  // A report later than this tells nobody anything.
  await pool.query(`delete from taken_message where at < now() - interval '45 days'`);
  await pool.query(`delete from guess where since < now() - interval '1 day'`);
  await pool.query(`delete from site_visit where at < now() - $1::int * interval '1 day'`, [VISIT_DAYS]);
  await warnOfEnds({ pool, secrets });
  await pool.query(COUNT_DAYS);
  await takeOutRemoved({ pool, now }, stopping);
  await keepArchive(pool, now(), stopping);
}
