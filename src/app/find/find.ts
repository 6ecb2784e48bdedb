import { EVERYBODY } from '../../core/people/lead-choice.ts';
import { mayOpen } from '../../core/people/page-rights.ts';
import { searchWords } from '../../core/people/search-words.ts';
import { choose } from '../leads/choosing.ts';
import { leadName, type Named } from '../leads/lead-name.ts';
import type { Use } from '../use.ts';

/** What something found is; its page follows from it. */
export type FoundKind =
  | 'lead'
  | 'workflow'
  | 'source'
  | 'list'
  | 'sheet'
  | 'segment'
  | 'template'
  | 'chat-form'
  | 'chat-template'
  | 'pipeline'
  | 'connection';

export interface Found {
  kind: FoundKind;
  id: string;
  name: string;
  /** What tells it from another of its name: a number, a folder, the kind of source. */
  about: string;
  /** Of a workflow. */
  state: 'draft' | 'live' | 'paused' | null;
  href: string;
  /** Where what was written with them stands; null where nothing was. */
  conversation: string | null;
}

/** Most of one kind that are shown. */
const MOST = 6;
/** Fewer letters than these find everybody. */
const FEWEST_FOR_LEADS = 2;

const NAMED = `
  select 'workflow' as kind, id, name, folder as about, state, '/workflows/' || id as href from workflow where business_id = $1 and removed_at is null
  union all select 'source', id, name, kind, null, '/sources/' || id from source where business_id = $1 and removed_at is null and kind <> 'list'
  union all select 'list', id, name, '', null, '/lists/' || id from nurture_list where business_id = $1 and removed_at is null
  union all select 'sheet', id, name, '', null, '/sheets/' || id from sheet where business_id = $1 and removed_at is null
  union all select 'segment', id, name, '', null, '/leads?segment=' || id from segment where business_id = $1 and removed_at is null
  union all select 'template', id, name, '', null, '/messages/templates/' || id from email_template where business_id = $1 and removed_at is null
  union all select 'chat-form', id, name, '', null, '/messages/chat-forms/' || id from chat_form where business_id = $1 and removed_at is null
  union all select 'chat-template', id, name, '', null, '/messages/chat-templates/' || id from chat_template where business_id = $1 and removed_at is null
  union all select 'pipeline', id, name, '', null, '/pipeline/' || id from pipeline where business_id = $1 and removed_at is null
  union all select 'connection', id, name, replace(kind, '_', ' '), null, '/connections' from connection where business_id = $1 and removed_at is null`;

/**
 * Everything with a name in this business that has each of the words in it, those that begin with what was typed first, and people by name, number or
 * address. Nothing for nothing.
 */
export async function findAnything(use: Use, typed: string): Promise<{ found: Found[] }> {
  const query = typed.trim().slice(0, 100);
  if (query === '') return { found: [] };
  const [things, people] = await Promise.all([findThings(use, query), findPeople(use, query)]);
  return { found: [...things, ...people] };
}

async function findThings({ db, actor }: Use, query: string): Promise<Found[]> {
  const words = query.normalize('NFKC').split(/\s+/u).slice(0, 8);
  const escaped = (word: string) => word.replace(/[\\%_]/g, '\\$&');
  const { rows } = await db.query<Omit<Found, 'conversation'>>(
    `select kind, id::text, name, about, state, href from (
       select n.*, row_number() over (partition by kind order by folded(name) like folded($3) desc, length(name), name) as at
       from (${NAMED}) n where (select bool_and(folded(n.name) like folded(w)) from unnest($2::text[]) w)
     ) ranked where at <= ${MOST} order by folded(name) like folded($3) desc, length(name), name`,
    [actor.businessId, words.map((word) => `%${escaped(word)}%`), `${escaped(query)}%`],
  );
  return rows.filter(({ href }) => mayOpen(actor.role, href)).map((row) => ({ ...row, conversation: null }));
}

async function findPeople(use: Use, query: string): Promise<Found[]> {
  if (query.length < FEWEST_FOR_LEADS || searchWords(query, use.actor.country).length === 0) return [];
  const chosen = await choose(use, { ...EVERYBODY, search: query });
  const { ids } = await chosen.page('heard', null, MOST);
  const { rows } = await use.db.query<Named & { id: string; conversation: string | null }>(
    `select l.id, l.first_name, l.last_name, l.email, l.phone, c.id as conversation from lead l left join conversation c on c.lead_id = l.id and c.business_id = l.business_id
     where l.id = any($1::uuid[]) order by array_position($1::uuid[], l.id)`,
    [ids],
  );
  return rows.map((row) => ({
    kind: 'lead',
    id: row.id,
    name: leadName(row),
    about: [row.phone, row.email].filter(Boolean).join(', '),
    state: null,
    href: `/leads/${row.id}`,
    conversation: row.conversation ? `/conversations?open=${row.conversation}` : null,
  }));
}
