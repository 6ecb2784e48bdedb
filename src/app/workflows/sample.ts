import type { Field } from '../../core/fields/field.ts';
import { consentScope } from '../../core/source/lead-card.ts';
import { draftLead } from '../../core/source/lead-draft.ts';
import { NO_TOUCHES } from '../../core/source/touches.ts';
import type { WhereFrom } from '../../core/source/where-from.ts';
import { leadZone } from '../../core/time/phone-zone.ts';
import type { SheetCheckInput } from '../../core/workflow/moment-findings.ts';
import type { Purpose } from '../../core/workflow/purpose.ts';
import { allConsents, type RunContext, type RunPerson, startContext } from '../../core/workflow/run-context.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import { Arrival, Source } from '../../db/entities/source.ts';
import type { IWorkflow } from '../../db/entities/workflow.ts';
import { touchesOf } from '../../engine/runs/touches.ts';
import { sourceKinds } from '../../sources/registry.ts';
import { notHere } from '../refusal.ts';
import type { Use } from '../use.ts';

/** The sample lead of a run sheet: one real arrival, read by its source's lead card. */
export interface Sample {
  arrivalId: string;
  sourceName: string;
  receivedAt: string;
  context: RunContext;
  /** They came in by their own doing, not by a table or a colleague. */
  theirDoing: boolean;
  /** Labels of the answers by key, as the source names them. */
  labels: Record<string, string>;
}

const NOBODY = { first_name: '', last_name: '', email: '', phone: '' };

export interface SampleChoice {
  arrivalId: string;
  name: string;
  sourceName: string;
  receivedAt: string;
}

interface Row {
  id: string;
  source_id: string;
  received_at: Date;
  fields: Field[];
  where_from: WhereFrom;
}

/** The newest arrivals of a sheet's sources. */
export async function sampleChoices(use: Use, sourceIds: string[], most = 20): Promise<SampleChoice[]> {
  if (sourceIds.length === 0) return [];
  const { rows } = await use.db.query<Row>(
    `select id, source_id, received_at, fields, where_from from arrival where business_id = $1 and source_id = any($2::uuid[]) and state <> 'refused' order by received_at desc limit $3`,
    [use.actor.businessId, sourceIds, most],
  );
  const sources = await use.em.find(Source, { id: { $in: sourceIds }, business: use.actor.businessId });
  return rows.map((row) => {
    const source = sources.find((source) => source.id === row.source_id)!;
    const { person } = draftLead(row.fields, source.card, use.actor.country);
    return {
      arrivalId: row.id,
      sourceName: source.name,
      receivedAt: new Date(row.received_at).toISOString(),
      name: `${person.first_name} ${person.last_name}`.trim() || person.email || person.phone || 'Without a name',
    };
  });
}

export async function readSample(use: Use, arrivalId: string): Promise<Sample> {
  const arrival = await use.em.findOne(
    Arrival,
    { id: arrivalId, business: use.actor.businessId },
    { fields: ['id', 'receivedAt', 'fields', 'whereFrom', 'source'] },
  );
  const source = arrival ? await use.em.findOne(Source, { id: arrival.source.id }) : null;
  if (!arrival || !source) throw notHere('sample');
  const { actor } = use;
  const draft = draftLead(arrival.fields, source.card, actor.country);
  const agreed = draft.consent?.state === 'given' ? ('given' as const) : ('unknown' as const);
  const scope = consentScope(source.card);
  const said = (purpose: Purpose) =>
    allConsents(
      (scope.purpose ?? purpose) === purpose
        ? Object.fromEntries(scope.channels.map((channel) => [channel, agreed]))
        : {},
    );
  const { known, ...ofLead } = await ofTheLead(use, arrivalId, source.kind);
  const context = startContext(draft, known, {
    where: arrival.whereFrom,
    business: {
      name: actor.businessName,
      country: actor.country,
      timeZone: actor.timeZone,
      holidays: actor.holidays,
      locale: actor.businessLocale,
    },
    source: { name: source.name },
    zone: leadZone(draft.person.phone || known.phone, actor.country),
    consent: said('service'),
    marketing: said('marketing'),
    ...ofLead,
  });
  return {
    arrivalId,
    sourceName: source.name,
    receivedAt: arrival.receivedAt.toISOString(),
    context,
    theirDoing: isTheirDoing(source.kind),
    labels: Object.fromEntries(arrival.fields.map((field) => [field.key, field.label])),
  };
}

const isTheirDoing = (kind: string): boolean => {
  const { byColleagues, brings } = sourceKinds.get(kind) ?? { brings: 'news' };
  return brings === 'people' && !byColleagues;
};

/** What is known of the sample's lead besides what came in: when they last wrote in chat, and, of who wrote there, who they are. */
async function ofTheLead(
  use: Use,
  arrivalId: string,
  kind: string,
): Promise<
  Pick<RunContext, 'lastChatAt' | 'touches'> & { known: RunPerson } & Partial<Pick<RunContext, 'consent' | 'marketing'>>
> {
  const { rows } = await use.db.query<
    RunPerson & { lead: string; at: Date | null; service: RunContext['consent']; news: RunContext['consent'] }
  >(
    `select l.id as lead, l.first_name, l.last_name, l.email, l.phone, (select max(i.received_at) from inbound i where i.lead_id = l.id and i.channel = 'chat') as at,
       consents_of(l.id, 'service') as service, consents_of(l.id, 'marketing') as news
     from arrival a join lead l on l.id = a.lead_id where a.id = $1`,
    [arrivalId],
  );
  const row = rows[0];
  const touches = (row && (await touchesOf(use.db, [row.lead])).get(row.lead)) ?? NO_TOUCHES;
  if (kind !== 'chat-message' || !row) return { known: NOBODY, touches, lastChatAt: row?.at?.getTime() ?? null };
  const { lead: _lead, at: _at, service, news, ...known } = row;
  return {
    known,
    touches,
    // One that comes in by writing there has just written, whenever the sample was caught.
    lastChatAt: use.runtime.now(),
    consent: allConsents(service),
    marketing: allConsents(news),
  };
}

/** The sample a sheet uses: the one chosen, or the newest there is. */
export async function sampleFor(use: Use, w: Pick<IWorkflow, 'draft' | 'sampleArrivalId'>): Promise<Sample | null> {
  const chosen = w.sampleArrivalId ?? (await sampleChoices(use, w.draft.sources))[0]?.arrivalId;
  if (!chosen) return null;
  try {
    return await readSample(use, chosen);
  } catch {
    return null;
  }
}

export const catalogueFor = async (use: Use): Promise<Catalogue> =>
  (await use.runtime.settingsCache.provisionsOf(use.actor.businessId)).catalogue;

export async function checkInput(use: Use, w: IWorkflow): Promise<SheetCheckInput> {
  const sources = await use.em.find(Source, { business: use.actor.businessId });
  const sample = await sampleFor(use, w);
  const catalogue = await catalogueFor(use);
  // In chat it is asked by the forms.
  const formsAsk = catalogue.chatForms.some(({ live }) => live?.content.consent.asked);
  return {
    catalogue,
    sample: sample?.context ?? null,
    consentAsked: sources.some(
      (source) =>
        w.draft.sources.includes(source.id) &&
        (source.card.consent.kind !== 'not_asked' || (source.kind === 'chat-message' && formsAsk)),
    ),
    sources: sources.map(({ id, name, state }) => ({ id, name, state })),
    triedSinceChange: w.triedRevision === w.revision,
  };
}
