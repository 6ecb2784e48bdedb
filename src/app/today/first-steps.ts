import { z } from 'zod';
import { readPhone } from '../../core/people/phone.ts';
import { Business, Membership } from '../../db/entities/business.ts';
import { starters } from '../../starters/registry.ts';
import { getPractice, type PracticeView } from '../account/practice-world.ts';
import { demand, may } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

export const FIRST_STEPS = ['source', 'sample', 'answer', 'phone', 'live'] as const;
export type FirstStepId = (typeof FIRST_STEPS)[number];

export interface FirstStep {
  id: FirstStepId;
  /** It has really happened. */
  done: boolean;
  /** What of it is there: the name of the source, who came, where the try went. */
  what: string;
  /** Where to go on with it. */
  href: string | null;
}

export interface FirstSteps {
  state: 'open' | 'left' | 'done';
  steps: FirstStep[];
  /** The finished workflow that fits the source there is. */
  starter: { name: string; href: string } | null;
  /** It is live and nobody has come yet: where a first lead comes in, when it is a page of ours. */
  form: string | null;
  myPhone: string;
  /** An account is connected that messages go out by. */
  canSend: boolean;
  practice: PracticeView;
}

interface Facts {
  first_steps: FirstSteps['state'];
  source_id: string | null;
  source_name: string | null;
  source_kind: string | null;
  source_key: string | null;
  source_live: boolean | null;
  came: string | null;
  workflow_id: string | null;
  workflow_name: string | null;
  workflow_live: boolean | null;
  listens: boolean | null;
  writes: boolean | null;
  tried_to: string | null;
  answered: string | null;
  can_send: boolean;
}

/** The kinds of step that write to the lead. */
const WRITES = ['text', 'email', 'chat', 'chat-template', 'ask'];

/** What answers whoever comes by a kind of source. */
const FITTING: Record<string, string> = {
  'form-page': 'form-answer',
  'ad-form': 'ad-form-answer',
  funnel: 'funnel-opt-in',
  shop: 'order-status',
  'booking-calendar': 'booking',
  'chat-message': 'chat-desk',
  mailbox: 'mail-enquiry',
  sheet: 'row-email',
  'content-feed': 'new-episode',
  webhook: 'missed-call',
};

function starterFor(kind: string | null, source: string | null): FirstSteps['starter'] {
  const found = kind && starters.find(({ id }) => id === FITTING[kind]);
  return found ? { name: found.name, href: `/workflows/new/${found.id}?source=${source}` } : null;
}

/** How far the first visit has come: each step is there when it has really happened, whoever did it and in whatever order. */
export async function getFirstSteps(use: Use): Promise<FirstSteps> {
  const { db, actor } = use;
  const { rows } = await db.query<Facts>(
    `select b.first_steps, s.id as source_id, s.name as source_name, s.kind as source_kind, s.key as source_key, s.state = 'live' as source_live,
       (select coalesce(nullif(trim(concat(l.first_name, ' ', l.last_name)), ''), l.email, (select f ->> 'value' from jsonb_array_elements(a.fields) f where f ->> 'value' <> '' limit 1), '') from arrival a left join lead l on l.id = a.lead_id
          where a.source_id = s.id order by a.received_at desc limit 1) as came,
       w.id as workflow_id, w.name as workflow_name, w.state = 'live' as workflow_live, jsonb_array_length(w.draft -> 'sources') > 0 as listens,
       jsonb_path_exists(w.draft, '$.moments[*].**.kind ? (@ == $kinds[*])', jsonb_build_object('kinds', $2::jsonb)) as writes,
       (select d.recipient from delivery d where d.business_id = b.id and d.audience = 'test' and d.state in ('accepted', 'delivered') order by d.created_at desc limit 1) as tried_to,
       r.name as answered, exists (select from connection c where c.business_id = b.id and c.removed_at is null and c.kind in ('text_carrier', 'mail_server', 'chat_network')) as can_send
     from business b
     left join lateral (select x.* from source x where x.business_id = b.id and x.removed_at is null and x.kind not in ('list', 'import')
       order by x.state = 'live' desc, exists (select from arrival a where a.source_id = x.id) desc, x.created_at desc limit 1) s on true
     left join lateral (select x.* from workflow x where x.business_id = b.id and x.removed_at is null
       order by x.state = 'live' desc, jsonb_array_length(x.draft -> 'sources') > 0 desc, x.updated_at desc limit 1) w on true
     left join lateral (select coalesce(nullif(trim(concat(l.first_name, ' ', l.last_name)), ''), l.email, l.phone) as name
       from run x join lead l on l.id = x.lead_id where x.business_id = b.id and x.first_reply_at is not null order by x.created_at desc limit 1) r on true
     where b.id = $1`,
    [actor.businessId, JSON.stringify(WRITES)],
  );
  const facts = rows[0]!;
  const mine = await use.em.findOneOrFail(Membership, { business: actor.businessId, person: actor.personId });
  const answers = facts.workflow_id !== null && facts.listens === true && facts.writes === true;
  const source = facts.source_id ? `/sources/${facts.source_id}` : null;
  const sheet = facts.workflow_id ? `/workflows/${facts.workflow_id}` : null;
  const done: FirstStep[] = [
    { id: 'source', done: source !== null, what: facts.source_name ?? '', href: source },
    { id: 'sample', done: facts.came !== null && facts.source_live === true, what: facts.came ?? '', href: source },
    { id: 'answer', done: answers, what: facts.workflow_name ?? '', href: sheet },
    { id: 'phone', done: facts.tried_to !== null, what: facts.tried_to ?? '', href: sheet },
    { id: 'live', done: facts.answered !== null, what: facts.answered ?? '', href: sheet },
  ];
  return {
    state: facts.first_steps,
    starter: starterFor(facts.source_kind, facts.source_id),
    steps: done,
    form:
      facts.source_kind === 'form-page' && facts.source_key
        ? `${use.runtime.settings.publicUrl}/f/${facts.source_key}`
        : null,
    canSend: facts.can_send,
    myPhone: mine.testPhone,
    practice: await getPractice(use),
  };
}

/**
 * For pages that show the first visit only while it lasts: null once somebody has left it or a lead has been answered, at no cost from then on.
 */
export async function openFirstSteps(use: Use): Promise<FirstSteps | null> {
  const { rows } = await use.db.query<{ open: boolean; answered: boolean }>(
    `select first_steps = 'open' as open, first_steps = 'open' and exists (select from run where business_id = $1 and first_reply_at is not null) as answered
     from business where id = $1`,
    [use.actor.businessId],
  );
  const { open, answered } = rows[0]!;
  if (!open || !may(use.actor, 'build')) return null;
  if (!answered) return getFirstSteps(use);
  await use.db.query(`update business set first_steps = 'done' where id = $1 and first_steps = 'open'`, [
    use.actor.businessId,
  ]);
  return null;
}

export const FirstVisit = z.object({ state: z.enum(['open', 'left']) });

/** Leaves the first visit, or takes it up again. */
export async function changeFirstVisit(tx: Write, { state }: z.infer<typeof FirstVisit>): Promise<FirstSteps> {
  demand(tx.actor, 'build');
  const business = await tx.em.findOneOrFail(Business, { id: tx.actor.businessId });
  business.firstSteps = state;
  tx.note('first_visit.change', tx.actor.businessId, { state });
  await tx.em.flush();
  return getFirstSteps(tx);
}

export const MyPhone = z.object({ phone: z.string().trim().min(1, 'Type your number').max(40) });

/** Where tries of texts go, for whoever says it. */
export async function sayMyPhone(tx: Write, { phone }: z.infer<typeof MyPhone>): Promise<FirstSteps> {
  demand(tx.actor, 'build');
  const read = readPhone(phone, tx.actor.country);
  if (!read.ok)
    throw new Refusal(
      422,
      'test-phone',
      'This is not a phone number that can be texted. Type it as you would give it to a friend.',
    );
  const mine = await tx.em.findOneOrFail(Membership, { business: tx.actor.businessId, person: tx.actor.personId });
  mine.testPhone = read.e164;
  tx.note('test_recipients.change', tx.actor.personId);
  await tx.em.flush();
  return getFirstSteps(tx);
}
