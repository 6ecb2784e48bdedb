import { countedLinks } from '../core/message/counted-links.ts';
import type { OutgoingMessage, Question } from '../core/workflow/plan.ts';
import type { SendingDesk } from '../core/workflow/step-kind.ts';
import type { DeliveryState } from '../db/entities/run.ts';
import type { Progress } from '../db/hot/store.ts';
import type { PendingDelivery } from './leased-run.ts';

/** For whom a message is, and from which step. */
export interface DeliverFor {
  id: string;
  businessId: string;
  runId: string | null;
  stepId: string;
  /** A step's first message is 0, what is sent instead 1, a question asked again 10 and on. */
  item: number;
  leadId: string;
}

export interface DeliveryParts {
  /** Where people reach us: short addresses begin with it. */
  publicUrl: string;
  /** A token from a few words, always the same one. */
  token: (words: string) => string;
}

/** The connection a message goes out by; null when there is none of that kind. */
export const connectionFor = (desk: SendingDesk, channel: OutgoingMessage['channel']): string | null =>
  desk[channel]?.connectionId ?? null;

/**
 * A message as it goes out, with the rows that are written before it does: its links counted, its opening counted, and the
 * question it asks.
 */
export function makeDelivery(
  about: DeliverFor,
  planned: OutgoingMessage,
  connectionId: string,
  counting: SendingDesk['counting'],
  { publicUrl, token }: DeliveryParts,
  now: number,
  more: { state?: DeliveryState; question?: Question | undefined } = {},
): { pending: PendingDelivery; rows: Required<Pick<Progress, 'deliveries' | 'links' | 'questions'>> } {
  const toLead = planned.audience === 'lead';
  const link = (name: string, url: string | null) => ({
    token: name,
    business_id: about.businessId,
    delivery_id: about.id,
    run_id: about.runId,
    step_id: about.stepId,
    lead_id: about.leadId,
    url,
  });
  let message = planned;
  const links: ReturnType<typeof link>[] = [];
  if (toLead && planned.countLinks && counting.links !== null) {
    const counted = countedLinks(planned, counting.links, publicUrl, (n) => token(`${about.id}:${n}`));
    message = counted.message;
    links.push(...counted.links.map((one) => link(one.token, one.url)));
  }
  if (toLead && message.channel === 'email' && message.countOpens && counting.opens) {
    const name = token(`${about.id}:opened`);
    const picture = `<img src="${publicUrl}/o/${name}.gif" width="1" height="1" alt="" style="display:block;border:0">`;
    const { html } = message;
    message = {
      ...message,
      html: /<\/body>/i.test(html) ? html.replace(/<\/body>/i, `${picture}</body>`) : html + picture,
    };
    links.push(link(name, null));
  }
  const createdAt = new Date(now).toISOString();
  const row = {
    id: about.id,
    business_id: about.businessId,
    run_id: about.runId,
    step_id: about.stepId,
    item: about.item,
    lead_id: about.leadId,
    channel: message.channel,
    audience: message.audience,
    recipient: message.to,
    connection_id: connectionId,
    message,
    state: more.state ?? 'sending',
    created_at: createdAt,
  };
  const questions =
    more.question && about.runId
      ? [
          {
            id: about.id,
            business_id: about.businessId,
            run_id: about.runId,
            step_id: about.stepId,
            lead_id: about.leadId,
            channel: message.channel,
            question: more.question,
            asked_at: createdAt,
            until: new Date(now + more.question.forDays * 86_400_000).toISOString(),
          },
        ]
      : [];
  return { pending: { id: about.id, message, connectionId, createdAt }, rows: { deliveries: [row], links, questions } };
}
