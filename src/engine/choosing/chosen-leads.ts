import type pg from 'pg';
import { type Condition, testsOf } from '../../core/condition/condition.ts';
import { combine, evaluate, factKey, factOf } from '../../core/condition/evaluate.ts';
import type { LeadChoice } from '../../core/people/lead-choice.ts';
import { isThrowAway } from '../../gateways/mail-domains.ts';
import { SqlValues } from './field-sql.ts';
import { type ChoosingScope, type QuestionSql, questionSql } from './question-sql.ts';

/** In which order leads are gone through: by id, by who was heard of last, by who joined the list last. */
export type ChoosingOrder = 'id' | 'heard' | 'joined';

/** Rows looked at in one statement where the core has to answer: little enough not to hold up the process. */
const LOOK_AT = 2000;
const CONSTANT = { country: '', timeZone: 'UTC', now: 0, tags: [], memberOf: [], consent: {}, facts: {} };

/** The database's client, whole or one connection in a transaction. */
type Client = Pick<pg.Pool, 'query'>;

/** Leads chosen by what is known of them; a segment is looked up anew every time, so that it is always up to date. */
export class ChosenLeads {
  private constructor(
    private readonly client: Client,
    private readonly choice: LeadChoice,
    private readonly conditions: Condition[],
    private readonly scope: ChoosingScope,
  ) {}

  /** Null when the segment or the list of the choice is no longer there. */
  static async open(client: Client, choice: LeadChoice, scope: ChoosingScope): Promise<ChosenLeads | null> {
    const conditions = choice.condition ? [choice.condition] : [];
    if (choice.segment !== null) {
      const { rows } = await client.query<{ condition: Condition }>(
        'select condition from segment where id = $1 and business_id = $2',
        [choice.segment, scope.businessId],
      );
      if (!rows[0]) return null;
      conditions.push(rows[0].condition);
    }
    for (const [table, id] of [
      ['nurture_list', choice.list?.id],
      ['tag', choice.tag],
    ] as const)
      if (id) {
        const { rowCount } = await client.query(`select from ${table} where id = $1 and business_id = $2`, [
          id,
          scope.businessId,
        ]);
        if (!rowCount) return null;
      }
    return new ChosenLeads(client, choice, conditions, scope);
  }

  async count(): Promise<number> {
    const { from, values, asked } = this.statement();
    if (asked.length === 0) {
      const { rows } = await this.client.query<{ n: number }>(`select count(*)::int as n ${from}`, values.list);
      return rows[0]!.n;
    }
    let n = 0;
    for (let after: string | null = null; ; ) {
      const { ids, more } = await this.page('id', after, LOOK_AT * 5);
      n += ids.length;
      if (!more) return n;
      after = ids.at(-1)!;
    }
  }

  /** How many an email would be for, and how many of them it would reach: an address, and the consent it needs. */
  async countReached(needsConsent: boolean): Promise<{ people: number; reached: number }> {
    const { from, values, asked } = this.statement();
    const counting = (source: string, all: SqlValues) =>
      this.client.query<{ people: number; reached: number }>(
        `select count(*)::int as people, count(*) filter (where l.email <> '' and coalesce(c.state, 'unknown') <> 'withdrawn'
           and (not ${all.add(needsConsent)}::boolean or c.state = 'given'))::int as reached
         from (select l.id, l.email ${source}) l
         left join lateral (select state from consent where lead_id = l.id and channel = 'email' order by at desc, id desc limit 1) c on true`,
        all.list,
      );
    if (asked.length === 0) return (await counting(from, values)).rows[0]!;
    const sum = { people: 0, reached: 0 };
    for (let after: string | null = null; ; ) {
      const { ids, more } = await this.page('id', after, LOOK_AT * 5);
      const these = new SqlValues();
      const { rows } = await counting(`from lead l where l.id = any(${these.add(ids)}::uuid[])`, these);
      sum.people += rows[0]!.people;
      sum.reached += rows[0]!.reached;
      if (!more) return sum;
      after = ids.at(-1)!;
    }
  }

  /** The next `most` behind the lead `after`, and whether there are more. */
  async page(order: ChoosingOrder, after: string | null, most: number): Promise<{ ids: string[]; more: boolean }> {
    const ids: string[] = [];
    for (let last = after; ; ) {
      const { from, values, asked } = this.statement();
      const key = { id: 'l.id', heard: 'l.last_arrival_at, l.id', joined: 'm.joined_at, l.id' }[order];
      const way = order === 'id' ? ['>', ''] : ['<', ' desc'];
      const behind =
        last === null
          ? ''
          : `and (${key}) ${way[0]} (select ${key} from lead l ${order === 'joined' ? `join list_member m on m.lead_id = l.id and m.list_id = ${values.add(this.choice.list?.id)}::uuid` : ''} where l.id = ${values.add(last)}::uuid)`;
      const limit = asked.length === 0 ? most + 1 : LOOK_AT;
      const { rows } = await this.client.query<{ id: string; answers: (boolean | string)[] }>(
        `select l.id, ${asked.length === 0 ? `'{}'::text[]` : `jsonb_build_array(${asked.map(({ sql }) => (sql.exact ? `(${sql.sql})` : sql.text)).join(', ')})`} as answers
         ${from} ${behind} order by ${key
           .split(', ')
           .map((one) => one + way[1])
           .join(', ')} limit ${limit}`,
        values.list,
      );
      for (const row of rows) {
        if (asked.length > 0 && !this.holds(asked, row.answers)) continue;
        ids.push(row.id);
        if (ids.length > most) return { ids: ids.slice(0, most), more: true };
      }
      if (rows.length < limit) return { ids, more: false };
      last = rows.at(-1)!.id;
    }
  }

  /** Whether the conditions hold, some of their questions answered by the database and the rest asked of the core. */
  private holds(asked: Asked[], answers: (boolean | string)[]): boolean {
    const byTest = new Map(asked.map(({ test }, i) => [test, answers[i]!]));
    return this.conditions.every((condition) =>
      combine(condition, (test) => {
        const answer = byTest.get(test)!;
        if (typeof answer === 'boolean') return answer;
        const fact = factOf(test, answer);
        const facts =
          fact?.kind === 'throw_away' && isThrowAway(fact.domain) ? { [factKey(fact)]: true } : CONSTANT.facts;
        return evaluate(test, { ...CONSTANT, ...this.scope, facts, value: () => answer }).holds;
      }),
    );
  }

  /** From and where; `asked` is every question of the conditions where one of them is for the core, and empty otherwise. */
  private statement(): { from: string; values: SqlValues; asked: Asked[] } {
    const { choice, scope } = this;
    const values = new SqlValues();
    const where = [`l.business_id = ${values.add(scope.businessId)}`, 'l.is_person'];
    let from = 'from lead l';
    if (choice.list) {
      from = `from list_member m join lead l on l.id = m.lead_id`;
      where.push(`m.list_id = ${values.add(choice.list.id)}`);
      if (choice.list.state) where.push(`m.state = ${values.add(choice.list.state)}`);
    }
    if (choice.ids) where.push(`l.id = any(${values.add(choice.ids)}::uuid[])`);
    if (choice.tag)
      where.push(`exists (select from lead_tag t where t.lead_id = l.id and t.tag_id = ${values.add(choice.tag)})`);
    if (choice.source)
      where.push(
        `exists (select from arrival a where a.lead_id = l.id and a.source_id = ${values.add(choice.source)})`,
      );
    if (choice.search.trim() !== '')
      where.push(
        `(l.first_name || ' ' || l.last_name || ' ' || l.email || ' ' || l.phone) ilike ${values.add(`%${choice.search.trim().replace(/[\\%_]/g, '\\$&')}%`)}`,
      );
    const asked: Asked[] = [];
    for (const condition of this.conditions) {
      const sqlOf = new Map(testsOf(condition).map((test) => [test, questionSql(test, scope, values)]));
      where.push(together(condition, (test) => sqlOf.get(test)!.sql));
      for (const [test, sql] of sqlOf) asked.push({ test, sql });
    }
    return {
      from: `${from} where ${where.join(' and ')}`,
      values,
      asked: asked.every(({ sql }) => sql.exact) ? [] : asked,
    };
  }
}

interface Asked {
  test: ReturnType<typeof testsOf>[number];
  sql: QuestionSql;
}

function together(condition: Condition, sqlOf: (test: Asked['test']) => string): string {
  if ('test' in condition) return `(${sqlOf(condition)})`;
  const parts = 'all' in condition ? condition.all : condition.any;
  if (parts.length === 0) return 'true';
  return `(${parts.map((part) => together(part, sqlOf)).join('all' in condition ? ' and ' : ' or ')})`;
}
