import { SAMPLE } from '../core/source/sample.ts';

interface Counted {
  /** What is counted, of which table each row belongs to one, and by which column. */
  rows: string;
  parent: string;
  by: string;
  /** When a row came; together with `by` the beginning of an index. */
  at: string;
  /** Which of them count, of a row `x`, and the columns that is said by. */
  which: string;
  saidBy: string;
  /** The table of counts, and the function that gives the whole. */
  days: string;
  whole: string;
}

const COUNTED: Counted[] = [
  // A sample is looked at, it has not come in.
  {
    ...{
      rows: 'arrival',
      parent: 'source',
      by: 'source_id',
      at: 'received_at',
      days: 'arrival_day',
      whole: 'arrivals_of',
    },
    ...{ which: `x.problem is distinct from '${SAMPLE}'`, saidBy: 'problem' },
  },
  // Whoever was merged into another is kept, and is nobody by themselves.
  {
    ...{ rows: 'lead', parent: 'business', by: 'business_id', at: 'created_at', days: 'lead_day', whole: 'people_of' },
    ...{ which: 'x.is_person', saidBy: 'is_person' },
  },
];

/**
 * How many arrivals a source has had and how many people a business has, without counting years of them at every look: `arrival_day` and `lead_day`
 * hold the counts of days that are over (UTC), written once an hour (count_days), and what they do not hold is counted. A count there is exact or is
 * not there: whatever goes, or becomes something else, takes the count of its day with it. What comes in is not counted as it comes: every lead
 * would wait for one row.
 *
 * Plan they rely on: indexes arrival_source_at and lead_created.
 */
export const DAY_COUNTS_SQL = `${COUNTED.map(({ rows, parent, by, at, which, saidBy, days, whole }) => {
  /** Of the parent `p`: the days from its first row up to \`until\` that are not counted yet. */
  const missing = (until: string) => `
    select d::date as day from (select (${at} at time zone 'UTC')::date as day from ${rows} where ${by} = p.id order by ${at} limit 1) first,
      generate_series(first.day, ${until}, interval '1 day') d
    where not exists (select from ${days} c where c.${by} = p.id and c.day = d::date)`;
  const counted = `(select count(*)::int from ${rows} x where x.${by} = p.id and x.${at} >= m.day::timestamp at time zone 'UTC'
    and x.${at} < (m.day + 1)::timestamp at time zone 'UTC' and ${which})`;
  return `
create or replace function forget_${days}() returns trigger language plpgsql as $$
begin
  delete from ${days} where ${by} = old.${by} and day = (old.${at} at time zone 'UTC')::date;
  if tg_op = 'UPDATE' then
    delete from ${days} where ${by} = new.${by} and day = (new.${at} at time zone 'UTC')::date;
  end if;
  return null;
end $$;
create or replace trigger ${days}_gone after delete on ${rows} for each row execute function forget_${days}();
create or replace trigger ${days}_other after update of ${saidBy}, ${at}, ${by} on ${rows} for each row
  when (old.${saidBy} is distinct from new.${saidBy} or old.${at} <> new.${at} or old.${by} <> new.${by})
  execute function forget_${days}();
create or replace function ${whole}(the_${parent} uuid) returns int language plpgsql stable as $$
begin return (
  select (select coalesce(sum(n), 0) from ${days} where ${by} = the_${parent})
    + (select coalesce(sum(${counted}), 0) from ${parent} p, lateral (${missing(`(now() at time zone 'UTC')::date + 1`)}) m where p.id = the_${parent}));
end $$;
create or replace function count_${days}s() returns void language plpgsql as $$
begin
  -- Whoever takes something away meanwhile waits: a count must not be written that is wrong by then.
  lock table ${days} in share row exclusive mode;
  insert into ${days} (${by}, day, n)
  select p.id, m.day, ${counted} from ${parent} p, lateral (${missing(`((now() - interval '25 hours') at time zone 'UTC')::date`)}) m
  on conflict do nothing;
end $$;
`;
}).join('')}`;

/** Counts what is not counted yet of the days that are over. */
export const COUNT_DAYS = COUNTED.map(({ days }) => `select count_${days}s();`).join('\n');
