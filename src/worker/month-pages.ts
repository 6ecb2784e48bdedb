import { getMonth, monthMailText } from '../app/results/month.ts';
import { monthBefore, monthOf, nextMonthPage } from '../core/results/month.ts';
import { dayOf } from '../core/time/day-of.ts';
import { uuidOf } from '../engine/uuid-of.ts';
import type { Machinery } from '../machinery.ts';
import { emailToColleague } from '../steps/email-to-colleague.ts';
import { performSend } from '../steps/performers.ts';

interface Due {
  business_id: string;
  business_name: string;
  business_key: string;
  country: string;
  locale: string;
  time_zone: string;
  day: number;
  still: string[];
}

type Parts = Pick<Machinery, 'pool' | 'settingsCache' | 'outside' | 'settings' | 'now'>;

/**
 * Sends the page of the month that is over to whom it is to go. Who is still to get it is written down, and crossed out one by one, so that whoever has it
 * gets no second one when the mail server is down for the others; what could not be sent is tried again with the next look.
 */
export async function sendMonthPages(parts: Parts): Promise<void> {
  const { pool, now } = parts;
  const { rows: begun } = await pool.query<{ business_id: string; day: number; time_zone: string }>(
    `select m.business_id, m.day, b.time_zone from month_page m join business b on b.id = m.business_id where m.next_at <= $1`,
    [new Date(now())],
  );
  for (const { business_id, day, time_zone } of begun)
    await pool.query(
      'update month_page set still = recipients, next_at = $2 where business_id = $1 and next_at <= $3',
      [business_id, new Date(nextMonthPage(now(), day, time_zone)), new Date(now())],
    );
  const { rows } = await pool.query<Due>(
    `select m.business_id, b.name as business_name, b.key as business_key, b.country, b.locale, b.time_zone, m.day, m.still from month_page m join business b on b.id = m.business_id
     where m.still <> '[]' and b.removed_at is null`,
  );
  for (const due of rows) await sendOne(parts, due);
}

async function sendOne(parts: Parts, due: Due): Promise<void> {
  const { pool, settingsCache, outside, settings, now } = parts;
  const { business_id: businessId, still } = due;
  const trouble = (words: string) =>
    pool.query('update month_page set trouble = $2 where business_id = $1', [businessId, words]);
  const { catalogue, accounts } = await settingsCache.provisionsOf(businessId);
  const account = catalogue.email ? accounts.get(catalogue.email.connectionId) : undefined;
  if (!catalogue.email || !account)
    return void (await trouble('There is no mail server to send it by. Add one under Connections.'));
  const month = monthBefore(monthOf(dayOf(now(), due.time_zone)));
  const { country, locale, time_zone: timeZone } = due;
  const view = await getMonth({ db: pool, actor: { businessId, country, locale, timeZone } }, month, now());
  const text = monthMailText(view, due.business_name, `${settings.publicUrl}/at/${due.business_key}`, month);
  const subject = `${due.business_name}: ${view.name}`;
  for (const email of still) {
    const id = uuidOf(`month ${businessId} ${month} ${email}`);
    const message = emailToColleague(catalogue.email, { name: email, email }, subject, text);
    const answer = await performSend(outside, account, message, id);
    if (answer.kind === 'again') return void (await trouble(`Not sent to ${email} yet: ${answer.detail}`));
    await pool.query(
      `update month_page set still = still - $2::text, last_at = $3, trouble = $4 where business_id = $1`,
      [businessId, email, new Date(now()), answer.kind === 'accepted' ? '' : `${email} was refused: ${answer.detail}`],
    );
  }
}
