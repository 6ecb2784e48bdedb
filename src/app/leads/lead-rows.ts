import type { QueryResultRow } from 'pg';
import { labelFromKey } from '../../core/fields/field.ts';
import type { LeadChoice } from '../../core/people/lead-choice.ts';
import { MEMBER_STATE_WORDS, type MemberState } from '../../core/people/member-state.ts';
import { TOUCH_GROUPS, touchFields } from '../../core/source/touches.ts';
import { referenceLabel } from '../../core/template/field-reference.ts';
import { cameInBy } from '../../db/came-in-by.ts';
import { consentThatCounts } from '../../db/hot/consent-order.ts';
import { touchesOf } from '../../engine/runs/touches.ts';
import { demand } from '../actor.ts';
import type { Use } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { behind, choose } from './choosing.ts';
import { leadName, type Named } from './lead-name.ts';

export interface LeadRow {
  id: string;
  name: string;
  email: string;
  phone: string;
  sourceName: string;
  campaign: string;
  owner: string;
  tags: string[];
  lastArrivalAt: string;
  createdAt: string;
}

export const LEADS_PAGE = 50;

/** Chosen leads, newest arrival first, a page at a time. */
export async function listLeads(
  use: Use,
  input: { choice: LeadChoice; before: string | null },
): Promise<{ rows: LeadRow[]; more: boolean; total: number }> {
  const chosen = await choose(use, input.choice);
  const [total, { ids, more }] = await Promise.all([
    chosen.count(),
    chosen.page('heard', behind(input.before), LEADS_PAGE),
  ]);
  const { rows } = await use.db.query<Named & QueryResultRow>(
    `select l.*, came.name as source_name, came.where_from, coalesce(p.name, '') as owner,
       array(select g.name from lead_tag t join tag g on g.id = t.tag_id and g.removed_at is null where t.lead_id = l.id order by g.name) as tags
     from lead l left join lateral (${cameInBy('s.name, a.where_from')}) came on true
     left join person p on p.id = l.owner_id where l.id = any($1::uuid[]) order by array_position($1::uuid[], l.id)`,
    [ids],
  );
  return {
    total,
    more,
    rows: rows.map((row) => ({
      id: row.id,
      name: leadName(row),
      email: row.email,
      phone: row.phone,
      sourceName: row.source_name ?? '',
      campaign: row.where_from?.campaign ?? row.where_from?.utm_campaign ?? '',
      owner: row.owner,
      tags: row.tags,
      lastArrivalAt: row.last_arrival_at.toISOString(),
      createdAt: row.created_at.toISOString(),
    })),
  };
}

/** Leads read to learn which answers there are. */
const LEARN_FROM = 3000;

/** Keys of the answers leads have given of late, and of the fields of their own, the commonest first. */
export async function answerKeys(use: Use): Promise<{ answers: string[]; own: string[] }> {
  const keys = async (column: 'answers' | 'own') => {
    const { rows } = await use.db.query<{ key: string }>(
      `select key from (select ${column} from lead where business_id = $1 and is_person order by last_arrival_at desc limit ${LEARN_FROM}) l,
         jsonb_object_keys(l.${column}) key group by key order by count(*) desc, key limit 200`,
      [use.actor.businessId],
    );
    return rows.map((row) => row.key);
  };
  const [answers, own] = await Promise.all([keys('answers'), keys('own')]);
  return { answers, own };
}

/** What a table says of the touches that count. */
const TOUCH_COLUMNS = TOUCH_GROUPS.flatMap((group) =>
  ['at', 'utm_source', 'utm_medium', 'utm_campaign', 'campaign', 'ad_set', 'ad', 'form', 'page'].map(
    (key) => [group, key] as const,
  ),
);

/** Rows of an exported table that are made at once. */
const AT_ONCE = 1000;

/** Chosen leads as a table for a file: who they are, what is on record of them, and their answers. */
export async function leadsAsTable(
  use: Use,
  choice: LeadChoice,
): Promise<{ name: string; rows: AsyncGenerator<string[][]> }> {
  demand(use.actor, 'build');
  const [chosen, catalogue, keys] = await Promise.all([choose(use, choice), catalogueFor(use), answerKeys(use)]);
  const list = catalogue.lists.find((list) => list.id === choice.list?.id) ?? null;
  await use.write(async (tx) => tx.note('leads.export', list?.id ?? tx.actor.businessId, { choice }));
  const { db } = use;
  const header = [
    ...['First name', 'Last name', 'Email', 'Phone', 'Owner', 'Tags', 'Lists', 'Emails', 'Texts', 'Came in by'],
    ...['A lead since', 'Last heard of'],
    ...TOUCH_COLUMNS.map(([group, key]) => referenceLabel({ group, key })),
    ...(list ? ['State on the list', 'How they came onto it', 'On it since'] : []),
    ...(list?.fields.map((field) => field.label) ?? []),
    ...keys.answers.map(labelFromKey),
    ...keys.own.map((key) => `${labelFromKey(key)} (own field)`),
  ];
  const consent = (channel: string) =>
    `coalesce(nullif(${consentThatCounts('l.id', `'${channel}'`, 'service')}, 'unticked'), 'unknown')`;
  async function* rows(): AsyncGenerator<string[][]> {
    yield [header];
    for (let after: string | null = null; ; ) {
      const { ids, more } = await chosen.page('id', after, AT_ONCE);
      const found = await db.query(
        `select l.id, l.first_name, l.last_name, l.email, l.phone, l.answers, l.own, l.created_at, l.last_arrival_at, coalesce(p.name, '') as owner,
           ${consent('email')} as emails, ${consent('text')} as texts,
           coalesce((select string_agg(g.name, '; ' order by g.name) from lead_tag t join tag g on g.id = t.tag_id and g.removed_at is null where t.lead_id = l.id), '') as tags,
           coalesce((select string_agg(t.name, '; ' order by t.name) from list_member x join nurture_list t on t.id = x.list_id and t.removed_at is null where x.lead_id = l.id and x.state = 'active'), '') as lists,
           coalesce((${cameInBy('s.name')}), '') as source,
           m.state, m.how, m.joined_at, m.fields
         from lead l left join person p on p.id = l.owner_id left join list_member m on m.lead_id = l.id and m.list_id = $2 where l.id = any($1::uuid[]) order by l.id`,
        [ids, list?.id ?? null],
      );
      const touches = await touchesOf(db, ids);
      yield found.rows.map((row) => [
        ...[row.first_name, row.last_name, row.email, row.phone, row.owner, row.tags, row.lists, row.emails],
        ...[row.texts, row.source, row.created_at.toISOString(), row.last_arrival_at.toISOString()],
        ...TOUCH_COLUMNS.map(([group, key]) => touchFields(touches.get(row.id)?.[group] ?? {})[key] ?? ''),
        ...(list
          ? [
              row.state ? MEMBER_STATE_WORDS[row.state as MemberState] : '',
              row.how ?? '',
              row.joined_at?.toISOString() ?? '',
              ...list.fields.map((field) => String(row.fields?.[field.key] ?? '')),
            ]
          : []),
        ...keys.answers.map((key) => String(row.answers[key] ?? '')),
        ...keys.own.map((key) => String(row.own[key] ?? '')),
      ]);
      if (!more) return;
      after = ids.at(-1)!;
    }
  }
  return { name: list?.name ?? 'Leads', rows: rows() };
}
