import { createPipeline } from '../app/deals/pipelines.ts';
import { createSegment } from '../app/leads/segments.ts';
import { createList } from '../app/lists/lists.ts';
import { createSequence } from '../app/lists/sequences.ts';
import { createTemplate } from '../app/messages/email-templates.ts';
import type { Use } from '../app/use.ts';
import { putLive } from '../app/workflows/live.ts';
import { getWorkflow, saveDraft } from '../app/workflows/workflows.ts';
import type { Block } from '../core/email/layout.ts';
import { EmailLayout } from '../core/email/layout.ts';
import { IF_FAILS, type Step } from '../core/workflow/definition.ts';
import { Workflow } from '../db/entities/workflow.ts';
import { stepKinds } from '../steps/registry.ts';
import { growSequenceHistory } from './sequence-history.ts';
import { COLLEAGUES } from './world.ts';

const EPISODE: Block[] = [
  { id: 'e1', kind: 'heading', text: 'A new episode: {{ answers.title }}', align: 'left' },
  {
    id: 'e2',
    kind: 'text',
    text: 'Hi {{ lead.first_name | default: "there" }},\n\n{{ answers.summary }}\n\nTen minutes, best heard with your instrument **within reach**.',
    align: 'left',
  },
  { id: 'e3', kind: 'button', label: 'Listen to it', link: '{{ answers.link }}', align: 'left' },
  { id: 'e4', kind: 'divider' },
  {
    id: 'e5',
    kind: 'text',
    text: 'Practise well,\nOona Pell',
    align: 'left',
  },
  { id: 'e6', kind: 'footer', text: '{{ business.name }}, The Old Granary, Wrenfield' },
];

const WELCOME: Block[] = [
  { id: 'w1', kind: 'heading', text: 'Welcome to Wrenfield, {{ lead.first_name }}', align: 'left' },
  {
    id: 'w2',
    kind: 'text',
    text: 'Your first half hour is free, and we lend you the instrument.\n\nThis is how it goes: you meet your teacher, you try things out, and you decide afterwards.',
    align: 'left',
  },
  {
    id: 'w3',
    kind: 'columns',
    left: [
      { id: 'w4', kind: 'heading', text: 'Where', align: 'left' },
      {
        id: 'w5',
        kind: 'text',
        text: 'The Old Granary, by the mill pond. The barn door is the right one.',
        align: 'left',
      },
    ],
    right: [
      { id: 'w6', kind: 'heading', text: 'When', align: 'left' },
      { id: 'w7', kind: 'text', text: 'Whenever suits you, Monday to Saturday, nine to eight.', align: 'left' },
    ],
  },
  { id: 'w8', kind: 'button', label: 'Choose your time', link: 'https://wrenfield.example/times', align: 'left' },
  { id: 'w9', kind: 'footer', text: '{{ business.name }}, The Old Granary, Wrenfield' },
];

const TIPS = [
  [
    'Your first practice tip: ten minutes a day',
    'Hi {{ lead.first_name }},\n\nten minutes every day do more than an hour on Sunday. Put the instrument where you see it.\n\nHow that looks: https://wrenfield.example/ten-minutes\n\nOona Pell',
  ],
  [
    'Second tip: slowly is quickly',
    'Hi {{ lead.first_name }},\n\nplay the hard bar at half the speed, five times without a slip. Then a little faster.\n\nOona Pell',
  ],
  [
    'Third tip: play for somebody',
    'Hi {{ lead.first_name }},\n\nplay the piece to a friend before it is ready. Or to us: https://wrenfield.example/times\n\nOona Pell',
  ],
] as const;

const layout = (blocks: Block[]) => EmailLayout.parse({ as: 'blocks', blocks });

/** A list with people on it, two laid-out emails, and the workflows that use them. Gives the list. */
export async function growNurture(use: Use): Promise<string> {
  const { id: tips } = await use.write((tx) => createList(tx, 'Practice tips'));
  const { id: episode } = await use.write((tx) => createTemplate(tx, { name: 'New episode', layout: layout(EPISODE) }));
  await use.write((tx) => createTemplate(tx, { name: 'Welcome to your trial lesson', layout: layout(WELCOME) }));
  // Those who agreed to emails in the last weeks, and a few who have left again.
  await use.runtime.pool.query(
    `insert into list_member (list_id, lead_id, state, how, joined_at, changed_at)
     select $1, l.id, case when row_number() over (order by l.created_at) % 17 = 0 and l.created_at < now() - interval '4 days' then 'unsubscribed' else 'active' end, 'By the workflow Practice planner: welcome',
       l.created_at + interval '2 minutes', l.created_at + interval '3 days'
     from (select *, row_number() over (order by created_at) as n from lead) l where l.n % 3 = 0 and l.business_id = $2 and l.is_person and l.email <> '' and exists (
       select from consent c where c.lead_id = l.id and c.channel = 'email' and c.state = 'given') and not exists (
       select from consent c where c.lead_id = l.id and c.channel = 'email' and c.state = 'withdrawn')
     order by l.created_at limit 120`,
    [tips, use.actor.businessId],
  );
  const { id: sequence } = await use.write((tx) => createSequence(tx, tips, 'Practice tips: welcome'));
  const { draft, revision } = await getWorkflow(use, sequence);
  for (const [i, [subject, message]] of TIPS.entries())
    Object.assign(draft.moments[i]!.lanes.lead[0]!.settings, { subject, message });
  await use.write((tx) => saveDraft(tx, sequence, { revision, draft }));
  await use.write((tx) => putLive(tx, sequence));
  await growSequenceHistory(use, tips, sequence);
  const step = (id: string, kind: string, settings: Record<string, unknown>): Step => ({
    id,
    kind,
    on: true,
    note: '',
    onlyIf: null,
    ifFails: IF_FAILS,
    each: '',
    settings: { ...(stepKinds.get(kind)!.blank() as object), ...settings },
  });
  await use.write((tx) =>
    createSegment(tx, {
      name: 'Piano, new this week',
      condition: {
        all: [
          { field: 'answers.instrument', test: 'is', value: 'Piano', to: '', exact: false },
          { field: 'record.since', test: 'in_last', value: '7', to: '', exact: false },
          { field: '', test: 'agreed', value: 'email', to: '', exact: false },
        ],
      },
    }),
  );
  await addStep(use, 'Practice planner: welcome', 'record', step('list-1', 'list', { action: 'add', list: tips }));
  await addStep(
    use,
    'New episode: tell the team',
    'lead',
    step('mailing-1', 'mailing', {
      to: `list:${tips}`,
      subject: 'New: {{ answers.title }}',
      template: episode,
      preheader: 'Ten minutes for your practice',
    }),
  );
  return tips;
}

/** A pipeline with the deals of the last weeks in it, at all stages. */
export async function growPipeline(use: Use): Promise<void> {
  const { id, stages } = await use.write((tx) =>
    createPipeline(tx, {
      name: 'Lessons',
      stages: [
        { name: 'New enquiry', ends: null },
        { name: 'Trial booked', ends: null },
        { name: 'Trial had', ends: null },
        { name: 'Signed up', ends: 'won' },
        { name: 'Not now', ends: 'lost' },
      ],
    }),
  );
  await use.runtime.pool.query(
    `insert into deal (id, business_id, lead_id, pipeline_id, stage_id, title, value, next_step, created_at, moved_at, closed_at)
     select gen_random_uuid(), l.business_id, l.id, $2, ($3::uuid[])[s.at], coalesce(nullif(l.answers ->> 'instrument', ''), 'Lessons') || ', ' || l.first_name || ' ' || l.last_name,
       s.value, s.next, l.created_at + interval '1 hour', l.created_at + s.at * interval '7 hours', case when s.at > 3 then l.created_at + s.at * interval '7 hours' end
     from (select *, row_number() over (order by created_at desc) as n from lead where business_id = $1 and is_person and answers ? 'instrument' and created_at < now() - interval '30 hours'
       order by created_at desc limit 26) l,
       lateral (select (array[1,1,2,1,3,4,2,5,1,3,4,2,1])[(l.n % 13) + 1] as at, (array[540, 620, 480, 720])[(l.n % 4) + 1] as value,
         (array['', 'Ring on Thursday', '', 'Send the price list', ''])[(l.n % 5) + 1] as next) s`,
    [use.actor.businessId, id, stages.map((stage) => stage.id)],
  );
  // Two of three are somebody's: the first two colleagues look after them in turn.
  await use.runtime.pool.query(
    `update lead l set owner_id = p.id from (select lead_id, row_number() over (order by created_at) as n from deal where pipeline_id = $1) d
       join (select id, row_number() over (order by name) as n from person where email = any($2)) p on p.n = d.n % 3
     where l.id = d.lead_id`,
    [id, COLLEAGUES.map((colleague) => colleague.email)],
  );
  // Each was opened by a workflow at the first stage, and moved by the desk since.
  await use.runtime.pool.query(
    `insert into deal_move (id, deal_id, lead_id, stage_id, at, person_id)
     select gen_random_uuid(), d.id, d.lead_id, m.stage, m.at, m.person from deal d,
       lateral (values ($2::uuid, d.created_at, null::uuid), (d.stage_id, d.moved_at, (select id from person where email = $3))) m(stage, at, person)
     where d.pipeline_id = $1 and (m.person is null or d.stage_id <> $2)`,
    [id, stages[0]!.id, COLLEAGUES[1]!.email],
  );
  // Calls and lessons of this week, by the business's clock, with people who came before it.
  await use.runtime.pool.query(
    `insert into calendar_entry (id, business_id, colleague_id, lead_id, title, starts_at, ends_at, created_at)
     select gen_random_uuid(), l.business_id, p.id, l.id, case when l.n % 3 = 0 then 'Trial lesson, ' else 'Call ' end || l.first_name || ' ' || l.last_name, t.at, t.at + t.long, l.created_at + interval '40 minutes'
     from (select *, row_number() over (order by created_at desc) as n from lead where business_id = $1 and is_person and answers ? 'instrument'
       and created_at < date_trunc('week', now() at time zone $3) at time zone $3 order by created_at desc limit 30) l
     join (select id, row_number() over (order by name) as n from person where email = any($2)) p on p.n = (l.n % 2) + 1,
       lateral (select (date_trunc('week', now() at time zone $3) + ((l.n * 5) % 6) * interval '1 day' + (8 * 60 + (l.n / 6) * 95) * interval '1 minute') at time zone $3 as at,
         case when l.n % 3 = 0 then interval '30 minutes' else interval '15 minutes' end as long) t`,
    [use.actor.businessId, COLLEAGUES.map((colleague) => colleague.email), use.actor.timeZone],
  );
}

async function addStep(use: Use, name: string, lane: 'lead' | 'record', step: Step): Promise<void> {
  const { id } = await use.em.findOneOrFail(Workflow, { business: use.actor.businessId, name });
  const { draft, revision } = await getWorkflow(use, id);
  draft.moments[0]!.lanes[lane].push(step);
  await use.write((tx) => saveDraft(tx, id, { revision, draft }));
  await use.write((tx) => putLive(tx, id));
}
