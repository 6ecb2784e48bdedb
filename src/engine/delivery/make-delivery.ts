import { makeListLink } from '../../core/consent/leave-link.ts';
import { countedLinks } from '../../core/message/counted-links.ts';
import { makeFormToken } from '../../core/signing/form-token.ts';
import type { OutgoingMessage, Question } from '../../core/workflow/plan.ts';
import { LEAVE_PLACE } from '../../core/workflow/run-context.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import type { DeliveryState } from '../../db/entities/run.ts';
import type { Progress } from '../../db/hot/rows.ts';
import type { PendingDelivery } from '../runs/leased-run.ts';

/** For whom a message is, and from which step. */
export interface DeliverFor {
  id: string;
  businessId: string;
  runId: string | null;
  stepId: string;
  /** A step's first message is 0, what is sent instead 1, a question asked again 10 and on. */
  item: number;
  leadId: string;
  /** The list it is sent for; null when it is for none. A message for a list always says how to leave. */
  listId?: string | null;
  /** One of many: it says how to leave. */
  bulk?: boolean;
  /** Written by a person to a person: a mail program shows no button to leave beside it. */
  byHand?: boolean;
}

export interface DeliveryParts {
  /** Where people reach us: short addresses begin with it. */
  publicUrl: string;
  /** A token from a few words, always the same one. */
  token: (words: string) => string;
  /** The key of links by which readers leave, and of the tokens of forms. */
  linkKey: Uint8Array;
}

/** The connection a message goes out by; null when there is none of that kind. */
export const connectionFor = (catalogue: Catalogue, channel: OutgoingMessage['channel']): string | null =>
  catalogue[channel]?.connectionId ?? null;

/**
 * A message as it goes out, with the rows that are written before it does: its links counted, its opening counted, and the
 * question it asks.
 */
export function makeDelivery(
  about: DeliverFor,
  planned: OutgoingMessage,
  connectionId: string,
  counting: Catalogue['counting'],
  { publicUrl, token, linkKey }: DeliveryParts,
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
  let message = toLead
    ? withWayOut(
        planned,
        about,
        `${publicUrl}/leave/${makeListLink(linkKey, 'leave', { leadId: about.leadId, listId: about.listId ?? null })}`,
      )
    : planned;
  if (message.channel === 'chat' && message.form)
    message = { ...message, form: { ...message.form, token: makeFormToken(linkKey, about.id) } };
  const links: ReturnType<typeof link>[] = [];
  if (toLead && planned.countLinks && counting.links !== null) {
    const counted = countedLinks(message, counting.links, publicUrl, (n) => token(`${about.id}:${n}`));
    message = counted.message;
    links.push(...counted.links.map((countedLink) => link(countedLink.token, countedLink.url)));
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

/** The message with the way out for its reader: where it says so itself, at its end when it is one of many, and in its headers. */
function withWayOut(message: OutgoingMessage, about: DeliverFor, link: string): OutgoingMessage {
  const says = message.text.includes(LEAVE_PLACE);
  const text = message.text.replaceAll(LEAVE_PLACE, link);
  if (message.channel !== 'email') return { ...message, text };
  const must = !says && (about.bulk === true || Boolean(about.listId));
  const way = `<p style="margin:24px 0 0;font:13px/1.5 Helvetica,Arial,sans-serif;color:#55625a;text-align:center"><a href="${link}" style="color:#55625a">No more of these emails</a></p>`;
  const html = message.html.replaceAll(LEAVE_PLACE, link);
  const ended = /<\/body>/i.test(html) ? html.replace(/<\/body>/i, `${way}</body>`) : html + way;
  if (about.byHand) return { ...message, text, html };
  return {
    ...message,
    text: must ? `${text}\n\nNo more of these emails: ${link}` : text,
    html: must ? ended : html,
    // RFC 2369 and RFC 8058: the button of the reader's mail program.
    headers: {
      ...message.headers,
      'List-Unsubscribe': `<${link}>`,
      'List-Unsubscribe-Post': 'List-Unsubscribe=One-Click',
    },
  };
}
