import { no, Pack, reply, type Starter } from './pack.ts';

const pack = new Pack();
const calls = pack.webhook('Missed calls');
const desk = pack.somebody('Whoever calls back');

export const missedCall: Starter = {
  id: 'missed-call',
  name: 'Missed call: text, call back, ask again',
  about: 'Texts whoever rang and was not answered, sets a task to call back, and asks once more if it stays quiet.',
  comesBy: 'call',
  goesOut: ['text', 'team'],
  file: pack.file(
    'Missed call',
    [calls],
    [
      {
        first: [pack.tidy()],
        lead: [
          pack.text(
            'Sorry we missed your call. What can we help with? Reply here, or we ring you back shortly. {{ business.name }}',
          ),
        ],
        team: [
          pack.task('Call back {{ lead.phone }}', 30, 'minutes', desk),
          pack.tell(
            desk,
            'Missed call from {{ lead.phone }}',
            '{{ lead.full_name }} rang and nobody answered.\n\nPhone: {{ lead.phone }}\n\nThey have been texted. Please call back.\n',
          ),
        ],
      },
      {
        at: reply(4, 'hours'),
        cases: [
          {
            name: 'Still quiet',
            when: no,
            lead: [
              pack.text(
                'We tried to reach you about your call. Is tomorrow a good day? Reply with a time and we ring then. {{ business.name }}',
              ),
            ],
          },
        ],
        team: [
          pack.tell(
            desk,
            'Reply to the missed call: {{ lead.phone }}',
            '{{ happened.text }}\n\nPhone: {{ lead.phone }}\n',
          ),
        ],
      },
    ],
    { samePerson: 'run_again', endsWhen: ['stop', 'booked'] },
  ),
};
