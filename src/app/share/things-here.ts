import type { EmailLayout } from '../../core/email/layout.ts';
import type { ChatForm } from '../../core/form/chat-form.ts';
import type { FormPage } from '../../core/form/form-page.ts';
import type { ChatTemplateContent } from '../../core/message/chat-template.ts';
import type { SharedThing } from '../../core/share/share-file.ts';
import { isColumnId } from '../../core/share/swap-ids.ts';
import type { LeadCard } from '../../core/source/lead-card.ts';
import type { Use } from '../use.ts';

type Of<K extends SharedThing['kind']> = Extract<SharedThing, { kind: K }>;

/** A source as it is shared: kinds that are made of their settings alone with those that can travel, the others to be connected again. */
function sharedSource(row: {
  id: string;
  name: string;
  kind: string;
  settings: Record<string, unknown>;
  card: LeadCard;
}): Of<'source'> {
  const made = ((): Of<'source'>['made'] => {
    if (row.kind === 'webhook') return { kind: 'webhook', settings: { signed: row.settings.signed === true } };
    if (row.kind === 'sheet')
      return {
        kind: 'sheet',
        settings: { tabId: String(row.settings.tabId), when: row.settings.when === 'changed' ? 'changed' : 'new' },
      };
    if (row.kind === 'mailbox') return { kind: 'mailbox', settings: {} };
    if (row.kind !== 'form-page') return null;
    const page = structuredClone(row.settings.page) as FormPage;
    page.consent.wordings = [];
    return { kind: 'form-page', settings: { page } };
  })();
  return { id: row.id, kind: 'source', name: row.name, sourceKind: row.kind, card: row.card, made };
}

/** A layout without the pictures that are kept here: a file does not travel. */
const withoutFiles = (layout: EmailLayout): EmailLayout =>
  JSON.parse(JSON.stringify(layout), (key, value) => (key === 'file' ? null : value));

/** What stands behind ids of this business, with all that is needed to make it again. */
export async function thingsHere(use: Use, ids: readonly string[]): Promise<SharedThing[]> {
  const { db, actor } = use;
  const of = [actor.businessId, ids.filter((id) => !isColumnId(id))];
  const rows = async <R extends Record<string, unknown>>(sql: string): Promise<R[]> =>
    (await db.query<R>(sql, of)).rows;
  const [tags, lists, tabs, pipelines, segments, emails, forms, templates, sources, people] = await Promise.all([
    rows<Of<'tag'>>(
      `select 'tag' as kind, id, name from tag where business_id = $1 and removed_at is null and id = any($2::uuid[])`,
    ),
    rows<Of<'list'>>(
      `select 'list' as kind, id, name, opt_in as "optIn", confirm_subject as "confirmSubject", confirm_message as "confirmMessage", fields
       from nurture_list where business_id = $1 and id = any($2::uuid[]) and removed_at is null`,
    ),
    rows<Of<'tab'>>(
      `select 'tab' as kind, t.id, t.name, s.name as sheet, t.columns from sheet_tab t join sheet s on s.id = t.sheet_id
       where s.business_id = $1 and s.removed_at is null and t.id = any($2::uuid[])`,
    ),
    rows<Of<'pipeline'>>(
      `select 'pipeline' as kind, p.id, p.name, p.currency, (select jsonb_agg(jsonb_build_object('id', s.id, 'name', s.name, 'ends', s.ends) order by s.position)
         from stage s where s.pipeline_id = p.id) as stages
       from pipeline p where p.business_id = $1 and p.removed_at is null and (p.id = any($2::uuid[]) or exists (select from stage s where s.pipeline_id = p.id and s.id = any($2::uuid[])))`,
    ),
    rows<Of<'segment'>>(
      `select 'segment' as kind, id, name, condition from segment where business_id = $1 and removed_at is null and id = any($2::uuid[])`,
    ),
    rows<{ id: string; name: string; layout: EmailLayout }>(
      `select distinct on (t.id) t.id, t.name, v.layout from email_template t join email_template_version v on v.template_id = t.id
       where t.business_id = $1 and t.removed_at is null and t.id = any($2::uuid[]) order by t.id, v.number desc`,
    ),
    rows<{ id: string; name: string; form: ChatForm }>(
      `select distinct on (f.id) f.id, f.name, v.content as form from chat_form f join chat_form_version v on v.form_id = f.id
       where f.business_id = $1 and f.removed_at is null and f.id = any($2::uuid[]) order by f.id, v.number desc`,
    ),
    rows<{ id: string; name: string; content: ChatTemplateContent }>(
      `select distinct on (t.id) t.id, t.name, v.content from chat_template t join chat_template_version v on v.template_id = t.id
       where t.business_id = $1 and t.removed_at is null and t.id = any($2::uuid[]) order by t.id, v.number desc`,
    ),
    rows<{ id: string; name: string; kind: string; settings: Record<string, unknown>; card: LeadCard }>(
      `select id, name, kind, settings, card from source where business_id = $1 and id = any($2::uuid[]) and removed_at is null`,
    ),
    rows<{ id: string }>(
      'select person_id as id from membership where business_id = $1 and person_id = any($2::uuid[])',
    ),
  ]);
  const found: SharedThing[] = [
    ...[...tags, ...lists, ...tabs, ...pipelines, ...segments],
    ...emails.map(({ layout, ...one }) => ({ ...one, kind: 'email-template' as const, layout: withoutFiles(layout) })),
    ...forms.map(({ form, ...one }) => ({
      ...{ ...one, kind: 'chat-form' as const },
      form: { ...form, consent: { ...form.consent, wordings: [] } },
    })),
    ...templates.map((one) => ({ ...one, kind: 'chat-template' as const })),
    ...sources.map(sharedSource),
    ...people.map(({ id }) => ({ id, kind: 'colleague' as const, name: 'Somebody' })),
  ];
  // In the order they were asked for: the same file every time.
  const place = (one: SharedThing) =>
    Math.min(
      ...[one.id, ...(one.kind === 'pipeline' ? one.stages.map((stage) => stage.id) : [])].map((id) => {
        const at = ids.indexOf(id);
        return at < 0 ? ids.length : at;
      }),
    );
  return found.sort((a, b) => place(a) - place(b));
}
