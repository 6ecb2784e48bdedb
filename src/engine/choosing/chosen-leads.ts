import type pg from 'pg';
import { type Condition, testsOf } from '../../core/condition/condition.ts';
import { combine, evaluate, factKey, factOf } from '../../core/condition/evaluate.ts';
import type { LeadChoice } from '../../core/people/lead-choice.ts';
import { LEFT_OUT, type LeftOut, type Reach, type ReachedPerson } from '../../core/people/left-out.ts';
import type { Purpose } from '../../core/workflow/purpose.ts';
import { inTransaction } from '../../db/in-transaction.ts';
import { isThrowAway } from '../../gateways/mail-domains.ts';
import { SqlValues } from './field-sql.ts';
import { type ChoosingScope, type QuestionSql, questionSql } from './question-sql.ts';
import { reachSql } from './reach-sql.ts';
import { searchSql } from './search-sql.ts';

/** In which order leads are gone through: by id, by who was heard of last, by who joined the list last. */
export type ChoosingOrder = 'id' | 'heard' | 'joined';

/** Rows looked at in one statement where the core has to answer: little enough not to hold up the process. */
const LOOK_AT = 2000;
const CONSTANT = { country: '', timeZone: 'UTC', now: 0, tags: [], memberOf: [], consent: {}, facts: {} };

/** What decides whom an email goes to. */
export interface EmailAsked {
  needsConsent: boolean;
  purpose: Purpose;
}

/** Leads chosen by what is known of them; a segment is looked up anew every time, so that it is always up to date. */
export class ChosenLeads {
  private constructor(
    private readonly pool: pg.Pool,
    private readonly choice: LeadChoice,
    private readonly conditions: Condition[],
    private readonly scope: ChoosingScope,
  ) {}

  /** Null when the segment or the list of the choice is no longer there. */
  static async open(pool: pg.Pool, choice: LeadChoice, scope: ChoosingScope): Promise<ChosenLeads | null> {
    const conditions = choice.condition ? [choice.condition] : [];
    if (choice.segment !== null) {
      const { rows } = await pool.query<{ condition: Condition }>(
        'select condition from segment where id = $1 and business_id = $2 and removed_at is null',
        [choice.segment, scope.businessId],
      );
      if (!rows[0]) return null;
      conditions.push(rows[0].condition);
    }
    for (const [table, id, present] of [
      ['nurture_list', choice.list?.id, 'and removed_at is null'],
      ['tag', choice.tag, ''],
    ] as const)
      if (id) {
        const { rowCount } = await pool.query(`select from ${table} where id = $1 and business_id = $2 ${present}`, [
          id,
          scope.businessId,
        ]);
        if (!rowCount) return null;
      }
    return new ChosenLeads(pool, choice, conditions, scope);
  }

  async count(): Promise<number> {
    const { from, filters, values, sure } = this.statement();
    // Everybody: years of them are not counted anew.
    if (filters.length === 0 && !this.choice.list) {
      const { rows } = await this.pool.query<{ n: number }>('select people_of($1) as n', [this.scope.businessId]);
      return rows[0]!.n;
    }
    const { rows } = await this.pool.query<{ n: number }>(
      `select count(*)::int as n ${from}${sure === null ? '' : ` and ${sure}`}`,
      values.list,
    );
    return rows[0]!.n + (sure === null ? 0 : (await this.unsure()).length);
  }

  /** Those the database is not sure of and the core says yes to, in one pass over all. */
  private unsure(): Promise<string[]> {
    const { from, values, asked, sure } = this.statement();
    return inTransaction(this.pool, async (client) => {
      // All of it is read: planned for the whole and not for the first rows, as cursors otherwise are.
      await client.query('set local cursor_tuple_fraction = 1');
      await client.query(
        `declare unsure no scroll cursor for select l.id, ${answersOf(asked)} as answers ${from} and not ${sure}`,
        values.list,
      );
      const ids: string[] = [];
      for (;;) {
        const { rows } = await client.query<{ id: string; answers: (boolean | string)[] }>(
          `fetch ${LOOK_AT} from unsure`,
        );
        for (const { id, answers } of rows) if (this.holds(asked, answers)) ids.push(id);
        if (rows.length < LOOK_AT) return ids;
      }
    });
  }

  /** How many an email would be for, how many of them it would reach, and why not the rest. */
  async countReached(email: EmailAsked): Promise<Reach> {
    const { from, values, sure } = this.statement();
    const counts = new Map<string, number>();
    const count = async (source: string, all: SqlValues) => {
      const { rows } = await this.pool.query<{ code: string; n: number }>(
        `select ${reachSql(email)} as code, count(*)::int as n from (select l.id, l.business_id, l.email ${source}) l group by 1`,
        all.list,
      );
      for (const { code, n } of rows) counts.set(code, (counts.get(code) ?? 0) + n);
    };
    if (sure === null) await count(from, values);
    else {
      await count(`${from} and ${sure}`, values);
      const these = new SqlValues();
      await count(`from lead l where l.id = any(${these.add(await this.unsure())}::uuid[])`, these);
    }
    return {
      people: [...counts.values()].reduce((sum, n) => sum + n, 0),
      reached: counts.get('reached') ?? 0,
      left: LEFT_OUT.flatMap((code) => (counts.has(code) ? [{ code, count: counts.get(code)! }] : [])),
    };
  }

  /** Those an email would reach, or would not for one reason: the first `most` behind the lead `after`. */
  async listReached(
    email: EmailAsked,
    code: LeftOut | 'reached',
    after: string | null,
    most: number,
  ): Promise<{ people: ReachedPerson[]; next: string | null }> {
    const people: ReachedPerson[] = [];
    for (let last = after; ; ) {
      const { ids, more } = await this.page('id', last, LOOK_AT);
      const { rows } = await this.pool.query<ReachedPerson>(
        `select l.id, coalesce(nullif(trim(l.first_name || ' ' || l.last_name), ''), nullif(l.email, ''), nullif(l.phone, ''), 'Without a name') as name, l.email
         from lead l where l.id = any($1::uuid[]) and ${reachSql(email)} = $2 order by l.id`,
        [ids, code],
      );
      for (const row of rows) {
        if (people.length === most) return { people, next: people.at(-1)!.id };
        people.push(row);
      }
      last = ids.at(-1) ?? null;
      if (!more || last === null) return { people, next: null };
    }
  }

  /**
   * The next `most` behind the lead `after`, and whether there are more. Goes through all leads or all of the list some at a
   * time in the order of an index, so that what one look costs does not depend on how many fit. Words looked for are many people's, and the first look finds
   * enough of them, or few people's: then all of those are looked up by their index.
   */
  async page(order: ChoosingOrder, after: string | null, most: number): Promise<{ ids: string[]; more: boolean }> {
    const ids: string[] = [];
    for (let last = after; ; ) {
      const { base, filters, narrow, values, asked, sure } = this.statement();
      const window = filters.length === 0 ? most + 1 : LOOK_AT;
      const id = this.choice.list ? 'm.lead_id' : 'l.id';
      const key = { id, heard: 'l.last_arrival_at, l.id', joined: 'm.joined_at, m.lead_id' }[order];
      const [sign, way] = order === 'id' ? ['>', ''] : ['<', ' desc'];
      const there = () =>
        order === 'id'
          ? `${values.add(last)}::uuid`
          : `(select ${key} from lead l ${order === 'joined' ? `join list_member m on m.lead_id = l.id and m.list_id = ${values.add(this.choice.list?.id)}::uuid` : ''} where l.id = ${values.add(last)}::uuid)`;
      const behind = last === null ? '' : `and (${key}) ${sign} ${there()}`;
      const sorted = key
        .split(', ')
        .map((one) => one + way)
        .join(', ');
      const { rows } = await this.pool.query<{
        id: string;
        fits: boolean;
        sure: boolean;
        answers: (boolean | string)[] | null;
      }>(
        `with ${
          last !== after && narrow.length > 0
            ? `hit as materialized (select id, last_arrival_at, business_id, is_person from lead l where l.business_id = ${values.add(this.scope.businessId)} and ${narrow.join(' and ')}),
         w as materialized (select ${id} as id, row_number() over (order by ${sorted}) as n ${among(base, 'hit')}`
            : `w as materialized (select ${id} as id, row_number() over (order by ${sorted}) as n ${base}`
        } ${behind} order by ${sorted} limit ${window})
         select l.id, l.is_person and ${filters.length === 0 ? 'true' : filters.join(' and ')} as fits, ${sure ?? 'true'} as sure,
           ${sure === null ? 'null' : `case when not ${sure} then ${answersOf(asked)} end`} as answers
         from w join lead l on l.id = w.id order by w.n`,
        values.list,
      );
      for (const row of rows) {
        if (!row.fits || (!row.sure && !this.holds(asked, row.answers!))) continue;
        ids.push(row.id);
        if (ids.length > most) return { ids: ids.slice(0, most), more: true };
      }
      if (rows.length < window) return { ids, more: false };
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
        if (test.test === 'valid_mobile') return isMobile(test, answer, this.scope);
        const fact = factOf(test, answer);
        const facts =
          fact?.kind === 'throw_away' && isThrowAway(fact.domain) ? { [factKey(fact)]: true } : CONSTANT.facts;
        return evaluate(test, { ...CONSTANT, ...this.scope, facts, value: () => answer }).holds;
      }),
    );
  }

  /**
   * All leads or all of a list (`base`), what narrows these down (`filters`), and both together (`from`), with every question
   * asked; `sure` tells of whom the database alone has answered them all, null for everybody.
   */
  private statement() {
    const { choice, scope } = this;
    const values = new SqlValues();
    // A list was looked for in this business when it was opened.
    const base = choice.list
      ? `from list_member m where m.list_id = ${values.add(choice.list.id)}${choice.list.state ? ` and m.state = ${values.add(choice.list.state)}` : ''}`
      : `from lead l where l.business_id = ${values.add(scope.businessId)} and l.is_person`;
    const filters: string[] = [];
    if (scope.leadsOf) filters.push(`is_theirs(l.business_id, l.id, l.owner_id, ${values.add(scope.leadsOf)}::uuid[])`);
    if (choice.ids) filters.push(`l.id = any(${values.add(choice.ids)}::uuid[])`);
    if (choice.tag)
      filters.push(`exists (select from lead_tag t where t.lead_id = l.id and t.tag_id = ${values.add(choice.tag)})`);
    if (choice.source)
      filters.push(
        `exists (select from arrival a where a.lead_id = l.id and a.source_id = ${values.add(choice.source)})`,
      );
    const narrow = searchSql(choice.search, scope.country, (value) => values.add(value));
    filters.push(...narrow);
    const asked: Asked[] = [];
    for (const condition of this.conditions) {
      const sqlOf = new Map(testsOf(condition).map((test) => [test, questionSql(test, scope, values)]));
      filters.push(together(condition, (test) => sqlOf.get(test)!.sql));
      for (const [test, sql] of sqlOf) asked.push({ test, sql });
    }
    const sure = asked.flatMap(({ sql }) => sql.sure ?? []);
    const all = choice.list
      ? `${base.replace('where', 'join lead l on l.id = m.lead_id where')} and l.is_person`
      : base;
    return {
      base,
      filters,
      narrow,
      from: [all, ...filters].join(' and '),
      values,
      asked,
      sure: sure.length === 0 ? null : `(${sure.join(' and ')})`,
    };
  }
}

/** The same of those leads only that stand in `hits`. */
const among = (base: string, hits: string): string =>
  base.startsWith('from lead l ')
    ? base.replace('from lead l ', `from ${hits} l `)
    : base.replace(' where ', ` join ${hits} l on l.id = m.lead_id where `);

/** The answers to all questions, or the values where the core has to answer, as one JSON list. */
const answersOf = (asked: readonly Asked[]): string =>
  `jsonb_build_array(${asked.map(({ sql }) => (sql.sure === null ? `(${sql.sql})` : sql.text)).join(', ')})`;

/** Numbers looked at of late: reading one is the dearest question there is, and the same segment is asked for again and again. */
const mobiles = new Map<string, boolean>();
const MOBILES_KEPT = 200_000;

function isMobile(test: Asked['test'], phone: string, scope: ChoosingScope): boolean {
  const key = `${scope.country}:${phone}`;
  const kept = mobiles.get(key);
  if (kept !== undefined) return kept;
  if (mobiles.size >= MOBILES_KEPT) mobiles.clear();
  const { holds } = evaluate(test, { ...CONSTANT, ...scope, value: () => phone });
  mobiles.set(key, holds);
  return holds;
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
