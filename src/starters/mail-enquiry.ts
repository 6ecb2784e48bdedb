import { Pack, type Starter } from './pack.ts';

const pack = new Pack();
const mail = pack.mailbox('Enquiries by mail');
const desk = pack.somebody('Whoever answers');

export const mailEnquiry: Starter = {
  id: 'mail-enquiry',
  name: 'Mail enquiry: answered, with the company looked up',
  about:
    'Says at once that a mail has arrived, looks up which company it is from, and hands it to a colleague with all that is known.',
  comesBy: 'mail',
  goesOut: ['email', 'team'],
  file: pack.file(
    'Mail enquiry',
    [mail],
    [
      {
        first: [pack.tidy(), pack.any('company', { whenNone: 'blanks', keepDays: 30 })],
        lead: [
          pack.email(
            'We have your message',
            'Hello {{ lead.first_name | default: "there" }},\n\nthank you for writing. A person reads your message now and answers you today.\n\nKind regards\n{{ business.name }}',
            { needsConsent: false },
          ),
        ],
        team: [
          pack.tell(
            desk,
            'Enquiry: {{ lead.full_name }}, {{ found["company.name"] | default: "no company known" }}',
            'From: {{ lead.full_name }}, {{ lead.email }}\nCompany: {{ found["company.name"] }}\nSector: {{ found["company.sector"] }}\nTown: {{ found["company.town"] }}\nPeople: {{ found["company.employees"] }}\n\n{{ answers.subject }}\n\n{{ answers.text }}\n',
          ),
          pack.task('Answer {{ lead.full_name }}', 4, 'hours', desk),
        ],
      },
    ],
    { samePerson: 'run_again', endsWhen: ['stop'] },
  ),
};
