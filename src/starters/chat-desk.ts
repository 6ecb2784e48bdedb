import { Pack, type Starter } from './pack.ts';

const pack = new Pack();
const chat = pack.connected('chat-message', 'First messages in chat', {
  fields: { first_name: 'first_name', phone: 'phone' },
  consent: { kind: 'not_asked' },
});
const first = pack.somebody('Sales');
const second = pack.somebody('Service');
const ask = pack.any('ask', {
  ...{
    by: 'chat',
    message: 'Hello! What is it about?',
    kind: 'choice',
    choices: 'Something new\nSomething I have already',
  },
  ...{ saveAs: 'answers.about', hint: 'Please reply with 1 or 2.', most: 2, forDays: 1, needsConsent: false },
});

export const chatDesk: Starter = {
  id: 'chat-desk',
  name: 'Chat: to the right desk from the first message',
  about: 'Asks a newcomer in chat what it is about, gives them to the right colleague, and says who will answer.',
  comesBy: 'chat',
  goesOut: ['chat', 'team'],
  file: pack.file(
    'Chat: to the right desk',
    [chat],
    [
      { lead: [ask] },
      {
        at: {
          ...{ kind: 'event', event: 'answer', words: '', sources: [], tag: '', list: '', stage: '', step: ask.id },
          within: { amount: 4, unit: 'hours' },
        },
        first: [
          pack.any('assign', {
            ...{ by: 'field', among: [first], field: 'answers.about', keep: true },
            owners: [
              { value: 'Something new', colleague: first },
              { value: 'Something I have already', colleague: second },
            ],
          }),
        ],
        lead: [
          pack.any('chat', {
            message: 'Thank you. {{ owner.name | default: "One of us" }} reads along and answers you here.',
            needsConsent: false,
            whenShut: 'skip',
          }),
        ],
        team: [
          pack.tell(
            'owner',
            'In chat: {{ lead.full_name | default: "somebody new" }}',
            'About: {{ answers.about }}\nPhone: {{ lead.phone }}\n\nPlease answer in Conversations.\n',
          ),
        ],
      },
    ],
    { samePerson: 'update_only', endsWhen: ['stop'] },
  ),
};
