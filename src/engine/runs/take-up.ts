import { draftLead } from '../../core/source/lead-draft.ts';
import { leadZone } from '../../core/time/phone-zone.ts';
import type { Definition } from '../../core/workflow/definition.ts';
import type { OutgoingMessage } from '../../core/workflow/plan.ts';
import { allConsents, startContext } from '../../core/workflow/run-context.ts';
import type { DueRun } from '../../db/hot/rows.ts';
import { applyFields } from '../../steps/apply-fields.ts';
import type { KnownSource, Provisions } from '../settings-cache.ts';
import { applyRecord } from './apply-record.ts';
import { deliveryName, type LeasedRun } from './leased-run.ts';

/** A run that is due, with the context it had when it was left: what its steps did is applied again. */
export function takenUp(
  due: DueRun,
  definition: Definition,
  source: KnownSource,
  { catalogue }: Provisions,
): LeasedRun {
  const { run } = due;
  const draft = draftLead(due.fields, source.card, source.business.country);
  const first = definition.moments[0]?.id;
  const owner = catalogue.colleagues.find((colleague) => colleague.id === due.owner_id) ?? null;
  const rest = {
    where: due.where_from,
    business: source.business,
    source: { name: source.name },
    consent: allConsents(due.consent),
    marketing: allConsents(due.marketing),
    lastChatAt: due.chat_at,
    tags: due.tags,
    memberOf: due.member_of,
    turns: due.turns,
    own: due.lead_own,
    zone: leadZone(draft.person.phone || due.known.phone, source.business.country),
    owner,
    happened: run.happened ?? {},
  };
  // Later on, and when run again by hand, what has been put right on the lead's record counts, not what was typed then.
  const later = run.from_step !== null || (run.moment_id !== null && run.moment_id !== first);
  let context = startContext(later ? { ...draft, person: due.known } : draft, due.known, rest);
  const steps = new Map(due.steps.map((step) => [step.step_id, step]));
  context = applyFields(context, due.answered, catalogue);
  if (run.from_step === null) for (const record of steps.values()) context = applyRecord(context, record, catalogue);
  return {
    id: run.id,
    businessId: run.business_id,
    workflowId: run.workflow_id,
    leadId: run.lead_id,
    listId: source.kind === 'list' ? String(source.settings.listId) : null,
    definition,
    context,
    steps,
    moments: new Map(due.moments.map((moment) => [moment.moment_id, moment])),
    pending: new Map(
      due.deliveries
        .filter((delivery) => delivery.state === 'sending')
        .map((delivery) => [
          deliveryName(delivery.step_id, delivery.item),
          {
            id: delivery.id,
            message: delivery.message as unknown as OutgoingMessage,
            connectionId: delivery.connection_id,
            createdAt: delivery.created_at,
          },
        ]),
    ),
    createdAt: run.created_at,
    cameAt: run.came_at,
    firstReplyAt: run.first_reply_at,
    momentId: run.moment_id,
    momentAt: run.moment_at ?? run.created_at,
    fresh: false,
    fromStep: run.from_step,
  };
}
