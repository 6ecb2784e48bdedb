import type pg from 'pg';
import { homeCountries } from '../core/message/may-text.ts';
import { readPhone } from '../core/people/phone.ts';

/** Leads looked at, the newest: where a business has customers shows in far fewer. */
const MOST_LEADS = 50_000;

/** Where a business that has not chosen may text: its own country, and those its customers are in. Once; then it is its own choice. */
export async function settleTextCountries(pool: pg.Pool): Promise<void> {
  const { rows } = await pool.query<{ id: string; country: string }>(
    'select id, country from business where text_countries is null',
  );
  for (const { id, country } of rows) {
    const { rows: leads } = await pool.query<{ phone: string }>(
      `select phone from lead where business_id = $1 and phone <> '' order by created_at desc limit $2`,
      [id, MOST_LEADS],
    );
    const found = leads.map(({ phone }) => {
      const read = readPhone(phone, country);
      return read.ok ? (read.country ?? read.mainCountry) : null;
    });
    const countries = [...new Set([...homeCountries(country), ...found.filter((one) => one !== null)])];
    await pool.query('update business set text_countries = $2 where id = $1 and text_countries is null', [
      id,
      JSON.stringify(countries),
    ]);
  }
}
