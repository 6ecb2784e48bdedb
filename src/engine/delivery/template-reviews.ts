import type pg from 'pg';
import { z } from 'zod';
import { TEMPLATE_STATES } from '../../core/message/chat-template.ts';
import { readAs } from '../../core/read-as.ts';
import { namesOf } from '../../core/words/names-of.ts';
import type { DescribedCaller } from '../../gateways/described/described-caller.ts';
import type { Bell } from '../bell.ts';
import type { SettingsCache } from '../settings-cache.ts';

const Answered = z.object({ state: z.enum(namesOf(TEMPLATE_STATES)), reason: z.string().max(1000).default('') });
/** Asked about at once. */
const MOST = 20;

/** Asks chat networks about templates that wait for their review: the network's own word may have been lost on the way here. */
export class TemplateReviews {
  constructor(
    private readonly parts: { pool: pg.Pool; settingsCache: SettingsCache; services: DescribedCaller; bell: Bell },
  ) {}

  /** Of one business, or of all of them. What the network does not answer is asked another time. */
  async ask(businessId: string | null = null): Promise<void> {
    const { pool, settingsCache, services, bell } = this.parts;
    const { rows } = await pool.query<{ id: string; remote_id: string; business_id: string }>(
      `select v.id, v.remote_id, t.business_id from chat_template_version v join chat_template t on t.id = v.template_id
       where ($1::uuid is null or t.business_id = $1) and v.state = 'waiting' and v.remote_id is not null order by random() limit ${MOST}`,
      [businessId],
    );
    for (const { id, remote_id, business_id } of rows) {
      const { catalogue, accounts } = await settingsCache.provisionsOf(business_id);
      const account = catalogue.chat ? accounts.get(catalogue.chat.connectionId) : undefined;
      if (account?.kind !== 'chat') continue;
      const { answer, values } = await services.call(account.service, 'template_state', { id: remote_id });
      const asked = readAs(Answered, values);
      if (answer.kind !== 'accepted' || !asked.success || asked.data.state === 'waiting') continue;
      await pool.query(
        `update chat_template_version set state = $2, reason = $3, decided_at = now() where id = $1 and state = 'waiting'`,
        [id, asked.data.state, asked.data.reason],
      );
      settingsCache.forget();
      bell.ring(business_id);
    }
  }
}
