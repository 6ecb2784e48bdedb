import type { At } from '../../core/workflow/at.ts';
import { atNames } from '../../core/workflow/at-names.ts';
import { atWords } from '../../core/workflow/at-words.ts';
import {
  blankDefinition,
  blankMoment,
  type Definition,
  IF_FAILS,
  type Moment,
  placedSteps,
  type Step,
} from '../../core/workflow/definition.ts';
import { NurtureList } from '../../db/entities/nurture.ts';
import { stepKinds } from '../../steps/registry.ts';
import { notHere } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { catalogueFor } from '../workflows/sample.ts';
import { createWorkflow } from '../workflows/workflows.ts';

/** One email or text of a sequence, and what came of it. Machines that open or follow are not counted. */
export interface SequenceStep {
  stepId: string;
  title: string;
  when: string;
  on: boolean;
  sent: number;
  opened: number;
  followed: number;
  replied: number;
  left: number;
}

/** A workflow that people go through because they joined the list. */
export interface SequenceView {
  id: string;
  name: string;
  state: 'draft' | 'live' | 'paused';
  /** Going through it now. */
  underWay: number;
  /** Why nobody would start it, in words; empty when they would. */
  stopped: string;
  steps: SequenceStep[];
}

/** The workflows people go through by joining a list, with what came of each of their messages. */
export async function sequencesOf(use: Use, sourceId: string | null): Promise<SequenceView[]> {
  if (sourceId === null) return [];
  const { db } = use;
  const { rows } = await db.query<{
    id: string;
    name: string;
    state: SequenceView['state'];
    draft: Definition;
    under_way: number;
  }>(
    `select w.id, w.name, w.state, w.draft, (select count(*)::int from run r where r.workflow_id = w.id and r.due_at is not null) as under_way
     from workflow w where w.business_id = $1 and w.removed_at is null and w.draft -> 'sources' ? $2 order by w.created_at`,
    [use.actor.businessId, sourceId],
  );
  const catalogue = await catalogueFor(use);
  const counts = await db.query<
    { workflow_id: string } & Omit<SequenceStep, 'title' | 'when' | 'on' | 'stepId'> & { step_id: string }
  >(
    `select r.workflow_id, d.step_id, count(*)::int as sent,
       count(*) filter (where exists (select from visit v where v.delivery_id = d.id and v.kind = 'opened' and not v.machine))::int as opened,
       count(*) filter (where exists (select from visit v where v.delivery_id = d.id and v.kind = 'link' and not v.machine))::int as followed,
       count(*) filter (where exists (select from inbound i where i.lead_id = d.lead_id and i.channel = d.channel and i.received_at > d.accepted_at
         and i.received_at < coalesce((select min(n.accepted_at) from delivery n where n.lead_id = d.lead_id and n.channel = d.channel and n.accepted_at > d.accepted_at), 'infinity')))::int as replied,
       count(*) filter (where exists (select from consent c where c.lead_id = d.lead_id and c.channel = d.channel and c.state = 'withdrawn' and c.at > d.accepted_at
         and c.at < coalesce((select min(n.accepted_at) from delivery n where n.lead_id = d.lead_id and n.accepted_at > d.accepted_at), 'infinity'))
         or exists (select from list_member m join nurture_list t on t.id = m.list_id where t.source_id = r.source_id and m.lead_id = d.lead_id
           and m.state in ('unsubscribed', 'complained') and m.changed_at > d.accepted_at
           and m.changed_at < coalesce((select min(n.accepted_at) from delivery n where n.lead_id = d.lead_id and n.accepted_at > d.accepted_at), 'infinity')))::int as "left"
     from delivery d join run r on r.id = d.run_id
     where r.workflow_id = any($1::uuid[]) and d.audience = 'lead' and d.item < 10 and d.accepted_at is not null group by r.workflow_id, d.step_id`,
    [rows.map((row) => row.id)],
  );
  return rows.map((row) => {
    const named = atNames(row.draft, stepKinds, catalogue);
    const messages = placedSteps(row.draft).filter(({ place, step }) => place === 'lead' && MESSAGES.has(step.kind));
    const [first] = messages;
    const stopped =
      row.state !== 'live'
        ? row.state === 'paused'
          ? 'It is paused: nobody starts it.'
          : 'It is not live yet: nobody starts it.'
        : first && !first.step.on
          ? 'Its first message is switched off.'
          : '';
    return {
      id: row.id,
      name: row.name,
      state: row.state,
      underWay: row.under_way,
      stopped,
      steps: messages.map(({ step, moment }) => {
        const count = counts.rows.find((one) => one.workflow_id === row.id && one.step_id === step.id);
        const { sent = 0, opened = 0, followed = 0, replied = 0, left = 0 } = count ?? {};
        return {
          stepId: step.id,
          title: named.step(step.id).replace(/[“”]/g, ''),
          when: moment.at.kind === 'on_arrival' ? 'When they join' : atWords(moment.at, named),
          on: step.on,
          sent,
          opened,
          followed,
          replied,
          left,
        };
      }),
    };
  });
}

const MESSAGES = new Set(['email', 'text', 'chat', 'chat-template', 'ask']);

/** A workflow that whoever joins the list goes through: three emails to begin with, days apart. */
export async function createSequence(tx: Write, listId: string, name: string): Promise<{ id: string }> {
  const list = await tx.em.findOne(NurtureList, { id: listId, business: tx.actor.businessId });
  if (!list?.source) throw notHere('list');
  const email = (id: string, subject: string): Step => ({
    id,
    kind: 'email',
    on: true,
    note: '',
    onlyIf: null,
    ifFails: IF_FAILS,
    each: '',
    settings: { ...(stepKinds.get('email')!.blank() as object), subject, message: '', needsConsent: true },
  });
  const days = (amount: number): At => ({ kind: 'later', span: { amount, unit: 'days' } });
  const moment = (id: string, at: At, step: Step): Moment => ({
    ...blankMoment(id, at),
    lanes: { lead: [step], record: [], team: [] },
  });
  const draft: Definition = {
    ...blankDefinition('joining'),
    sources: [list.source.id],
    moments: [
      moment('joining', { kind: 'on_arrival' }, email('email-1', `Welcome to ${list.name}`)),
      moment('after-2', days(2), email('email-2', '')),
      moment('after-5', days(3), email('email-3', '')),
    ],
  };
  draft.rules = { ...draft.rules, endsWhen: ['booked', 'bought', 'stop'] };
  return createWorkflow(tx, { name, folder: 'Sequences', draft });
}
