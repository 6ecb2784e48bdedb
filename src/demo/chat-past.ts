import type { Use } from '../app/use.ts';
import { HotStore } from '../db/hot/store.ts';
import { FIRST_CONTACT } from './chat-world.ts';
import { sourcesByName, tellOne } from './history.ts';
import { seededRandom } from './seeded-random.ts';

const MANY = 17;

/** First contacts of the same weeks in chat: people who had asked for a lesson, and wrote there as well. */
export async function chatPast(use: Use, seed: number): Promise<void> {
  const { runtime, actor } = use;
  const random = seededRandom(seed + 1);
  const source = (await sourcesByName(runtime, actor.businessId))('First contact completed');
  const { rows } = await runtime.pool.query<{
    first_name: string;
    last_name: string;
    email: string;
    phone: string;
    created_at: Date;
  }>(
    `select first_name, last_name, email, phone, created_at from lead where business_id = $1 and is_person and phone like '+447700900%'
       and created_at < now() - interval '4 hours' order by md5(id::text || 'chat') limit ${MANY}`,
    [actor.businessId],
  );
  const store = new HotStore(runtime.pool);
  const told = rows.map((row, n) => {
    const begin = row.created_at.getTime();
    const field = (key: string, label: string, value: string) => ({ key, label, value });
    const fields = [
      field('phone', 'Phone', row.phone),
      field('first_name', 'First name', row.first_name),
      field('last_name', 'Last name', row.last_name),
    ];
    return {
      source,
      at: Math.floor(begin + (0.05 + 0.9 * random()) * (runtime.now() - begin)),
      person: { first: row.first_name, last: row.last_name, email: row.email, phone: row.phone, instrument: '' },
      sent: {
        contentType: 'application/json',
        body: JSON.stringify({ first_contact: Object.fromEntries(fields.map(({ key, value }) => [key, value])) }),
      },
      ticked: FIRST_CONTACT.consent.text,
      read: { externalId: `past-first-contact-${n}`, fields, whereFrom: {} },
    };
  });
  for (const one of told.sort((a, b) => a.at - b.at)) await tellOne(runtime, store, one, random);
}
