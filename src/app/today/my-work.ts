import { EVERYBODY } from '../../core/people/lead-choice.ts';
import { type ConversationRow, listConversations } from '../conversations/list-conversations.ts';
import { leadName, type Named } from '../leads/lead-name.ts';
import { type LeadRow, listLeads } from '../leads/lead-rows.ts';
import type { Use } from '../use.ts';

export interface MyTask {
  id: string;
  title: string;
  dueAt: string;
  leadId: string;
  lead: string;
  /** Empty for whoever is free. */
  colleague: string;
}

export interface MyAppointment {
  id: string;
  title: string;
  startsAt: string;
  endsAt: string;
  leadId: string | null;
  lead: string;
  colleague: string;
}

/** What waits for somebody who works with leads: all within what they may see. */
export interface MyWork {
  tasks: MyTask[];
  /** Written to, and nobody has looked or answered yet. */
  conversations: ConversationRow[];
  /** Of the business's today. */
  appointments: MyAppointment[];
  /** Heard of last. */
  leads: LeadRow[];
}

const MOST = 12;

export async function getMyWork(use: Use): Promise<MyWork> {
  const { businessId, leadsOf, personId, timeZone } = use.actor;
  const day = `date_trunc('day', now() at time zone $3)`;
  const [tasks, conversations, appointments, leads] = await Promise.all([
    use.db.query<Named & { id: string; title: string; due_at: Date; lead_id: string; colleague: string }>(
      `select t.id, t.title, t.due_at, t.lead_id, coalesce(p.name, '') as colleague, l.first_name, l.last_name, l.email, l.phone
       from task t join lead l on l.id = t.lead_id left join person p on p.id = t.colleague_id
       where t.business_id = $1 and t.done_at is null and (t.colleague_id = $3 or t.colleague_id is null and is_theirs(l.business_id, l.id, l.owner_id, $2))
       order by t.due_at limit ${MOST}`,
      [businessId, leadsOf, personId],
    ),
    listConversations(use, { filter: 'unread', search: '' }),
    use.db.query<
      Omit<MyAppointment, 'startsAt' | 'endsAt' | 'leadId'> & { starts_at: Date; ends_at: Date; lead_id: string | null }
    >(
      `select e.id, e.title, e.starts_at, e.ends_at, e.lead_id, trim(coalesce(l.first_name || ' ' || l.last_name, '')) as lead, p.name as colleague
       from calendar_entry e join person p on p.id = e.colleague_id left join lead l on l.id = e.lead_id
       where e.business_id = $1 and ($2::uuid[] is null or e.colleague_id = any($2)) and e.ends_at > now() and e.starts_at < (${day} + interval '1 day') at time zone $3
       order by e.starts_at limit ${MOST}`,
      [businessId, leadsOf, timeZone],
    ),
    listLeads(use, { choice: EVERYBODY, before: null }),
  ]);
  return {
    tasks: tasks.rows.map((row) => ({
      ...{ id: row.id, title: row.title, dueAt: row.due_at.toISOString(), leadId: row.lead_id },
      ...{ lead: leadName(row), colleague: row.colleague },
    })),
    conversations: conversations.rows.slice(0, MOST),
    appointments: appointments.rows.map(({ starts_at, ends_at, lead_id, ...row }) => ({
      ...{ ...row, leadId: lead_id, startsAt: starts_at.toISOString(), endsAt: ends_at.toISOString() },
    })),
    leads: leads.rows.slice(0, MOST),
  };
}
