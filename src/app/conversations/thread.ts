import type { Channel } from '../../core/workflow/channel.ts';
import type { Use } from '../use.ts';
import type { ConversationRecord } from './find-conversation.ts';

export interface ThreadItem {
  kind: 'in' | 'out' | 'note';
  at: string;
  channel: Channel | null;
  subject: string;
  text: string;
  /** What could be tapped: buttons, a form. */
  offers: string[];
  /** For what we sent: who or what did, and what became of it. */
  by: string;
  state: string;
  detail: string;
  runId: string | null;
  workflowId: string | null;
}

const PLAIN = {
  subject: '',
  offers: [] as string[],
  by: '',
  state: '',
  detail: '',
  runId: null,
  workflowId: null,
  channel: null,
};

/** What they wrote; of somebody who is no lead yet, by where they wrote from. */
async function written({ db, actor }: Use, { lead_id, sender }: ConversationRecord): Promise<ThreadItem[]> {
  const [whose, values] = lead_id
    ? ['lead_id = $1', [lead_id]]
    : ['lead_id is null and business_id = $1 and sender = $2', [actor.businessId, sender]];
  const { rows } = await db.query<{ at: Date; channel: Channel; text: string; problem: string | null }>(
    `select received_at as at, channel, text, problem from inbound where ${whose} order by received_at desc limit 200`,
    values,
  );
  return rows.map(({ at, channel, text, problem }) => ({
    ...{ ...PLAIN, kind: 'in', at: at.toISOString(), channel, text },
    detail: problem ?? '',
  }));
}

async function sent({ db }: Use, leadId: string): Promise<ThreadItem[]> {
  const { rows } = await db.query<{
    at: Date;
    channel: Channel;
    message: {
      subject?: string;
      heading?: string;
      text?: string;
      closing?: string;
      buttons?: string[];
      form?: { name: string };
    };
    state: string;
    detail: string;
    read_at: Date | null;
    run_id: string | null;
    workflow_id: string | null;
    by: string;
  }>(
    `select coalesce(d.accepted_at, d.created_at) as at, d.channel, d.message, d.state, d.detail, d.read_at, d.run_id, r.workflow_id, coalesce(p.name, w.name, '') as by
     from delivery d left join run r on r.id = d.run_id left join workflow w on w.id = r.workflow_id left join person p on p.id = d.sent_by_id
     where d.lead_id = $1 and d.audience = 'lead' and d.state not in ('draft', 'dropped') order by d.created_at desc limit 200`,
    [leadId],
  );
  return rows.map(({ message, ...row }) => ({
    kind: 'out',
    at: row.at.toISOString(),
    channel: row.channel,
    subject: message.subject ?? message.heading ?? '',
    text: [message.text ?? '', message.closing].filter(Boolean).join('\n\n'),
    offers: [...(message.buttons ?? []), ...(message.form ? [`Form: ${message.form.name}`] : [])],
    by: row.by,
    state: row.read_at ? 'read' : row.state,
    detail: row.detail,
    runId: row.run_id,
    workflowId: row.workflow_id,
  }));
}

async function noted({ db }: Use, leadId: string): Promise<ThreadItem[]> {
  const { rows } = await db.query<{ at: Date; text: string; by: string }>(
    `select n.at, n.text, coalesce(p.name, '') as by from lead_note n left join person p on p.id = n.author_id where n.lead_id = $1 order by n.at desc limit 100`,
    [leadId],
  );
  return rows.map(({ at, text, by }) => ({ ...PLAIN, kind: 'note', at: at.toISOString(), text, by }));
}

/** What was written both ways and noted beside it, the oldest first. */
export async function threadOf(use: Use, row: ConversationRecord): Promise<ThreadItem[]> {
  const parts = await Promise.all([
    written(use, row),
    ...(row.lead_id ? [sent(use, row.lead_id), noted(use, row.lead_id)] : []),
  ]);
  return parts.flat().sort((a, b) => a.at.localeCompare(b.at));
}
