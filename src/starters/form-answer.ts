import { no, Pack, reply, type Starter } from './pack.ts';

const pack = new Pack();
const form = pack.form('Enquiry form', 'Ask us anything');
const desk = pack.somebody('Whoever calls back');

export const formAnswer: Starter = {
  id: 'form-answer',
  name: 'Form: answer at once',
  about:
    'A page of your own to link to or put on your site: whoever fills it in has a text and an email within seconds, and a colleague knows.',
  comesBy: 'form',
  goesOut: ['text', 'email', 'team'],
  file: pack.file(
    'Form: answer at once',
    [form],
    [
      {
        first: [pack.tidy()],
        lead: [
          pack.text(
            'Hi {{ lead.first_name | default: "there" }}, thank you for asking. We call you back today. If another time suits you better, just reply to this text. {{ business.name }}',
          ),
          pack.email(
            'We have your message, {{ lead.first_name | default: "and thank you" }}',
            'Hello {{ lead.first_name | default: "there" }},\n\nthank you for your message. It is with us, and we will call you back today.\n\nIf there is anything to add, reply to this email.\n\nKind regards\n{{ business.name }}',
          ),
        ],
        team: [
          pack.tell(
            desk,
            'New enquiry: {{ lead.full_name }}',
            '{{ lead.full_name }} has filled in {{ source.name }}.\n\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\n\nThey have been answered. Please call them.\n',
          ),
        ],
      },
      {
        at: reply(2, 'days'),
        cases: [
          {
            name: 'No answer yet',
            when: no,
            lead: [
              pack.email(
                'Did we miss each other?',
                'Hello {{ lead.first_name | default: "there" }},\n\nyou wrote to us two days ago. If we have not spoken yet, reply with a time that suits you and we will call.\n\nIf all is settled, there is nothing to do.\n\nKind regards\n{{ business.name }}',
              ),
            ],
          },
        ],
        team: [
          pack.tell(
            desk,
            '{{ lead.full_name }} has replied',
            '{{ lead.full_name }} wrote: {{ happened.text }}\n\nPhone: {{ lead.phone }}\n',
          ),
        ],
      },
    ],
    { endsWhen: ['stop', 'booked'] },
  ),
};
