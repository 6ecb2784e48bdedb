import type { LeadDraft } from '../../core/source/lead-draft.ts';
import { leadZone } from '../../core/time/phone-zone.ts';
import type { Definition } from '../../core/workflow/definition.ts';
import { allConsents, type Owner, startContext } from '../../core/workflow/run-context.ts';
import type { Accepted, AcceptItem } from '../../db/hot/rows.ts';
import type { Conductor } from '../runs/conductor.ts';
import type { KnownSource } from '../settings-cache.ts';

type Begun = Parameters<Conductor['begin']>[0];

/** A run as it begins, made of what was just stored instead of read back. */
export function begunRun(
  { run_id, workflow_id }: NonNullable<Accepted['runs']>[number],
  definition: Definition,
  {
    source,
    item,
    draft,
    accepted,
    owner,
  }: {
    source: KnownSource;
    item: AcceptItem;
    draft: LeadDraft;
    accepted: Accepted & { known: NonNullable<Accepted['known']> };
    owner: Owner | null;
  },
): Begun {
  return {
    id: run_id,
    workflowId: workflow_id,
    businessId: source.business.id,
    leadId: accepted.lead_id!,
    listId: null,
    definition,
    context: startContext({ person: item.person, answers: draft.answers, lists: draft.lists }, accepted.known, {
      own: accepted.own ?? {},
      zone: leadZone(item.person.phone || accepted.known.phone, source.business.country),
      where: item.where_from,
      business: source.business,
      source: { name: source.name },
      consent: allConsents(accepted.consent),
      marketing: allConsents(accepted.marketing),
      lastChatAt: accepted.chat_at ?? null,
      tags: accepted.tags ?? [],
      memberOf: accepted.member_of ?? [],
      owner,
    }),
    steps: new Map(),
    moments: new Map(),
    pending: new Map(),
    createdAt: item.received_at,
    cameAt: item.came_at,
    firstReplyAt: null,
    momentId: null,
    momentAt: item.received_at,
    fresh: true,
    fromStep: null,
  };
}
