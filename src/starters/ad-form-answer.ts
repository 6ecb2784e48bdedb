import { no, Pack, reply, type Starter } from './pack.ts';

const pack = new Pack();
const form = pack.connected('ad-form', 'Ad form');
const desk = pack.somebody('Whoever calls back');

export const adFormAnswer: Starter = {
  id: 'ad-form-answer',
  name: 'Ad form: answer at once',
  about:
    'Texts and emails whoever fills in your ad form within seconds, tells a colleague, and asks once more after two days of silence.',
  comesBy: 'ad form',
  goesOut: ['text', 'email', 'team'],
  file: pack.file(
    'Ad form: answer at once',
    [form],
    [
      {
        first: [pack.tidy()],
        lead: [
          pack.text(
            'Hi {{ lead.first_name | default: "there" }}, thanks for asking. Reply 1 and we will call you today, or 2 if another day suits you better. {{ business.name }}',
          ),
          pack.email(
            'Thank you for asking, {{ lead.first_name | default: "and welcome" }}',
            'Hello {{ lead.first_name | default: "there" }},\n\nthank you for your interest. We have your details and will be in touch today.\n\nIf you would rather choose a time yourself, reply to this email with two or three that suit you.\n\nKind regards\n{{ business.name }}',
          ),
        ],
        team: [
          pack.tell(
            desk,
            'New lead: {{ lead.full_name }}',
            '{{ lead.full_name }} has filled in {{ source.name }}.\n\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\nCampaign: {{ where.campaign }}\n\nThey have been texted and emailed. Please call them.\n',
          ),
          pack.task('Call {{ lead.full_name }}', 1, 'hours', desk),
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
                'Shall we keep your place?',
                'Hello {{ lead.first_name | default: "there" }},\n\nwe wrote to you two days ago and have not heard back. If you are still interested, just reply with a good time to call.\n\nIf not, there is nothing to do: we will not ask again.\n\nKind regards\n{{ business.name }}',
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
