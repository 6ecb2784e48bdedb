import { v5 as uuidv5, v7 as uuidv7 } from 'uuid';
import { makeListLink } from '../../core/consent/leave-link.ts';
import { labelFromKey } from '../../core/fields/field.ts';
import type { Identity } from '../../core/people/identity.ts';
import { allConsents, type ConsentState, type RunPerson, startContext } from '../../core/workflow/run-context.ts';
import type { Db } from '../../db/db.ts';
import { planEmail } from '../../steps/plan-email.ts';
import { enqueue } from '../delivery/enqueue.ts';
import { connectionFor, type DeliveryParts, makeDelivery } from '../delivery/make-delivery.ts';
import { blankItem } from '../intake/blank-item.ts';
import { tellOf } from '../runs/tell-of.ts';
import type { SettingsCache } from '../settings-cache.ts';

export interface Joining {
  businessId: string;
  listId: string;
  leadId: string;
  /** How they came onto it, in words. */
  how: string;
  runId: string | null;
  /** They have agreed already where they came from: a list that asks does not ask again. */
  proven: boolean;
  /** Fields of their own on this list. */
  fields: Record<string, string>;
  /** Milliseconds. */
  now: number;
}

/** `left`: they have left it by their own wish, and only that brings them back. */
export type Joined = 'joined' | 'waiting' | 'there' | 'left' | 'no-list';

/** Our own words for the email that asks, where the list has none. */
export const CONFIRM = {
  subject: 'Please confirm: {{ item.list }}',
  message:
    'Hi {{ lead.first_name | default: "there" }},\n\nplease confirm that you would like “{{ item.list }}” from {{ business.name }}:\n\n{{ item.link }}\n\nIf you did not ask for this, do nothing and you will hear no more of it.',
};

interface ListRow {
  id: string;
  name: string;
  opt_in: 'single' | 'double';
  confirm_subject: string;
  confirm_message: string;
  source_id: string | null;
  fields: { key: string; label: string }[];
}

/** The way onto lists: asked to confirm where the list asks, told to what waits for it, and through it into its sequences. */
export class ListMembership {
  constructor(private readonly parts: DeliveryParts & { settingsCache: SettingsCache; linkKey: Uint8Array }) {}

  /** In the transaction of `client`. Nobody is on a list twice. */
  async join(client: Db, joining: Joining): Promise<Joined> {
    const { businessId, listId, leadId, how, runId, now, fields } = joining;
    const { rows: lists } = await client.query<ListRow>(
      'select id, name, opt_in, confirm_subject, confirm_message, source_id, fields from nurture_list where id = $1 and business_id = $2 and removed_at is null',
      [listId, businessId],
    );
    const list = lists[0];
    if (!list) return 'no-list';
    const asks = list.opt_in === 'double' && !joining.proven;
    const at = new Date(now);
    const put = await client.query(
      `insert into list_member (list_id, lead_id, state, how, joined_at, changed_at, run_id, fields, asked_at) values ($1, $2, $3, $4, $5, $5, $6, $7, $8)
       on conflict (list_id, lead_id) do update set state = excluded.state, how = excluded.how, joined_at = excluded.joined_at, changed_at = excluded.changed_at,
         run_id = excluded.run_id, fields = list_member.fields || excluded.fields, asked_at = excluded.asked_at
       -- Cleaned by our own wish: they never left it themselves.
       where list_member.state = 'cleaned'`,
      [listId, leadId, asks ? 'waiting' : 'active', how, at, runId, JSON.stringify(fields), asks ? at : null],
    );
    if (!put.rowCount) {
      // Never a second membership; what is new about them is kept.
      const there = await client.query<{ state: string }>(
        'update list_member set fields = fields || $3 where list_id = $1 and lead_id = $2 returning state',
        [listId, leadId, JSON.stringify(fields)],
      );
      const state = there.rows[0]?.state;
      return state === 'active' ? 'there' : state === 'waiting' ? 'waiting' : 'left';
    }
    if (asks) {
      await this.askToConfirm(client, joining, list);
      return 'waiting';
    }
    await this.begins(client, list, joining);
    return 'joined';
  }

  /** They have said yes by the link of the email that asked. False when there is nothing to confirm (any more). */
  async confirm(client: Db, leadId: string, listId: string, now: number): Promise<boolean> {
    const at = new Date(now);
    const { rows } = await client.query<{ business_id: string; fields: Record<string, string>; name: string }>(
      `update list_member m set state = 'active', confirmed_at = $3, changed_at = $3 from nurture_list t
       where m.list_id = $1 and m.lead_id = $2 and m.state = 'waiting' and t.id = m.list_id returning t.business_id, m.fields, t.name`,
      [listId, leadId, at],
    );
    const row = rows[0];
    if (!row) return false;
    await this.agreed(client, leadId, `Confirmed “${row.name}” by the link`, at);
    const list = await client.query<ListRow>('select * from nurture_list where id = $1', [listId]);
    const joining = {
      businessId: row.business_id,
      listId,
      leadId,
      how: '',
      runId: null,
      proven: true,
      fields: row.fields,
      now,
    };
    await this.begins(client, list.rows[0]!, joining);
    return true;
  }

  /** Back on a list they had left, by their own wish. */
  async joinAgain(client: Db, leadId: string, listId: string, now: number): Promise<void> {
    const at = new Date(now);
    const { rowCount } = await client.query(
      `update list_member set state = 'active', changed_at = $3 where list_id = $1 and lead_id = $2 and state = 'unsubscribed'`,
      [listId, leadId, at],
    );
    if (rowCount) await this.agreed(client, leadId, 'Came back by the preference page', at);
  }

  private agreed(client: Db, leadId: string, how: string, at: Date): Promise<unknown> {
    return client.query(
      `insert into consent (id, business_id, lead_id, channel, state, wording, how, at)
       select $1, business_id, id, 'email', 'given', '', $3, $4 from lead where id = $2`,
      [uuidv7(), leadId, how, at],
    );
  }

  /** An arrival at the list's own source: whatever listens to it starts, as with any other. */
  private async begins(client: Db, list: ListRow, joining: Joining): Promise<void> {
    const { businessId, leadId, listId, fields, now } = joining;
    const { rows } = await client.query<RunPerson & { answers: Record<string, string> }>(
      'select first_name, last_name, email, phone, answers from lead where id = $1',
      [leadId],
    );
    const identities = (
      await client.query<Identity>('select kind, value from lead_identity where lead_id = $1 order by kind, value', [
        leadId,
      ])
    ).rows;
    const person = rows[0];
    if (list.source_id !== null && person && identities.length > 0) {
      const known = {
        first_name: person.first_name,
        last_name: person.last_name,
        email: person.email,
        phone: person.phone,
      };
      const item = {
        ...blankItem({ businessId, sourceId: list.source_id, now }),
        body: Buffer.from(JSON.stringify({ ...known, answers: person.answers, fields })).toString('base64'),
        fields: [
          ...Object.entries({ ...known, ...person.answers }).map(([key, value]) => ({
            key,
            label: labelFromKey(key),
            value,
          })),
          // Theirs on this list, and no answer of theirs.
          ...list.fields.map(({ key, label }) => ({
            key: `${listId}.${key}`,
            label: `${list.name}: ${label}`,
            value: fields[key] ?? '',
            of: 'list',
          })),
        ],
        person: known,
        identities,
        brings: 'member',
      };
      await client.query('select accept_arrivals($1::jsonb)', [JSON.stringify([item])]);
    }
    // After it: whoever takes both locks takes them in this order.
    await tellOf(client, leadId, { event: 'list', list: listId });
  }

  private async askToConfirm(client: Db, joining: Joining, list: ListRow): Promise<void> {
    const { settingsCache, linkKey, publicUrl } = this.parts;
    const { businessId, leadId, now } = joining;
    const { rows } = await client.query<
      RunPerson & { consent: ConsentState | null; business: string; country: string; time_zone: string }
    >(
      `select l.first_name, l.last_name, l.email, l.phone, b.name as business, b.country, b.time_zone,
         consents_of(l.id, 'service') ->> 'email' as consent
       from lead l join business b on b.id = l.business_id where l.id = $1`,
      [leadId],
    );
    const lead = rows[0];
    const { catalogue } = await settingsCache.provisionsOf(businessId);
    const connection = connectionFor(catalogue, 'email');
    if (!lead || !connection) return;
    const link = `${publicUrl}/confirm/${makeListLink(linkKey, 'confirm', { leadId, listId: list.id })}`;
    const member = Object.fromEntries(
      Object.entries(joining.fields).map(([key, value]) => [`${list.id}.${key}`, value]),
    );
    const context = startContext({ person: lead, answers: {}, member }, lead, {
      where: {},
      business: { name: lead.business, country: lead.country, timeZone: lead.time_zone, holidays: [] },
      source: { name: list.name },
      consent: allConsents({ email: lead.consent ?? 'unknown' }),
      item: { list: list.name, link },
    });
    const email = {
      subject: list.confirm_subject || CONFIRM.subject,
      message: list.confirm_message || CONFIRM.message,
      needsConsent: false,
    };
    const plan = planEmail(email, { context, catalogue, now, turn: null });
    if (plan.does !== 'send') return;
    const id = uuidv5(`confirm:${leadId}:${now}`, list.id);
    const about = { id, businessId, runId: null, stepId: 'confirm', item: 0, leadId, listId: list.id };
    const { pending } = makeDelivery(about, plan.message, connection, catalogue.counting, this.parts, now);
    await enqueue(client, [{ ...{ id, businessId, leadId, stepId: 'confirm' }, ...pending, at: new Date(now) }]);
  }
}
