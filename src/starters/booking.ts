import { Pack, SPOKEN, type Starter } from './pack.ts';

const pack = new Pack();
const calendar = pack.connected('booking-calendar', 'Bookings', {
  fields: { full_name: 'name', email: 'email', phone: 'phone' },
  consent: SPOKEN,
});
const host = pack.somebody('Whoever sees them');
const BOOKED = { field: 'answers.event', test: 'one_of', value: 'booked\nconfirmed\nmoved' };

export const booking: Starter = {
  id: 'booking',
  name: 'Booking: confirmed, reminded, missed',
  about: 'Confirms an appointment at once, reminds them the day before, and writes kindly to whoever did not come.',
  comesBy: 'booking',
  goesOut: ['text', 'email', 'team'],
  file: pack.file(
    'Booking: confirmed, reminded, missed',
    [calendar],
    [
      {
        first: [pack.tidy()],
        cases: [
          {
            name: 'They did not come',
            when: { field: 'answers.event', test: 'is', value: 'no-show' },
            lead: [
              pack.text(
                'Hi {{ lead.first_name | default: "there" }}, we missed you today. No harm done: reply with a day that suits you and we find a new time. {{ business.name }}',
              ),
            ],
            team: [pack.task('Ring {{ lead.full_name }}: they did not come', 1, 'days', host)],
          },
          {
            name: 'Cancelled',
            when: { field: 'answers.event', test: 'is', value: 'cancelled' },
            lead: [
              pack.email(
                'Your appointment is cancelled',
                'Hello {{ lead.first_name | default: "there" }},\n\nyour appointment is cancelled, as you asked. When you would like a new one, reply to this email with two or three times.\n\nKind regards\n{{ business.name }}',
              ),
            ],
          },
        ],
        lead: [
          pack.text(
            'Hi {{ lead.first_name | default: "there" }}, your appointment is booked: {{ answers["appointment.title"] }}. We remind you the day before. {{ business.name }}',
          ),
        ],
        team: [
          pack.tell(
            host,
            'Booked: {{ lead.full_name }}',
            '{{ answers["appointment.title"] }}, {{ answers["appointment.start"] }}\n{{ answers["appointment.calendar"] }}\n\nPhone: {{ lead.phone }}\nNote: {{ answers["appointment.note"] }}\n',
          ),
        ],
      },
      {
        at: {
          ...{
            kind: 'on_date',
            field: 'answers["appointment.start"]',
            side: 'before',
            span: { amount: 1, unit: 'days' },
          },
          ...{ time: null, whose: 'business', ifPassed: 'skip' },
        },
        onlyIf: BOOKED,
        lead: [
          pack.text(
            'See you tomorrow, {{ lead.first_name | default: "as arranged" }}: {{ answers["appointment.title"] }}. If you cannot come, just reply. {{ business.name }}',
          ),
        ],
      },
    ],
    { samePerson: 'run_again', endsWhen: ['stop'] },
  ),
};
