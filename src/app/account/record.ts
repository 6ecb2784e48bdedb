import { z } from 'zod';
import { AUDIT_ABOUT, auditChanges, auditWords } from '../../core/words/audit-words.ts';
import { demand, may } from '../actor.ts';
import { leadName, type Named } from '../leads/lead-name.ts';
import type { Use, Write } from '../use.ts';

export interface RecordRow {
  id: string;
  at: string;
  /** Empty where no person did it. */
  who: string;
  /** What they did, after their name. */
  words: string;
  changes: { what: string; before: string; after: string }[];
  /** Its place in the chain; null for a moment, until it is chained. */
  no: number | null;
  seal: string | null;
}

export interface RecordAsked {
  person: string | null;
  /** The first part of an action: "workflow". */
  about: string | null;
  /** Days by the business's clock, "YYYY-MM-DD". */
  from: string | null;
  to: string | null;
  /** Behind this one. */
  before: string | null;
}

const PAGE = 60;

const day = (text: string | null) => (z.iso.date().safeParse(text).success ? text : null);
const id = (text: string | null) => (z.uuid().safeParse(text).success ? text : null);

/** What is asked for, from the query of an address; what is none is left out. */
export const readRecordAsked = (query: URLSearchParams): RecordAsked => ({
  person: id(query.get('person')),
  about: Object.hasOwn(AUDIT_ABOUT, query.get('about') ?? '') ? query.get('about') : null,
  from: day(query.get('from')),
  to: day(query.get('to')),
  before: id(query.get('before')),
});

interface Row extends Named {
  id: string;
  at: Date;
  who: string | null;
  action: string;
  detail: Record<string, unknown>;
  thing: string | null;
  no: string | null;
  seal: string | null;
}

async function rowsOf(use: Use, asked: RecordAsked, most: number): Promise<Row[]> {
  const { businessId, timeZone, personId } = use.actor;
  const { rows } = await use.db.query<Row>(
    `select a.id, a.at, p.name as who, a.action, a.detail, a.no, a.seal, l.first_name, l.last_name, l.email, l.phone,
       coalesce(w.name, s.name, n.name, h.name, g.name, c.name, t.name, f.name, e.name, i.name, o.name) as thing
     from audit a left join person p on p.id = a.person_id
       left join lead l on l.id::text = a.subject and l.business_id = a.business_id
       left join workflow w on w.id::text = a.subject and w.business_id = a.business_id left join source s on s.id::text = a.subject and s.business_id = a.business_id
       left join nurture_list n on n.id::text = a.subject and n.business_id = a.business_id left join sheet h on h.id::text = a.subject and h.business_id = a.business_id
       left join segment g on g.id::text = a.subject and g.business_id = a.business_id left join connection c on c.id::text = a.subject and c.business_id = a.business_id
       left join email_template t on t.id::text = a.subject and t.business_id = a.business_id left join chat_form f on f.id::text = a.subject and f.business_id = a.business_id
       left join chat_template e on e.id::text = a.subject and e.business_id = a.business_id left join pipeline i on i.id::text = a.subject and i.business_id = a.business_id
       left join person o on o.id::text = a.subject and a.action like 'person.%'
     where a.id in (select id from audit where business_id = $1 and ($2::uuid is null or person_id = $2) and ($3::text is null or split_part(action, '.', 1) = $3)
         and ($4::date is null or at >= $4::date::timestamp at time zone $6) and ($5::date is null or at < ($5::date + 1)::timestamp at time zone $6)
         and ($7::uuid is null or (at, id) < (select at, id from audit where id = $7 and business_id = $1))
         -- When and from where others sign in is for whoever looks after people.
         and ($8 or person_id is not distinct from $9 or action not in ('sign_in', 'sign_in.failed', 'sign_out', 'session.end', 'session.end_others'))
       order by at desc, id desc limit ${most}) order by a.at desc, a.id desc`,
    [
      businessId,
      asked.person,
      asked.about,
      asked.from,
      asked.to,
      timeZone,
      asked.before,
      may(use.actor, 'people'),
      personId,
    ],
  );
  return rows;
}

const viewOf = (row: Row): RecordRow => ({
  ...{
    id: row.id,
    at: row.at.toISOString(),
    who: row.who ?? '',
    no: row.no === null ? null : Number(row.no),
    seal: row.seal,
  },
  words: auditWords(row.action, row.detail, row.thing ?? (row.first_name === null ? null : leadName(row))),
  changes: auditChanges(row.detail),
});

/** Who changed what, newest first, a page at a time. */
export async function listRecord(use: Use, asked: RecordAsked): Promise<{ rows: RecordRow[]; more: boolean }> {
  demand(use.actor, 'see-setup');
  const rows = await rowsOf(use, asked, PAGE + 1);
  return { rows: rows.slice(0, PAGE).map(viewOf), more: rows.length > PAGE };
}

export interface Chain {
  /** Notes that are kept and chained. */
  kept: number;
  /** Place of the first that is missing or was changed; null when all is as it was written. */
  broken: number | null;
  /** The seal of the last one: noted elsewhere, it proves later that none before it was changed. */
  seal: string;
}

/** Whether every note is still as it was written. */
export async function lookAtChain({ db, actor }: Use): Promise<Chain> {
  const { rows } = await db.query<{ kept: number; broken: string | null; seal: string | null }>(
    `select (select count(*)::int from audit where business_id = $1 and seal is not null) as kept, audit_broken($1) as broken,
       (select seal from audit_chain where business_id = $1) as seal`,
    [actor.businessId],
  );
  const { kept, broken, seal } = rows[0]!;
  return { kept, broken: broken === null ? null : Number(broken), seal: seal ?? '' };
}

/** The same as a table for a file, oldest last; everything that is asked for. */
export async function recordTable(
  use: Use,
  asked: RecordAsked,
): Promise<{ name: string; rows: AsyncGenerator<string[][]> }> {
  demand(use.actor, 'manage');
  async function* rows(): AsyncGenerator<string[][]> {
    yield [['No', 'When (UTC)', 'Who', 'What', 'Changed', 'Seal']];
    for (let before = asked.before; ; ) {
      const page = await rowsOf(use, { ...asked, before }, 1000);
      if (page.length === 0) return;
      yield page
        .map(viewOf)
        .map(({ no, at, who, words, changes, seal }) => [
          ...[no === null ? '' : String(no), at, who || 'Pine Bell', words],
          changes.map((one) => `${one.what}: ${one.before} → ${one.after}`).join('; '),
          seal ?? '',
        ]);
      before = page.at(-1)!.id;
    }
  }
  return { name: 'who-changed-what', rows: rows() };
}

export const KeepNotes = z.object({
  months: z.coerce.number().int().min(3, 'Keep them three months at least').max(240).nullable(),
});

/** How long notes of who changed what are kept. */
export async function keepNotes(tx: Write, { months }: z.infer<typeof KeepNotes>): Promise<void> {
  demand(tx.actor, 'people');
  const { rows } = await tx.db.query<{ months: number | null }>(
    'select keeps_notes_months as months from business where id = $1 for update',
    [tx.actor.businessId],
  );
  await tx.db.query('update business set keeps_notes_months = $2 where id = $1', [tx.actor.businessId, months]);
  tx.note('business.notes', tx.actor.businessId, {
    before: { keepsNotesMonths: rows[0]!.months },
    after: { keepsNotesMonths: months },
  });
}
