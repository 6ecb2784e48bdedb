import type pg from 'pg';
import type { Test } from '../../core/condition/condition.ts';
import { linesOf, plain } from '../../core/condition/evaluate.ts';
import { readNumber } from '../../core/fields/read-number.ts';
import { readInstant } from '../../core/time/read-instant.ts';
import { type FieldSql, fieldSql, type SqlValues } from './field-sql.ts';

/** Where and when a condition is asked. */
export interface ChoosingScope {
  businessId: string;
  country: string;
  timeZone: string;
  /** Milliseconds. */
  now: number;
}

/** The scope of a business at `now` (milliseconds). */
export async function scopeOf(client: Pick<pg.Pool, 'query'>, businessId: string, now: number): Promise<ChoosingScope> {
  const { rows } = await client.query<{ country: string; time_zone: string }>(
    'select country, time_zone from business where id = $1',
    [businessId],
  );
  return { businessId, country: rows[0]!.country, timeZone: rows[0]!.time_zone, now };
}

/**
 * One question about the lead `l` in SQL. Where SQL cannot answer as the core does (numbers, dates and phone numbers as people
 * type them), `exact` is false: `sql` then lets through everybody it could hold for, and `text` is the value to be asked.
 */
export interface QuestionSql {
  sql: string;
  exact: boolean;
  text: string;
}

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i;
/** White space as ECMAScript has it (ECMA-262, WhiteSpace and LineTerminator), as a class of PostgreSQL's expressions. */
const SPACE_CLASS = '\\t\\n\\x0b\\f\\r \\u00a0\\u1680\\u2000-\\u200a\\u2028\\u2029\\u202f\\u205f\\u3000\\ufeff';
const FILLED = `~ '[^${SPACE_CLASS}]'`;

export function questionSql(test: Test, scope: ChoosingScope, values: SqlValues): QuestionSql {
  // Only where it is used: a value that stands nowhere in a statement is refused.
  let made: FieldSql | null = null;
  const field = () => {
    made ??= fieldSql(test.field, values);
    return made;
  };
  const exact = (sql: string): QuestionSql => ({ sql, exact: true, text: '' });
  /** Holds for filled values only; the rest is asked of the core. */
  const asked = (): QuestionSql => ({ sql: `${field().text} ${FILLED}`, exact: false, text: field().text });
  const left = () => (test.exact ? field().text : `plain_text(${field().text})`);
  const fold = (text: string) => (test.exact ? text : plain(text));
  const right = fold(test.value);
  const compared = (compare: (place: string) => string) => exact(compare(`${values.add(right)}::text`));
  const not = ({ sql }: QuestionSql) => exact(`not (${sql})`);
  switch (test.test) {
    case 'is':
      return compared((place) => `${left()} = ${place}`);
    case 'is_not':
      return compared((place) => `${left()} <> ${place}`);
    case 'contains':
      return right === '' ? exact('false') : compared((place) => `strpos(${left()}, ${place}) > 0`);
    case 'contains_not':
      return right === '' ? exact('true') : compared((place) => `strpos(${left()}, ${place}) = 0`);
    case 'starts':
      return right === '' ? exact('false') : compared((place) => `starts_with(${left()}, ${place})`);
    case 'ends':
      return right === '' ? exact('false') : compared((place) => `right(${left()}, length(${place})) = ${place}`);
    case 'one_of':
    case 'none_of': {
      const among = `${left()} = any(${values.add(linesOf(test.value).map(fold))}::text[])`;
      return exact(test.test === 'one_of' ? among : `not (${among})`);
    }
    case 'filled':
      return exact(`${field().text} ${FILLED}`);
    case 'empty':
      return exact(`not (${field().text} ${FILLED})`);
    case 'greater':
    case 'less':
    case 'between':
      return field().number ? exact(numberSql(test, field().number!, values)) : asked();
    case 'before':
    case 'after':
    case 'in_last':
      return field().time ? exact(timeSql(test, field().time!, scope, values)) : asked();
    case 'has_tag':
      return exact(
        UUID.test(test.value)
          ? `exists (select from lead_tag t where t.lead_id = l.id and t.tag_id = ${values.add(test.value)}::uuid)`
          : 'false',
      );
    case 'on_list':
      return exact(
        UUID.test(test.value)
          ? `exists (select from list_member m where m.lead_id = l.id and m.list_id = ${values.add(test.value)}::uuid and m.state = 'active')`
          : 'false',
      );
    case 'agreed':
      return exact(
        `coalesce((select c.state from consent c where c.lead_id = l.id and c.channel = ${values.add(test.value)} order by c.at desc, c.id desc limit 1), '') = 'given'`,
      );
    case 'in_sheet': {
      const [tab = '', column = ''] = test.value.split('/');
      return exact(
        UUID.test(tab)
          ? `(${field().text} ${FILLED} and exists (select from sheet_row r join sheet_tab t on t.id = r.tab_id join sheet s on s.id = t.sheet_id
               where r.tab_id = ${values.add(tab)}::uuid and s.business_id = l.business_id
                 and lower(trim(r.cells ->> ${values.add(column)})) = lower(trim(plain_text(${field().text})))))`
          : 'false',
      );
    }
    case 'has_no_tag':
      return not(questionSql({ ...test, test: 'has_tag' }, scope, values));
    case 'not_on_list':
      return not(questionSql({ ...test, test: 'on_list' }, scope, values));
    case 'not_agreed':
      return not(questionSql({ ...test, test: 'agreed' }, scope, values));
    case 'not_in_sheet':
      return not(questionSql({ ...test, test: 'in_sheet' }, scope, values));
    case 'valid_email':
    case 'valid_mobile':
    case 'throw_away':
      return asked();
  }
}

function numberSql(test: Test, number: string, values: SqlValues): string {
  const place = (text: string) => {
    const read = readNumber(text);
    return read === null ? null : `${values.add(read)}::numeric`;
  };
  const value = place(test.value);
  if (value === null) return 'false';
  if (test.test !== 'between') return `coalesce(${number} ${test.test === 'greater' ? '>' : '<'} ${value}, false)`;
  const to = place(test.to);
  return to === null ? 'false' : `coalesce(${number} between ${value} and ${to}, false)`;
}

/** As the core compares: days with days, and instants where a time was said. */
function timeSql(test: Test, time: string, { country, timeZone, now }: ChoosingScope, values: SqlValues): string {
  const instant = `date_trunc('milliseconds', ${time})`;
  const at = (ms: number) => `${values.add(new Date(ms))}::timestamptz`;
  if (test.test === 'in_last') {
    const days = readNumber(test.value);
    const from = days === null ? Number.NaN : now - days * 86_400_000;
    // Before the year 1 there are no leads.
    if (Number.isNaN(from) || Math.abs(from) > 8.64e15)
      return days === null || days < 0 ? 'false' : `${time} is not null`;
    return `coalesce(${instant} between ${at(from)} and ${at(now)}, false)`;
  }
  const today = plain(test.value) === 'today';
  const read = readInstant(today ? new Date(now).toISOString() : test.value, country, timeZone);
  if (!read) return 'false';
  const sign = test.test === 'before' ? '<' : '>';
  return read.timed && !today
    ? `coalesce(${instant} ${sign} ${at(read.at)}, false)`
    : `coalesce((${time} at time zone ${values.add(timeZone)})::date ${sign} ${values.add(read.date)}::date, false)`;
}
