import {
  changeFrontDoor,
  createChatForm,
  getFrontDoor,
  putFormLive,
  saveChatForm,
} from '../app/messages/chat-forms.ts';
import { createSheet } from '../app/sheets/sheets.ts';
import { appendRows } from '../app/sheets/tab-files.ts';
import { addSource } from '../app/sources/sources.ts';
import type { Use } from '../app/use.ts';
import { putLive } from '../app/workflows/live.ts';
import { createWorkflow, getWorkflow, saveDraft } from '../app/workflows/workflows.ts';
import type { ChatForm } from '../core/form/chat-form.ts';
import { FrontDoor } from '../core/message/front-door.ts';
import { Definition } from '../core/workflow/definition.ts';
import { Person } from '../db/entities/business.ts';
import { COLLEAGUES } from './world.ts';

const ORDERS = [
  ['WM-2041', 'Violin strings, set', 'Sent on Monday'],
  ['WM-2042', 'Cello bow, student', 'Being rehaired, ready on Friday'],
  ['WM-2043', 'Sheet music: first pieces', 'Ready to collect'],
];
const BOUGHT = 'Something I have bought';
const LESSONS = 'Lessons, or something new';

const question = (
  key: string,
  label: string,
  kind: ChatForm['screens'][number]['fields'][number]['kind'],
  required: boolean,
  more: { choices?: string[]; help?: string } = {},
) => ({ key, label, kind, required, help: '', choices: [], ...more });

export const FIRST_CONTACT: ChatForm = {
  heading: 'Nice to meet you',
  open: 'Tell us who you are',
  screens: [
    {
      title: 'Who are you?',
      fields: [question('first_name', 'First name', 'short', true), question('last_name', 'Last name', 'short', false)],
    },
    { title: 'Where else can we reach you?', fields: [question('email', 'Email', 'email', true)] },
  ],
  consent: {
    asked: true,
    required: true,
    text: 'Wrenfield Music School may answer me in chat and by email, and keep what I write. I can stop this at any time by writing STOP.',
    channels: ['chat', 'email'],
    purposes: ['service'],
    wordings: [],
  },
  thanks: 'Thank you! We write to you here in a moment.',
};

const HELP: ChatForm = {
  heading: 'What is it about?',
  open: 'Choose a desk',
  screens: [
    {
      title: '',
      fields: [
        question('about', 'About', 'choice', true, { choices: [BOUGHT, LESSONS] }),
        question('order_reference', 'Order reference', 'short', false, { help: 'Like WM-2041' }),
        question('wish', 'In a few words', 'short', false),
        question('newsletter', 'Send me the newsletter now and then', 'tick', false),
      ],
    },
  ],
  consent: { asked: false, required: false, text: '', channels: [], purposes: [], wordings: [] },
  thanks: 'Thank you, somebody is on it.',
};

async function form(use: Use, name: string, content: ChatForm): Promise<string> {
  const { id } = await use.write((tx) => createChatForm(tx, { name }));
  await use.write((tx) => saveChatForm(tx, id, content));
  await putFormLive(use, id);
  return id;
}

/** What happens in chat: a front door with its form, and a workflow that brings people to the right desk, with the order they ask about. */
export async function growChat(use: Use): Promise<void> {
  const [first, help] = [await form(use, 'First contact', FIRST_CONTACT), await form(use, 'What is it about?', HELP)];
  const door = (await getFrontDoor(use))!;
  await use.write((tx) =>
    changeFrontDoor(
      tx,
      FrontDoor.parse({
        on: true,
        form: first,
        greeting: 'Thank you, {{ lead.first_name }}! Lovely to have you here.',
      }),
    ),
  );
  const orders = await use.write((tx) => createSheet(tx, { name: 'Orders', columns: ['Reference', 'What', 'State'] }));
  const [reference, what, state] = orders.tabs[0]!.columns.map(({ id }) => id);
  await use.write((tx) =>
    appendRows(
      tx,
      orders.tabs[0]!.id,
      ORDERS.map(([a, b, c]) => ({ [reference!]: a!, [what!]: b!, [state!]: c! })),
      'orders.csv',
    ),
  );
  const source = await addSource(use, {
    ...{ kind: 'chat-message', connectionId: door.connectionId, when: 'form', words: '', form: first },
    name: 'First contact completed',
  });
  const people = await use.em.find(Person, { email: COLLEAGUES.map((colleague) => colleague.email) });
  const idOf = (n: number) => people.find((person) => person.email === COLLEAGUES[n]!.email)!.id;
  const step = (id: string, kind: string, settings: Record<string, unknown>) => ({
    ...{ id, kind, on: true, note: '', settings },
  });
  const say = (id: string, message: string) => step(id, 'chat', { message, needsConsent: true, whenShut: 'skip' });
  const asks =
    '{{ lead.full_name }} writes in chat.\n\n{{ answers.wish }}\n\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\n';
  const draft = Definition.parse({
    sources: [source.id],
    rules: { samePerson: 'run_again' },
    moments: [
      {
        id: 'hello',
        at: { kind: 'on_arrival' },
        first: [],
        lanes: {
          lead: [
            step('ask-about', 'chat', {
              ...{ message: 'What can we do for you?', closing: 'It takes two taps.', form: help },
              ...{ needsConsent: true, whenShut: 'skip' },
            }),
          ],
          record: [],
          team: [],
        },
      },
      {
        id: 'told',
        at: {
          ...{ kind: 'event', event: 'form', words: '', sources: [], tag: '', step: 'ask-about' },
          within: { amount: 1, unit: 'days' },
        },
        first: [
          step('order', 'look-up', {
            ...{ name: 'Order', tab: orders.tabs[0]!.id, column: reference, value: '{{ answers.order_reference }}' },
            ...{ whenNone: 'blanks', instead: { [what!]: 'no order of that reference', [state!]: 'we look into it' } },
          }),
        ],
        cases: [
          {
            id: 'bought',
            name: 'After-sales',
            when: { field: 'answers.about', test: 'is', value: BOUGHT },
            lanes: {
              lead: [
                say(
                  'order-state',
                  `{{ answers.order_reference | default: "Your order" }}: {{ found["order.${what}"] }}. {{ found["order.${state}"] }}. Tomas from the shop writes to you here.`,
                ),
              ],
              record: [],
              team: [
                step('tell-shop', 'tell', {
                  colleague: idOf(0),
                  subject: `After-sales in chat: {{ lead.full_name }}, {{ answers.order_reference }}`,
                  message: `${asks}Order: {{ answers.order_reference }}, {{ found["order.${what}"] }}, {{ found["order.${state}"] }}\n`,
                }),
              ],
            },
          },
          {
            id: 'new',
            name: 'Lessons, or something new',
            when: { field: 'answers.about', test: 'is', value: LESSONS },
            lanes: {
              lead: [
                say('desk-comes', 'The front desk writes to you here, {{ lead.first_name }}, usually within the hour.'),
              ],
              record: [step('note-wish', 'note', { text: 'Asked in chat: {{ answers.wish }}' })],
              team: [
                step('tell-desk', 'tell', {
                  ...{ colleague: idOf(1), subject: 'Somebody new in chat: {{ lead.full_name }}', message: asks },
                }),
              ],
            },
          },
        ],
        lanes: {
          lead: [],
          record: [],
          team: [
            step('tell-silent', 'tell', {
              ...{ colleague: idOf(1), subject: 'In chat and silent: {{ lead.full_name }}', message: asks },
            }),
          ],
        },
      },
    ],
  });
  const { id } = await use.write((tx) => createWorkflow(tx, { name: 'Chat desk', folder: 'School' }));
  const { revision } = await getWorkflow(use, id);
  await use.write((tx) => saveDraft(tx, id, { revision, draft }));
  await use.write((tx) => putLive(tx, id));
}
