import type { Use } from '../app/actor.ts';
import { createTemplate } from '../app/email-templates.ts';
import { createList } from '../app/lists.ts';
import { getWorkflow, putLive, saveDraft } from '../app/workflows.ts';
import type { Block } from '../core/email/layout.ts';
import { EmailLayout } from '../core/email/layout.ts';
import { IF_FAILS, type Step } from '../core/workflow/definition.ts';
import { Workflow } from '../db/entities/workflow.ts';
import { stepKinds } from '../steps/registry.ts';

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

const layout = (blocks: Block[]) => EmailLayout.parse({ as: 'blocks', blocks });

/** A list with people on it, two laid-out emails, and the workflows that use them. Gives the list. */
export async function growNurture(use: Use): Promise<string> {
  const { id: tips } = await createList(use, 'Practice tips');
  const { id: episode } = await createTemplate(use, { name: 'New episode', layout: layout(EPISODE) });
  await createTemplate(use, { name: 'Welcome to your trial lesson', layout: layout(WELCOME) });
  // Those who agreed to emails in the last weeks, and a few who have left again.
  await use.runtime.pool.query(
    `insert into list_member (list_id, lead_id, state, how, joined_at, changed_at)
     select $1, l.id, case when row_number() over (order by l.created_at) % 17 = 0 then 'unsubscribed' else 'active' end, 'By the workflow Practice planner: welcome',
       l.created_at + interval '2 minutes', l.created_at + interval '3 days'
     from lead l where l.business_id = $2 and l.is_person and l.email <> '' and exists (
       select from consent c where c.lead_id = l.id and c.channel = 'email' and c.state = 'given') and not exists (
       select from consent c where c.lead_id = l.id and c.channel = 'email' and c.state = 'withdrawn')
     order by l.created_at limit 120`,
    [tips, use.actor.businessId],
  );
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

async function addStep(use: Use, name: string, lane: 'lead' | 'record', step: Step): Promise<void> {
  const { id } = await use.em.findOneOrFail(Workflow, { business: use.actor.businessId, name });
  const { draft, revision } = await getWorkflow(use, id);
  draft.moments[0]!.lanes[lane].push(step);
  await saveDraft(use, id, { revision, draft });
  await putLive(use, id);
}
