import { createTag } from '../app/leads/tags.ts';
import { createSheet } from '../app/sheets/sheets.ts';
import { appendRows } from '../app/sheets/tab-files.ts';
import type { Use } from '../app/use.ts';
import { putLive } from '../app/workflows/live.ts';
import { getWorkflow, saveDraft } from '../app/workflows/workflows.ts';
import { ANY_REPLY } from '../core/workflow/at.ts';
import { Definition } from '../core/workflow/definition.ts';
import { TEXT_HOURS } from '../core/workflow/rules.ts';
import { Person } from '../db/entities/business.ts';
import { fillAllLeads, TEACHERS } from './all-leads-past.ts';
import { COLLEAGUES, EMAIL_MESSAGE, EMAIL_SUBJECT, TEXT_MESSAGE } from './world.ts';

/** The trial lesson's workflow as it is today: with what comes after the first reply. It replaces the version its history ran on. */
export async function growTrialSheet(use: Use, workflowId: string, tips: string): Promise<void> {
  const all = await use.write((tx) =>
    createSheet(tx, {
      name: 'All leads',
      columns: ['First name', 'Last name', 'Email', 'Phone', 'Instrument', 'Campaign', 'Teacher'],
    }),
  );
  const [first, last, email, phone, instrument, campaign, teacher] = all.tabs[0]!.columns.map(({ id }) => id);
  const teachers = await use.write((tx) =>
    createSheet(tx, { name: 'Teachers', columns: ['Instrument', 'Teacher', 'Room'] }),
  );
  const [plays, name, room] = teachers.tabs[0]!.columns.map(({ id }) => id);
  await use.write((tx) =>
    appendRows(
      tx,
      teachers.tabs[0]!.id,
      TEACHERS.map(([a, b, c]) => ({ [plays!]: a!, [name!]: b!, [room!]: c! })),
      'teachers.csv',
    ),
  );
  const { id: autumn } = await use.write((tx) => createTag(tx, 'Autumn trial'));
  const { id: silent } = await use.write((tx) => createTag(tx, 'No reply yet'));
  const people = await use.em.find(Person, { email: COLLEAGUES.map((colleague) => colleague.email) });
  const tomas = people.find((person) => person.email === COLLEAGUES[0]!.email)!.id;
  const desk = people.find((person) => person.email === COLLEAGUES[1]!.email)!.id;

  const step = (id: string, kind: string, settings: Record<string, unknown>, more: object = {}) => ({
    id,
    kind,
    on: true,
    note: '',
    settings,
    ...more,
  });
  const otherwise = { ifFails: { tryForMinutes: 60, after: 'other_channel' } };
  const meet = (id: string, text: string) =>
    step(id, 'email', {
      subject: `Meet {{ found["teacher.${name}"] | default: "your teacher" }}`,
      message: `Dear {{ lead.first_name }},\n\n${text}\n\nReply with a time that suits you, and your first half hour is yours.\n\nOona Pell\nWrenfield Music School`,
      needsConsent: true,
    });
  const is = (field: string, value: string) => ({ field, test: 'is', value });
  const w = await getWorkflow(use, workflowId);
  const draft = Definition.parse({
    sources: w.draft.sources,
    rules: { samePerson: 'update_only', hours: { text: TEXT_HOURS, email: null }, endsWhen: ['booked', 'stop'] },
    moments: [
      {
        id: 'arrival',
        at: { kind: 'on_arrival' },
        first: [
          step('tidy-1', 'tidy', { names: true, email: true, phone: true }),
          step('teacher-1', 'look-up', {
            name: 'Teacher',
            tab: teachers.tabs[0]!.id,
            column: plays,
            value: '{{ answers.instrument }}',
            whenNone: 'blanks',
          }),
        ],
        lanes: {
          lead: [
            step('text-1', 'text', { message: TEXT_MESSAGE, needsConsent: true }, otherwise),
            step('email-1', 'email', { subject: EMAIL_SUBJECT, message: EMAIL_MESSAGE, needsConsent: true }),
          ],
          record: [
            step('row-1', 'sheet-row', {
              tab: all.tabs[0]!.id,
              cells: {
                [first!]: '{{ lead.first_name }}',
                [last!]: '{{ lead.last_name }}',
                [email!]: '{{ lead.email }}',
                [phone!]: '{{ lead.phone }}',
                [instrument!]: '{{ answers.instrument }}',
                [campaign!]: '{{ where.campaign }}',
                [teacher!]: `{{ found["teacher.${name}"] }}`,
              },
              key: email,
              whenThere: 'skip',
              each: '',
            }),
            step('tag-1', 'tag', { action: 'add', tag: autumn }),
          ],
          team: [
            step('tell-1', 'tell', {
              colleague: desk,
              subject: 'New trial lesson: {{ lead.full_name }}, {{ answers.instrument }}',
              message: `{{ lead.full_name }} asks for a trial lesson.\n\nInstrument: {{ answers.instrument }}\nTeacher: {{ found["teacher.${name}"] }}, {{ found["teacher.${room}"] }}\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\nFrom: {{ where.campaign }}, {{ where.ad }}\n`,
            }),
            step('hold-1', 'hold-time', {
              colleague: tomas,
              title: 'Call {{ lead.full_name }}',
              time: '08:00',
              day: 'next_day',
              workingDays: true,
              minutes: 15,
            }),
          ],
        },
      },
      {
        id: 'reply',
        at: { ...ANY_REPLY, within: { amount: 10, unit: 'minutes' } },
        first: [],
        cases: [
          {
            id: 'call',
            name: 'They want a call today',
            when: is('happened.text', '1'),
            lanes: {
              lead: [],
              record: [],
              team: [
                step('task-1', 'task', {
                  title: 'Call {{ lead.full_name }} back today',
                  colleague: '',
                  within: { amount: 30, unit: 'minutes' },
                }),
              ],
            },
          },
          {
            id: 'choose',
            name: 'They choose a time',
            when: is('happened.text', '2'),
            lanes: {
              lead: [
                step('ask-1', 'ask', {
                  message: 'Lovely. Which day suits you best, {{ lead.first_name }}?',
                  kind: 'choice',
                  choices: 'Monday\nTuesday\nThursday\nSaturday',
                  saveAs: 'answers.best_day',
                  hint: 'Sorry, we did not get that. Please answer 1, 2, 3 or 4.',
                  most: 3,
                  forDays: 3,
                  needsConsent: true,
                }),
              ],
              record: [],
              team: [],
            },
          },
          {
            id: 'replied',
            name: 'They replied',
            when: is('happened.it', 'yes'),
            lanes: {
              lead: [],
              record: [step('note-1', 'note', { text: 'Replied to the first text: {{ happened.text }}' })],
              team: [],
            },
          },
        ],
        lanes: { lead: [], record: [step('tag-2', 'tag', { action: 'add', tag: silent })], team: [] },
      },
      {
        id: 'day',
        at: {
          kind: 'event',
          event: 'answer',
          words: '',
          sources: [],
          tag: '',
          step: 'ask-1',
          within: { amount: 1, unit: 'days' },
        },
        first: [],
        cases: [
          {
            id: 'said',
            name: 'They said which day',
            when: is('happened.it', 'yes'),
            lanes: {
              lead: [
                step('text-2', 'text', {
                  message:
                    '{{ answers.best_day }} it is. {{ owner.name | default: "Oona" }} rings you to find the hour.',
                  needsConsent: true,
                }),
              ],
              record: [step('list-1', 'list', { action: 'add', list: tips })],
              team: [
                step('task-3', 'task', {
                  title: 'Find an hour on {{ answers.best_day }} for {{ lead.full_name }}',
                  colleague: '',
                  within: { amount: 2, unit: 'hours' },
                }),
              ],
            },
          },
        ],
        lanes: { lead: [], record: [], team: [] },
      },
      {
        id: 'morning',
        at: { kind: 'time_of_day', time: '09:00', day: 'next_day', workingDays: false, whose: 'lead' },
        onlyIf: { field: '', test: 'has_tag', value: silent },
        first: [],
        cases: [
          {
            id: 'piano',
            name: 'Piano',
            when: is('answers.instrument', 'Piano'),
            lanes: {
              lead: [
                meet(
                  'meet-piano',
                  `{{ found["teacher.${name}"] }} has taught the piano at Wrenfield for nine years, and beginners are her favourites.`,
                ),
              ],
              record: [],
              team: [],
            },
          },
          {
            id: 'strings',
            name: 'Strings',
            when: { field: 'answers.instrument', test: 'one_of', value: 'Violin\nCello\nGuitar' },
            lanes: {
              lead: [
                meet(
                  'meet-strings',
                  `{{ found["teacher.${name}"] }} will lend you an instrument for the first lesson, so bring nothing but yourself.`,
                ),
              ],
              record: [],
              team: [],
            },
          },
        ],
        lanes: {
          lead: [meet('meet-other', 'we would love to show you around and let you try things out.')],
          record: [],
          team: [
            step('task-2', 'task', {
              title: 'Call {{ lead.full_name }}',
              colleague: '',
              within: { amount: 4, unit: 'hours' },
            }),
          ],
        },
      },
    ],
  });
  await fillAllLeads(
    use,
    all.tabs[0]!.id,
    [first, last, email, phone, instrument, campaign, teacher] as string[],
    autumn,
  );
  const { revision } = await getWorkflow(use, workflowId);
  await use.write((tx) => saveDraft(tx, workflowId, { revision, draft }));
  await use.write((tx) => putLive(tx, workflowId));
}
