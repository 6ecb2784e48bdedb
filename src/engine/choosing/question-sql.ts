import type { Test } from '../../core/condition/condition.ts';
import { linesOf, plain } from '../../core/condition/evaluate.ts';
import { readNumber } from '../../core/fields/read-number.ts';
import { readInstant } from '../../core/time/read-instant.ts';
import type { Db } from '../../db/db.ts';
import { consentThatCounts } from '../../db/hot/consent-order.ts';
import { type FieldSql, fieldSql, type SqlValues } from './field-sql.ts';

/** Where and when a condition is asked. */
export interface ChoosingScope {
  businessId: string;
  country: string;
  timeZone: string;
  /** Milliseconds. */
  now: number;
  /** Ids of the people whose leads are meant; everybody's where none are named. */
  leadsOf?: string[] | null;
}

/** The scope of a business at `now` (milliseconds). */
export async function scopeOf(client: Db, businessId: string, now: number): Promise<ChoosingScope> {
  const { rows } = await client.query<{ country: string; time_zone: string }>(
    'select country, time_zone from business where id = $1',
    [businessId],
  );
  return { businessId, country: rows[0]!.country, timeZone: rows[0]!.time_zone, now };
}

/**
 * One question about the lead `l` in SQL. Where SQL cannot answer as the core does (numbers, dates and phone numbers as people
 * type them), `sure` says of which leads it can, those who wrote it plainly; of the others `sql` lets through everybody it could
 * hold for, and `text` is the value the core is asked of. Null: it can of all.
 */
export interface QuestionSql {
  sql: string;
  sure: string | null;
  text: string;
}

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i;
/** White space as ECMAScript has it (ECMA-262, WhiteSpace and LineTerminator), as a class of PostgreSQL's expressions. */
const SPACE_CLASS = '\\t\\n\\x0b\\f\\r \\u00a0\\u1680\\u2000-\\u200a\\u2028\\u2029\\u202f\\u205f\\u3000\\ufeff';
const FILLED = `~ '[^${SPACE_CLASS}]'`;

/** Numbers everybody reads the same way; few enough digits to be the same number in the database as in the core. */
const PLAIN_NUMBER = `~ '^[+-]?[0-9]{1,15}(\\.[0-9]{1,15})?$'`;
/** Days that every month has, by ISO 8601. */
const PLAIN_DATE = `~ '^(19|20)[0-9]{2}-(0[1-9]|1[0-2])-(0[1-9]|1[0-9]|2[0-8])$'`;
/** Addresses nobody doubts. */
const PLAIN_EMAIL = `~ '^[a-z0-9]{1,20}([._][a-z0-9]{1,20}){0,1}@([a-z0-9]{1,20}\\.){1,2}[a-z]{2,10}$'`;

export function questionSql(test: Test, scope: ChoosingScope, values: SqlValues): QuestionSql {
  // Only where it is used: a value that stands nowhere in a statement is refused.
  let made: FieldSql | null = null;
  const field = () => {
    made ??= fieldSql(test.field, values);
    return made;
  };
  const exact = (sql: string): QuestionSql => ({ sql, sure: null, text: '' });
  /** Holds for filled values only; the rest is asked of the core. */
  const asked = (): QuestionSql => ({ sql: `${field().text} ${FILLED}`, sure: 'false', text: field().text });
  /** What is written as `shape` is answered by `sql`; of the rest the core is asked. */
  const plainly = (shape: string, sql: string): QuestionSql => ({
    sql: `case when ${shape} then ${sql} else ${field().text} ${FILLED} end`,
    sure: `(${shape} or not (${field().text} ${FILLED}))`,
    text: field().text,
  });
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
      return field().number
        ? exact(numberSql(test, () => field().number!, values))
        : plainly(
            `${field().text} ${PLAIN_NUMBER}`,
            numberSql(test, () => `${field().text}::float8`, values),
          );
    case 'before':
    case 'after':
    case 'in_last':
      return field().time
        ? exact(timeSql(test, () => field().time!, scope, values))
        : plainly(`${field().text} ${PLAIN_DATE}`, dateSql(test, field().text, scope, values));
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
      return exact(`coalesce(${consentThatCounts('l.id', values.add(test.value), 'service')}, '') = 'given'`);
    case 'in_sheet': {
      const [tab = '', column = ''] = test.value.split('/');
      return exact(
        UUID.test(tab)
          ? `(${field().text} ${FILLED} and exists (select from sheet_row r join sheet_tab t on t.id = r.tab_id join sheet s on s.id = t.sheet_id
               where r.tab_id = ${values.add(tab)}::uuid and s.business_id = l.business_id and s.removed_at is null
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
      return plainly(
        `(${field().text} ${PLAIN_EMAIL} or strpos(${field().text}, '@') = 0)`,
        `strpos(${field().text}, '@') > 0`,
      );
    case 'valid_mobile':
    case 'throw_away':
      return asked();
  }
}

function numberSql(test: Test, numberOf: () => string, values: SqlValues): string {
  const [from, to] = [readNumber(test.value), readNumber(test.to)];
  if (from === null || (test.test === 'between' && to === null)) return 'false';
  const value = `${values.add(from)}::float8`;
  if (test.test !== 'between') return `coalesce(${numberOf()} ${test.test === 'greater' ? '>' : '<'} ${value}, false)`;
  return `coalesce(${numberOf()} between ${value} and ${values.add(to)}::float8, false)`;
}

/** Of a plainly written day: it begins at midnight by the business's clock, and is compared as a day. */
function dateSql(test: Test, text: string, { country, timeZone, now }: ChoosingScope, values: SqlValues): string {
  if (test.test === 'in_last')
    return timeSql(
      test,
      () => `((${text}::date)::timestamp at time zone ${values.add(timeZone)})`,
      { businessId: '', country, timeZone, now },
      values,
    );
  const today = plain(test.value) === 'today';
  const read = readInstant(today ? new Date(now).toISOString() : test.value, country, timeZone);
  return read ? `${text} ${test.test === 'before' ? '<' : '>'} ${values.add(read.date)}` : 'false';
}

/** As the core compares: days with days, and instants where a time was said. */
function timeSql(
  test: Test,
  timeOf: () => string,
  { country, timeZone, now }: ChoosingScope,
  values: SqlValues,
): string {
  const at = (ms: number) => `${values.add(new Date(ms))}::timestamptz`;
  if (test.test === 'in_last') {
    const days = readNumber(test.value);
    const from = days === null ? Number.NaN : now - days * 86_400_000;
    // Before the year 1 there are no leads.
    if (Number.isNaN(from) || Math.abs(from) > 8.64e15)
      return days === null || days < 0 ? 'false' : `${timeOf()} is not null`;
    return `coalesce(date_trunc('milliseconds', ${timeOf()}) between ${at(from)} and ${at(now)}, false)`;
  }
  const today = plain(test.value) === 'today';
  const read = readInstant(today ? new Date(now).toISOString() : test.value, country, timeZone);
  if (!read) return 'false';
  const sign = test.test === 'before' ? '<' : '>';
  return read.timed && !today
    ? `coalesce(date_trunc('milliseconds', ${timeOf()}) ${sign} ${at(read.at)}, false)`
    : `coalesce((${timeOf()} at time zone ${values.add(timeZone)})::date ${sign} ${values.add(read.date)}::date, false)`;
}
