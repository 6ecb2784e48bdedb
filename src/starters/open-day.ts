import { NEXT_MORNING, Pack, type Starter } from './pack.ts';

const pack = new Pack();
const form = pack.form('Open day sign-in', 'Welcome to our open day');
const label = pack.label('Open day');
const host = pack.somebody('Whoever welcomes them');

export const openDay: Starter = {
  id: 'open-day',
  name: 'Open day: sign in, hear from us next morning',
  about: 'A page your guests fill in at the door: a text while they are still there, and a letter the next morning.',
  comesBy: 'form',
  goesOut: ['text', 'email', 'team'],
  file: pack.file(
    'Open day',
    [form],
    [
      {
        first: [pack.tidy()],
        lead: [
          pack.text(
            'Lovely to have you here, {{ lead.first_name | default: "and welcome" }}. If a question comes up today, reply to this text: we are in the building. {{ business.name }}',
          ),
        ],
        record: [pack.tag(label)],
        team: [
          pack.tell(
            host,
            'Just signed in: {{ lead.full_name }}',
            '{{ lead.full_name }} has just signed in.\n\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\n',
          ),
        ],
      },
      {
        at: NEXT_MORNING,
        lead: [
          pack.email(
            'Thank you for coming yesterday',
            'Hello {{ lead.first_name | default: "there" }},\n\nit was good to have you at our open day. If you saw something you would like to try, reply to this email and tell us what: we keep a time for you this week.\n\nKind regards\n{{ business.name }}',
          ),
        ],
      },
    ],
    { samePerson: 'update_only', endsWhen: ['stop', 'booked'] },
  ),
};
