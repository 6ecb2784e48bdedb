import { TOUCH_KEYS, type TouchGroup } from '../../core/source/touches.ts';
import { WHERE_KEYS } from '../../core/source/where-from.ts';
import { type RecordKey, readReference } from '../../core/template/field-reference.ts';
import { cameInBy } from '../../db/came-in-by.ts';
import { WHICH_TOUCH } from '../../db/which-touch.ts';

/** Values of a statement; each gives its place. */
export class SqlValues {
  readonly list: unknown[] = [];
  add(value: unknown): string {
    this.list.push(value);
    return `$${this.list.length}`;
  }
}

/** Times on record, as SQL about the lead `l`. */
const TIMES: Partial<Record<RecordKey, string>> = {
  since: 'l.created_at',
  last_heard: 'l.last_arrival_at',
  last_reply: '(select max(i.received_at) from inbound i where i.lead_id = l.id)',
  last_written: `(select max(d.accepted_at) from delivery d where d.lead_id = l.id and d.audience = 'lead')`,
  last_opened: `(select max(v.at) from visit v where v.lead_id = l.id and v.kind = 'opened' and not v.machine)`,
  last_followed: `(select max(v.at) from visit v where v.lead_id = l.id and v.kind = 'link' and not v.machine)`,
};
const DEAL = 'from deal d where d.lead_id = l.id order by d.closed_at is not null, d.created_at desc limit 1';
const PERSON: Record<string, string> = {
  first_name: 'l.first_name',
  last_name: 'l.last_name',
  full_name: `btrim(l.first_name || ' ' || l.last_name)`,
  email: 'l.email',
  phone: 'l.phone',
};
const LIST_FIELD = /^([0-9a-f-]{36})\.(.+)$/i;

/** A field of a lead as SQL: its text, "" where there is none, and its own type where it has a better one than text. */
export interface FieldSql {
  text: string;
  time?: string;
  number?: string;
}

/** The value of a field about the lead `l`, by its reference. What only a run knows is empty. */
export function fieldSql(reference: string, values: SqlValues): FieldSql {
  const none = { text: `''` };
  const read = readReference(reference);
  if (!read) return none;
  const { group, key } = read;
  const text = (sql: string): FieldSql => ({ text: `coalesce(${sql}, '')` });
  switch (group) {
    case 'lead':
      return PERSON[key] === undefined ? none : { text: PERSON[key] };
    case 'answers':
      return text(`l.answers ->> ${values.add(key)}`);
    case 'own':
      return text(`l.own ->> ${values.add(key)}`);
    case 'where':
      return Object.hasOwn(WHERE_KEYS, key)
        ? text(
            `(select t.where_from ->> ${values.add(key)} from touch t where t.lead_id = l.id order by t.at desc limit 1)`,
          )
        : none;
    case 'first_touch':
    case 'last_touch':
    case 'booking_touch':
      return touchSql(group, key, values);
    case 'source':
      return text(`(${cameInBy('s.name')})`);
    case 'business':
      return text('(select b.name from business b where b.id = l.business_id)');
    case 'owner':
      return key === 'name' || key === 'email' ? text(`(select p.${key} from person p where p.id = l.owner_id)`) : none;
    case 'member': {
      const m = LIST_FIELD.exec(key);
      return m
        ? text(
            `(select m.fields ->> ${values.add(m[2])} from list_member m where m.list_id = ${values.add(m[1])}::uuid and m.lead_id = l.id)`,
          )
        : none;
    }
    case 'record': {
      const time = TIMES[key as RecordKey];
      if (time) return { ...text(`to_char(${time} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"')`), time };
      if (key === 'stage') return text(`(select s.name from stage s where s.id = (select d.stage_id ${DEAL}))`);
      if (key === 'deal_value')
        return { ...text(`(select d.value::text ${DEAL})`), number: `(select d.value ${DEAL})` };
      return none;
    }
    default:
      return none;
  }
}

function touchSql(group: TouchGroup, key: string, values: SqlValues): FieldSql {
  if (!Object.hasOwn(TOUCH_KEYS, key)) return { text: `''` };
  const of = (what: string) => `(select ${what} from touch t where t.lead_id = l.id ${WHICH_TOUCH[group]})`;
  if (key === 'at') {
    const time = of('t.at');
    return { text: `coalesce(to_char(${time} at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.MS"Z"'), '')`, time };
  }
  return { text: `coalesce(${of(`t.where_from ->> ${values.add(key)}`)}, '')` };
}
