import { later, Pack, type Starter } from './pack.ts';

const pack = new Pack();
const shop = pack.connected('shop', 'New customers', {
  fields: { first_name: 'first_name', last_name: 'last_name', email: 'email', phone: 'phone' },
  consent: { kind: 'field', key: 'consent', wordingKey: null },
});
const list = pack.nurtureList('Customers');
const label = pack.label('Customer');

export const customerWelcome: Starter = {
  id: 'customer-welcome',
  name: 'New customer: a welcome',
  about: 'Thanks a new customer by email, puts them on your customers list, and asks a week later how they like it.',
  comesBy: 'shop',
  goesOut: ['email', 'list'],
  file: pack.file(
    'New customer: a welcome',
    [shop],
    [
      {
        first: [pack.tidy()],
        lead: [
          pack.email(
            'Welcome, {{ lead.first_name | default: "and thank you" }}',
            'Hello {{ lead.first_name | default: "there" }},\n\nthank you for buying from us. If anything is not as it should be, reply to this email and we put it right.\n\nKind regards\n{{ business.name }}',
            { needsConsent: false },
          ),
        ],
        record: [pack.tag(label), pack.putOn(list)],
      },
      {
        at: later(7, 'days'),
        lead: [
          pack.email(
            'How is it going?',
            'Hello {{ lead.first_name | default: "there" }},\n\nyou have had it for a week now. Are you happy with it? One line in reply is enough, good or bad: we read every one.\n\nKind regards\n{{ business.name }}',
          ),
        ],
      },
    ],
    { samePerson: 'update_only', endsWhen: ['stop'] },
  ),
};
